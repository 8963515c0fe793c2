//! One stage over a passage: from rest, or round after round until nothing changes any more.

use super::rendered::{BLOCK, Moved};
use crate::path::Chain;
use clear_bend_effects::Quantity;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

/// A round goes on for at most this long until nothing changes any more, s.
const LONGEST_SETTLING_S: f64 = 30.0;
/// Samples that differ by less than this share of the loudest (100 dB), and gains that differ by less than so many dB,
/// are the same from one round to the next.
const SAME_SHARE: f32 = 1e-5;
const SAME_DB: f32 = 1e-3;
/// What has been the same for this long, and for as long as the stage remembers, stays the same, s.
const SAME_S: f64 = 0.05;

/// Everything that a chain reports of a stage over its last block.
fn reported(chain: &Chain, index: usize) -> impl Iterator<Item = (Quantity, usize, &[f32])> {
    Quantity::ALL.into_iter().flat_map(move |quantity| {
        (0..).map_while(move |part| Some((quantity, part, chain.trace(index, quantity, part)?)))
    })
}

/// Runs one stage from rest over a signal.
pub(super) fn once(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Vec<Moved> {
    let frames = signal.frames();
    // What the stage delays is put back in its place, so that before and after stay aligned.
    let late = chain.latency_of(index);
    signal.resize(frames + late);
    let mut trace = Vec::new();
    let mut at = 0;
    signal.for_each_block(BLOCK, |io| {
        let from = at;
        at += io.first().map_or(0, |c| c.len());
        chain.process_stage(index, io, from);
        for (quantity, part, values) in reported(chain, index) {
            let room = || Vec::with_capacity(frames + late);
            kept(&mut trace, quantity, part, room).extend_from_slice(values);
        }
    });
    let moved = trace.iter_mut().map(|moved: &mut Moved| &mut moved.values);
    signal.channels_mut().iter_mut().chain(moved).for_each(|samples| drop(samples.drain(..late)));
    trace
}

/// The values that are kept of a part, or new ones.
fn kept(
    trace: &mut Vec<Moved>,
    quantity: Quantity,
    part: usize,
    room: impl FnOnce() -> Vec<f32>,
) -> &mut Vec<f32> {
    let at = trace.iter().position(|moved| moved.quantity == quantity && moved.part == part);
    let at = at.unwrap_or_else(|| {
        trace.push(Moved { quantity, part, values: room() });
        trace.len() - 1
    });
    &mut trace[at].values
}

/// Runs one stage over a loop until a round is as the one before: what comes later takes the place of what came
/// earlier, until nothing has changed for as long as the stage remembers.
pub(super) fn round(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Vec<Moved> {
    let frames = signal.frames();
    let mut trace = Vec::new();
    if frames == 0 {
        return trace;
    }
    let rate_hz = signal.rate_hz();
    let late = chain.latency_of(index);
    // What never ends, or does not for long, is left then.
    let longest = cast::frames(LONGEST_SETTLING_S, rate_hz);
    let still = cast::frames(SAME_S, rate_hz) + chain.memory_of(index).min(longest);
    let end = late + frames + longest.max(still);
    let input = signal.clone();
    let mut block = vec![vec![0.0; BLOCK]; input.channels().len()];
    let (mut at, mut same, mut loudest) = (0, 0, 0.0f32);
    while at < late + frames || (same < still && at < end) {
        // A block ends at the seam.
        let place = at % frames;
        let n = BLOCK.min(frames - place);
        let mut io: Vec<&mut [f32]> = block.iter_mut().map(|channel| &mut channel[..n]).collect();
        for (block, input) in io.iter_mut().zip(input.channels()) {
            block.copy_from_slice(&input[place..place + n]);
        }
        chain.process_stage(index, &mut io, place);
        let put = |to: &mut [f32], from: &[f32], tolerance: f32| {
            let mut differs = false;
            // What comes before the first sample that has come through is no part of the round.
            let first = late.saturating_sub(at).min(n);
            each_part((at + first).saturating_sub(late), first..n, frames, |part, place| {
                let (from, to) = (&from[part], &mut to[place]);
                differs |= from.iter().zip(&*to).any(|(new, old)| (new - old).abs() > tolerance);
                to.copy_from_slice(from);
            });
            differs
        };
        let mut differs = false;
        for (quantity, part, values) in reported(chain, index) {
            let of_part = kept(&mut trace, quantity, part, || vec![0.0; frames]);
            differs |= put(of_part, values, if quantity == Quantity::GainDb { SAME_DB } else { f32::MAX });
        }
        for (channel, out) in signal.channels_mut().iter_mut().zip(&io) {
            loudest = out.iter().fold(loudest, |most, x| most.max(x.abs()));
            differs |= put(channel, out, SAME_SHARE * loudest);
        }
        at += n;
        same = if differs || at < late + frames { 0 } else { same + n };
    }
    trace
}

/// The parts of a range of a block, which begins at a place of a loop that goes round, and where each lies in the loop.
fn each_part(
    mut at: usize,
    block: std::ops::Range<usize>,
    frames: usize,
    mut each: impl FnMut(std::ops::Range<usize>, std::ops::Range<usize>),
) {
    let mut done = block.start;
    while done < block.end {
        let place = at % frames;
        let n = (block.end - done).min(frames - place);
        each(done..done + n, place..place + n);
        (done, at) = (done + n, at + n);
    }
}
