//! A path over a whole passage, as it is measured and exported.

use std::borrow::Cow;

use crate::Buffer;
use crate::cast;
use crate::effects::{Quantity, Setup};
use crate::path::{Chain, Path, Play};

/// Frames per block. The result does not depend on it; this keeps a block of stereo in the first cache.
const BLOCK: usize = 512;

/// What is left after the end is followed for at most this long, s.
pub const LONGEST_TAIL_S: f64 = 30.0;
/// It has ended when it is this far under the loudest sample of the passage, linear (60 dB).
const TAIL_ENDS: f32 = 1e-3;
/// A round goes on for at most this long until nothing changes any more, s.
const LONGEST_SETTLING_S: f64 = 30.0;
/// Samples that differ by less than this share of the loudest (100 dB), and gains that differ by less than so many dB,
/// are the same from one round to the next.
const SAME_SHARE: f32 = 1e-5;
const SAME_DB: f32 = 1e-3;
/// What has been the same for this long, and for as long as the stage remembers, stays the same, s.
const SAME_S: f64 = 0.05;

/// A passage after a path.
#[derive(Debug, Clone)]
pub struct Rendered {
    /// The signal that leaves the path, as long as the passage.
    pub after: Buffer,
    /// The gain reduction of every stage over time, dB per frame; none for stages that report none or that
    /// were switched off.
    pub gains_db: Vec<Option<Vec<f32>>>,
    /// The gain reduction of every band of every stage over time, dB per frame; empty for stages without bands.
    pub band_gains_db: Vec<Vec<Vec<f32>>>,
    /// What else every stage has moved over time: delays and frequencies.
    pub moved: Vec<Vec<Moved>>,
    /// By how many frames the gain of every stage may move before the sound does that moves it.
    pub ahead: Vec<usize>,
    /// What is left after the end, until it is 60 dB under the loudest sample of the passage or 30 s are over; nothing
    /// in a round.
    pub tail: Buffer,
    /// The gain reduction of every stage over the tail, as above.
    pub tail_gains_db: Vec<Option<Vec<f32>>>,
}

impl Rendered {
    /// The signal that leaves the path, and its tail after it.
    #[must_use]
    pub fn with_tail(&self) -> Cow<'_, Buffer> {
        if self.tail.frames() == 0 {
            return Cow::Borrowed(&self.after);
        }
        let mut whole = self.after.clone();
        for (channel, tail) in whole.channels_mut().iter_mut().zip(self.tail.channels()) {
            channel.extend_from_slice(tail);
        }
        Cow::Owned(whole)
    }
}

/// What a stage has moved over time.
#[derive(Debug, Clone, PartialEq)]
pub struct Moved {
    /// What it is.
    pub quantity: Quantity,
    /// 0 for the whole stage, or the number of its band, voice or section, from 1.
    pub part: usize,
    /// Its value at every frame.
    pub values: Vec<f32>,
}

/// Everything that a chain reports of a stage over its last block.
fn reported(chain: &Chain, index: usize) -> impl Iterator<Item = (Quantity, usize, &[f32])> {
    Quantity::ALL.into_iter().flat_map(move |quantity| {
        (0..).map_while(move |part| Some((quantity, part, chain.trace(index, quantity, part)?)))
    })
}

/// Runs a path over a passage; calls `after_stage` with the passage after each stage but the last.
pub fn render_with(
    path: &Path,
    before: &Buffer,
    play: Play,
    mut after_stage: impl FnMut(&Buffer),
) -> Rendered {
    let frames = before.frames();
    let rate_hz = before.rate_hz();
    let mut chain = Chain::new(path, Setup { rate_hz, max_block: BLOCK });
    chain.set_passage(play, frames);
    let mut signal = before.clone();
    if play == Play::Once {
        signal.resize(frames + chain.tail().min(cast::frames(LONGEST_TAIL_S, rate_hz)));
    }
    let last = path.stages.len().saturating_sub(1);
    let mut traces = Vec::with_capacity(path.stages.len());
    for index in 0..path.stages.len() {
        traces.push(match play {
            Play::Once => once(&mut chain, index, &mut signal),
            Play::Round => round(&mut chain, index, &mut signal),
        });
        if index < last {
            if signal.frames() == frames {
                after_stage(&signal);
            } else {
                after_stage(&signal.slice(0..frames));
            }
        }
    }
    if path.stages.is_empty() {
        signal.channels_mut().iter_mut().for_each(|channel| crate::audio::sanitise(channel));
    }
    let end = frames + tail_frames(&signal, frames);
    let tail = signal.slice(frames..end);
    signal.resize(frames);
    let gain = |moved: &Moved, part: usize| moved.quantity == Quantity::GainDb && moved.part == part;
    let whole = |all: &Vec<Moved>| all.iter().find(|moved| gain(moved, 0)).map(|moved| moved.values.clone());
    let mut gains_db: Vec<Option<Vec<f32>>> = traces.iter().map(whole).collect();
    let tail_of = |gain: &mut Option<Vec<f32>>| {
        gain.as_mut().map(|gain| {
            let tail = gain.get(frames..end).unwrap_or_default().to_vec();
            gain.truncate(frames);
            tail
        })
    };
    let tail_gains_db = gains_db.iter_mut().map(tail_of).collect();
    traces.iter_mut().flatten().for_each(|moved| moved.values.truncate(frames));
    Rendered {
        after: signal,
        ahead: (0..path.stages.len()).map(|index| chain.ahead_of(index)).collect(),
        gains_db,
        band_gains_db: traces
            .iter()
            .map(|all| {
                let bands = all.iter().filter(|moved| moved.part > 0 && gain(moved, moved.part));
                bands.map(|moved| moved.values.clone()).collect()
            })
            .collect(),
        moved: traces
            .into_iter()
            .map(|all| all.into_iter().filter(|moved| moved.quantity != Quantity::GainDb).collect())
            .collect(),
        tail,
        tail_gains_db,
    }
}

/// For how many frames after the passage what is left is not yet 60 dB under the loudest sample of the passage.
fn tail_frames(signal: &Buffer, frames: usize) -> usize {
    let channels = signal.channels();
    let loudest = channels.iter().flat_map(|c| &c[..frames]).fold(0.0, |most: f32, x| most.max(x.abs()));
    let heard = |x: &f32| x.abs() > TAIL_ENDS * loudest;
    channels.iter().filter_map(|c| Some(c[frames..].iter().rposition(heard)? + 1)).max().unwrap_or(0)
}

/// Runs one stage from rest over a signal.
fn once(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Vec<Moved> {
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
fn round(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Vec<Moved> {
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

/// Runs a path, from rest, over a passage.
#[must_use]
pub fn render(path: &Path, before: &Buffer) -> Rendered {
    render_with(path, before, Play::Once, |_| {})
}
