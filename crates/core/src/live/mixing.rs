//! Sounds from memory, and shares of them.

use crate::Buffer;
use crate::dsp::Ramp;

/// Adds a share of a signal, which may be moving, to what is heard.
pub(super) fn add_share(out: &mut [&mut [f32]; 2], ramp: &mut Ramp, from: &[Vec<f32>; 2], share: &mut [f32]) {
    if ramp.rests_at(0.0) {
        return;
    }
    ramp.fill(share);
    for (out, from) in out.iter_mut().zip(from) {
        for ((out, from), share) in out.iter_mut().zip(from).zip(&*share) {
            *out += share * from;
        }
    }
}

/// Copies the next frames of a sound that is played once; silence after it. Mono goes to both sides.
pub(super) fn read_once(source: &Buffer, position: usize, out: &mut [Vec<f32>; 2], frames: usize) {
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

/// Copies the next frames of a loop; silence where there is nothing. Mono goes to both sides.
pub(super) fn read_loop(source: &Buffer, position: usize, out: &mut [Vec<f32>; 2], frames: usize) {
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
