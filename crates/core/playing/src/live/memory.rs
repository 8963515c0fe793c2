//! What comes from memory: source, what plays beside it, reference, and where each of them is.

use super::room::Room;
use crate::path::Play;
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::dsp::Ramp;

/// The sounds that are played as they are, and the place to which they have come.
pub(super) struct Memory {
    pub(super) source: Buffer,
    /// The other stems, summed; as long as the source, or longer by a tail.
    pub(super) backing: Buffer,
    pub(super) reference: Buffer,
    pub(super) play: Play,
    pub(super) position: usize,
    pub(super) reference_position: usize,
}

impl Memory {
    /// Silence at a rate.
    pub(super) fn empty(rate_hz: u32) -> Result<Self, Refusal> {
        let silence = Buffer::new(rate_hz, vec![Vec::new(); 2])?;
        Ok(Self {
            source: silence.clone(),
            backing: silence.clone(),
            reference: silence,
            play: Play::Round,
            position: 0,
            reference_position: 0,
        })
    }

    /// Whether it has been played to its end.
    pub(super) fn has_ended(&self) -> bool {
        self.position >= self.source.frames()
    }

    /// Reads the next block of the source, and of what is heard beside it, and goes on.
    pub(super) fn read(&mut self, n: usize, room: &mut Room, beside: bool, reference: Option<&mut Ramp>) {
        read(self.play, &self.source, self.position, &mut room.before, n);
        if beside {
            read(self.play, &self.backing, self.position, &mut room.backing, n);
        } else {
            room.backing.iter_mut().for_each(|channel| channel[..n].fill(0.0));
        }
        if let Some(gain) = reference {
            read_loop(&self.reference, self.reference_position, &mut room.reference, n);
            let [left, right] = &mut room.reference;
            gain.scale(&mut [&mut left[..n], &mut right[..n]]);
            self.reference_position = (self.reference_position + n) % self.reference.frames().max(1);
        }
        self.position += n;
        if self.play == Play::Round {
            self.position %= self.source.frames();
        }
    }

    /// Frames that have passed since the source ended, for who hears it so many frames late; none while it goes round.
    pub(super) fn past_end(&self, late: usize) -> Option<usize> {
        let past = self.position.saturating_sub(self.source.frames() + late);
        (self.play == Play::Once && past > 0).then_some(past)
    }

    /// Frames for which what plays beside is heard after the source has ended.
    pub(super) fn backing_tail(&self) -> usize {
        self.backing.frames().saturating_sub(self.source.frames())
    }
}

/// Copies the next frames of a sound as it is played. Mono goes to both sides.
pub(super) fn read(play: Play, source: &Buffer, position: usize, out: &mut [Vec<f32>; 2], frames: usize) {
    match play {
        Play::Once => read_once(source, position, out, frames),
        Play::Round => read_loop(source, position, out, frames),
    }
}

/// Of a sound that is played once: silence after it.
fn read_once(source: &Buffer, position: usize, out: &mut [Vec<f32>; 2], frames: usize) {
    let channels = source.channels();
    let right = channels.len() - 1;
    let there = frames.min(source.frames().saturating_sub(position));
    for (out, from) in out.iter_mut().zip([&channels[0], &channels[right]]) {
        if there > 0 {
            out[..there].copy_from_slice(&from[position..position + there]);
        }
        out[there..frames].fill(0.0);
    }
}

/// Of a loop: silence where there is nothing.
fn read_loop(source: &Buffer, position: usize, out: &mut [Vec<f32>; 2], frames: usize) {
    let channels = source.channels();
    let right = channels.len() - 1;
    let length = source.frames();
    let [out_left, out_right] = out;
    if length == 0 {
        out_left[..frames].fill(0.0);
        out_right[..frames].fill(0.0);
        return;
    }
    let (mut done, mut position) = (0, position % length);
    while done < frames {
        let run = (frames - done).min(length - position);
        let (from, to) = (position..position + run, done..done + run);
        out_left[to.clone()].copy_from_slice(&channels[0][from.clone()]);
        out_right[to].copy_from_slice(&channels[right][from]);
        done += run;
        position = (position + run) % length;
    }
}
