//! Shared paths for the ear: what the stem at work and the others send to each, and what comes back into the sum.

use super::lane::Lane;
use super::memory::read;
use crate::mix::MOST_SHARED;
use crate::mix::{Send, Strip};
use crate::path::{Path, Play};
use clear_bend_effects::{MOVE_S, Setup};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, Ramp};
use clear_bend_sound::level::gain_from_db;

/// A shared path at work.
pub(super) struct Return {
    /// Its path. What comes back waits in the lane's delays for the slowest of the returns.
    pub(super) lane: Lane,
    /// What the other stems send to it, as long as the source or with a tail.
    pub(super) feed: Buffer,
    /// The same, as late as what the stem at work sends.
    pub(super) aligned: [Delay; 2],
    /// Gains of what is taken from the stem at work before and after its strip.
    taps: [Ramp; 2],
    /// Gains of left and right of what comes back.
    gains: [Ramp; 2],
    block: [Vec<f32>; 2],
}

impl Return {
    fn new(setup: Setup) -> Self {
        let move_frames = cast::frames(MOVE_S, setup.rate_hz);
        Self {
            lane: Lane::new(setup, &Path::default(), 1.0, 0),
            feed: Buffer::empty(setup.rate_hz),
            aligned: [(); 2].map(|()| Delay::new(0)),
            taps: [(); 2].map(|()| Ramp::new(0.0, move_frames)),
            gains: [(); 2].map(|()| Ramp::new(1.0, move_frames)),
            block: [(); 2].map(|()| vec![0.0; setup.max_block]),
        }
    }

    pub(super) fn all(setup: Setup) -> Vec<Self> {
        (0..MOST_SHARED).map(|_| Self::new(setup)).collect()
    }

    /// Whether anything comes into it, or may still come out.
    pub(super) fn works(&self) -> bool {
        self.feed.frames() > 0 || self.taps.iter().any(|tap| !tap.rests_at(0.0))
    }

    /// Whether it runs in this block.
    pub(super) fn runs(&self) -> bool {
        !self.lane.rests && self.works() && self.lane.chain.ready()
    }

    /// Begins a block with what the others send.
    pub(super) fn begin(&mut self, play: Play, position: usize, n: usize) {
        read(play, &self.feed, position, &mut self.block, n);
        for (delay, channel) in self.aligned.iter_mut().zip(&mut self.block) {
            delay.process(&mut channel[..n]);
        }
    }

    /// Adds what the stem at work sends: as it is before its strip (0) or after it (1).
    pub(super) fn take(&mut self, tap: usize, from: &[&mut [f32]; 2], gain: &mut [f32]) {
        let ramp = &mut self.taps[tap];
        if ramp.rests_at(0.0) {
            return;
        }
        ramp.fill(gain);
        for (into, from) in self.block.iter_mut().zip(from) {
            into.iter_mut().zip(from.iter().zip(&*gain)).for_each(|(into, (x, gain))| *into += gain * x);
        }
    }

    /// Runs its path over the block, whose first frame is `late` frames after the frame `at` of the passage, and adds what comes back.
    pub(super) fn run(
        &mut self,
        n: usize,
        (at, late): (usize, usize),
        sum: &mut [Vec<f32>; 2],
        gain: &mut [f32],
    ) {
        let [left, right] = &mut self.block;
        let (left, right) = (&mut left[..n], &mut right[..n]);
        self.lane.chain.process_late(&mut [&mut *left, &mut *right], at, late);
        for (((x, delay), ramp), sum) in
            [left, right].into_iter().zip(&mut self.lane.aligned).zip(&mut self.gains).zip(sum)
        {
            delay.process(x);
            ramp.fill(gain);
            sum.iter_mut().zip(x.iter().zip(&*gain)).for_each(|(sum, (x, gain))| *sum += gain * *x);
        }
    }

    /// What the stem at work sends to it; nothing where it sends nothing.
    pub(super) fn set_send(&mut self, send: Option<Send>) {
        let gain = send.map_or(0.0, |send| gain_from_db(send.level_db));
        let before = send.is_some_and(|send| send.before_strip);
        self.taps[0].set(if before { gain } else { 0.0 });
        self.taps[1].set(if before { 0.0 } else { gain });
    }

    /// How what comes back sits in the sum.
    pub(super) fn set_strip(&mut self, strip: Strip) {
        let gains = if strip.mute { [0.0; 2] } else { strip.gains() };
        self.gains.iter_mut().zip(gains).for_each(|(ramp, gain)| ramp.set(gain));
    }

    /// Frames for which it is heard after its input has ended.
    pub(super) fn tail(&self) -> usize {
        if self.works() { self.lane.chain.tail() } else { 0 }
    }

    pub(super) fn reset(&mut self) {
        self.lane.chain.reset();
        self.lane.aligned.iter_mut().chain(&mut self.aligned).for_each(Delay::reset);
    }
}
