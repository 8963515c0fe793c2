//! A path over a whole passage, as it is measured and exported.

use crate::Buffer;
use crate::cast;
use crate::effects::Setup;
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
    pub fn with_tail(&self) -> Buffer {
        let mut whole = self.after.clone();
        for (channel, tail) in whole.channels_mut().iter_mut().zip(self.tail.channels()) {
            channel.extend_from_slice(tail);
        }
        whole
    }
}

/// What a stage reports of its gains, dB per frame.
#[derive(Default)]
struct Trace {
    gain: Option<Vec<f32>>,
    bands: Vec<Vec<f32>>,
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
    chain.set_play(play);
    let mut signal = before.clone();
    if play == Play::Once {
        let tails: usize = (0..path.stages.len()).map(|index| chain.tail_of(index)).sum();
        lengthen(&mut signal, tails.min(cast::frames(LONGEST_TAIL_S, rate_hz)));
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
    signal.channels_mut().iter_mut().for_each(|channel| channel.truncate(frames));
    Rendered {
        after: signal,
        ahead: (0..path.stages.len()).map(|index| chain.ahead_of(index)).collect(),
        tail_gains_db: traces.iter().map(|t| Some(t.gain.as_ref()?.get(frames..end)?.to_vec())).collect(),
        gains_db: traces.iter_mut().map(|t| t.gain.take().map(|gain| cut_to(gain, frames))).collect(),
        band_gains_db: traces
            .into_iter()
            .map(|t| t.bands.into_iter().map(|gain| cut_to(gain, frames)).collect())
            .collect(),
        tail,
    }
}

fn cut_to(mut gain: Vec<f32>, frames: usize) -> Vec<f32> {
    gain.truncate(frames);
    gain
}

/// For how many frames after the passage what is left is not yet 60 dB under the loudest sample of the passage.
fn tail_frames(signal: &Buffer, frames: usize) -> usize {
    let channels = signal.channels();
    let loudest = channels.iter().flat_map(|c| &c[..frames]).fold(0.0, |most: f32, x| most.max(x.abs()));
    let heard = |x: &f32| x.abs() > TAIL_ENDS * loudest;
    channels.iter().filter_map(|c| Some(c[frames..].iter().rposition(heard)? + 1)).max().unwrap_or(0)
}

fn lengthen(signal: &mut Buffer, frames: usize) {
    signal.channels_mut().iter_mut().for_each(|channel| channel.extend(std::iter::repeat_n(0.0, frames)));
}

/// Runs one stage from rest over a signal.
fn once(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Trace {
    let frames = signal.frames();
    // What the stage delays is put back in its place, so that before and after stay aligned.
    let late = chain.latency_of(index);
    lengthen(signal, late);
    let mut trace = Trace::default();
    let mut at = 0;
    signal.for_each_block(BLOCK, |io| {
        let from = at;
        at += io.first().map_or(0, |c| c.len());
        if let Some(block) = chain.process_stage(index, io, from) {
            trace.gain.get_or_insert_with(|| Vec::with_capacity(frames)).extend_from_slice(block);
            // A stage at rest has no bands at work.
            trace.bands.resize(chain.bands_of(index), Vec::new());
            for (i, band) in trace.bands.iter_mut().enumerate() {
                band.extend_from_slice(chain.band_gain_db(index, i));
            }
        }
    });
    signal
        .channels_mut()
        .iter_mut()
        .chain(&mut trace.gain)
        .chain(&mut trace.bands)
        .for_each(|samples| drop(samples.drain(..late)));
    trace
}

/// Runs one stage over a loop until a round is as the one before: what comes later takes the place of what came
/// earlier, until nothing has changed for as long as the stage remembers.
fn round(chain: &mut Chain, index: usize, signal: &mut Buffer) -> Trace {
    let frames = signal.frames();
    if frames == 0 {
        return Trace::default();
    }
    let rate_hz = signal.rate_hz();
    let late = chain.latency_of(index);
    let still = cast::frames(SAME_S, rate_hz) + chain.memory_of(index);
    let end = late + frames + cast::frames(LONGEST_SETTLING_S, rate_hz).max(still);
    let input = signal.clone();
    let mut block = vec![vec![0.0; BLOCK]; input.channels().len()];
    let mut trace = Trace::default();
    let (mut at, mut same, mut loudest) = (0, 0, 0.0f32);
    while at < late + frames || (same < still && at < end) {
        for (block, input) in block.iter_mut().zip(input.channels()) {
            each_part(at, 0..BLOCK, frames, |from, to| block[from].copy_from_slice(&input[to]));
        }
        let mut io: Vec<&mut [f32]> = block.iter_mut().map(Vec::as_mut_slice).collect();
        let put = |to: &mut [f32], from: &[f32], tolerance: f32| {
            let mut differs = false;
            // What comes before the first sample that has come through is no part of the round.
            let first = late.saturating_sub(at).min(BLOCK);
            each_part((at + first).saturating_sub(late), first..BLOCK, frames, |part, place| {
                let (from, to) = (&from[part], &mut to[place]);
                differs |= from.iter().zip(&*to).any(|(new, old)| (new - old).abs() > tolerance);
                to.copy_from_slice(from);
            });
            differs
        };
        let mut differs = false;
        if let Some(gain) = chain.process_stage(index, &mut io, at % frames) {
            differs |= put(trace.gain.get_or_insert_with(|| vec![0.0; frames]), gain, SAME_DB);
            trace.bands.resize(chain.bands_of(index), Vec::new());
            for (i, band) in trace.bands.iter_mut().enumerate() {
                band.resize(frames, 0.0);
                differs |= put(band, chain.band_gain_db(index, i), SAME_DB);
            }
        }
        for (channel, out) in signal.channels_mut().iter_mut().zip(&block) {
            loudest = out.iter().fold(loudest, |most, x| most.max(x.abs()));
            differs |= put(channel, out, SAME_SHARE * loudest);
        }
        at += BLOCK;
        same = if differs || at < late + frames { 0 } else { same + BLOCK };
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
