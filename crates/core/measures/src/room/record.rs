//! Recording the response to an impulse.

use super::decay::Ground;
use super::sides::{energies, highest};
use clear_bend_effects::{ENDLESS, Setup};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::energy;
use clear_bend_sound::scope::Scope;

/// A response is recorded for at most this long, s.
pub const LONGEST_S: f64 = 30.0;
/// It has ended when it is this far under its loudest moment, 90 dB, as a power.
const ENDED: f64 = 1e-9;
/// The shortest record, s: what comes late has come by then.
const SHORTEST_S: f64 = 0.75;
/// Moments in which loudness is looked at, s.
const MOMENT_S: f64 = 0.1;
/// How long after the onset sound counts as direct in records whose parts are not known, s (common practice).
const DIRECT_S: f64 = 0.0025;
/// The onset is where a response first comes within so much of its highest, linear: 20 dB (ISO 3382-1).
const ONSET: f32 = 0.1;

/// The response of a stage, of a path or of a room to an impulse at full scale on both sides.
#[derive(Debug, Clone)]
pub struct RoomResponse {
    /// Sample rate, Hz.
    pub rate_hz: u32,
    /// What comes out on the left and on the right, from the time of the impulse on, the direct sound included.
    pub sides: [Vec<f32>; 2],
    /// Where the direct sound ends and what is reverberant begins, frames.
    pub direct_frames: usize,
    /// The gain of the direct sound in `sides` as it is heard, and that of what is reverberant: 1 for both but where a stage
    /// is looked at by its wet sound alone.
    pub heard: [f64; 2],
    /// What stays at its end: noise in what was recorded, sound in what is computed.
    pub ground: Ground,
}

impl RoomResponse {
    /// Records a stage: its wet sound alone, from which what is heard at its mix follows.
    #[must_use]
    pub fn of_stage(stage: &Stage, rate_hz: u32, longest_s: f64) -> Self {
        Self::of_stage_from(stage, rate_hz, longest_s, 0)
    }

    /// The same with the impulse at a frame of the passage, which is where what moves is at then.
    #[must_use]
    pub fn of_stage_from(stage: &Stage, rate_hz: u32, longest_s: f64, from: usize) -> Self {
        let mut wet = stage.by_itself();
        let mix = wet.mix;
        wet.mix = 1.0;
        let (gain, scope) = (wet.output_gain(), wet.scope);
        let mut sides = record(&Path { stages: vec![wet] }, rate_hz, longest_s, from);
        // The dry sound is the first sample; what the mix lays there is known.
        for (channel, (side, impulse)) in sides.iter_mut().zip(scope.reached()).enumerate() {
            if let Some(first) = side.first_mut().filter(|_| scope.changes(channel)) {
                let direct = (1.0 - mix) * gain * f64::from(impulse) + mix * f64::from(*first);
                *first = cast::sample(direct);
            }
        }
        Self { rate_hz, sides, direct_frames: 1, heard: [1.0, mix], ground: Ground::Sound }
    }

    /// Records a whole path as it is heard.
    #[must_use]
    pub fn of_path(path: &Path, rate_hz: u32) -> Self {
        Self::of_sides(rate_hz, record(path, rate_hz, LONGEST_S, 0), Ground::Sound)
    }

    /// Takes a recorded response, of one channel or two, or of four: then what both inputs together give.
    #[must_use]
    pub fn of_buffer(buffer: &Buffer) -> Self {
        let mut played = buffer.clone().into_stereo();
        let mut sides = played.channels_mut().iter_mut().map(std::mem::take);
        Self::of_sides(buffer.rate_hz(), [(); 2].map(|()| sides.next().unwrap_or_default()), Ground::Noise)
    }

    fn of_sides(rate_hz: u32, mut sides: [Vec<f32>; 2], ground: Ground) -> Self {
        let highest = highest(&sides);
        let over = |side: &Vec<f32>| side.iter().position(|x| x.abs() > ONSET * highest);
        let onset = sides.iter().filter_map(over).min().unwrap_or(0);
        sides.iter_mut().for_each(|side| drop(side.drain(..onset)));
        Self { rate_hz, sides, direct_frames: cast::frames(DIRECT_S, rate_hz), heard: [1.0; 2], ground }
    }

    /// The share of the reverberant energy that comes later than a time (s); none where there is none.
    #[must_use]
    pub fn share_after(&self, seconds: f64) -> Option<f64> {
        let sides = self.reverberant();
        let energy = |from: usize| -> f64 { energies(&sides, from).sum() };
        let all = energy(0);
        (all > 0.0).then(|| energy(cast::frames(seconds, self.rate_hz)) / all)
    }

    /// Its length, frames.
    #[must_use]
    pub fn frames(&self) -> usize {
        self.sides[0].len()
    }

    /// The reverberant sound alone, from the time of the impulse on.
    #[must_use]
    pub fn reverberant(&self) -> [Vec<f32>; 2] {
        self.sides.clone().map(|mut side| {
            let direct = self.direct_frames.min(side.len());
            side[..direct].fill(0.0);
            side
        })
    }
}

/// Sends an impulse at full scale on both sides, at a frame of the passage, through a path until what comes out is 90 dB down, or the longest time is over;
/// gives both sides, from the time of the impulse on. Where the whole path works on the side, the right one is turned over.
#[must_use]
pub fn record(path: &Path, rate_hz: u32, longest_s: f64, from: usize) -> [Vec<f32>; 2] {
    let mut chain = Chain::new(path, Setup { rate_hz, max_block: 512 });
    let latency = chain.latency();
    let longest = cast::frames(longest_s.min(LONGEST_S), rate_hz);
    // What takes so long to fall by 60 dB takes half as long again to fall by 90 dB.
    let tail = chain.tail();
    let expected = if tail == ENDLESS { longest } else { tail.saturating_add(tail / 2) };
    let shortest = cast::frames(SHORTEST_S, rate_hz).min(longest);
    let end = latency + expected.clamp(shortest, longest);
    // What comes late has come once the tail is over: a pause before it is no end.
    let least = tail.clamp(shortest, longest);
    let moment = cast::frames(MOMENT_S, rate_hz);
    let mut sides = [Vec::with_capacity(end), Vec::with_capacity(end)];
    let mut loudest = 0.0f64;
    while sides[0].len() < end {
        let at = sides[0].len();
        let n = moment.min(end - at);
        let mut block = [vec![0.0f32; n], vec![0.0f32; n]];
        if at == 0 {
            (block[0][0], block[1][0]) = impulse(path);
        }
        let [l, r] = &mut block;
        chain.process(&mut [l, r], from + at);
        let power: f64 = block.iter().map(|side| energy(side)).sum();
        // The direct sound is no measure for what follows.
        loudest = loudest.max(if at == 0 { 0.0 } else { power });
        sides.iter_mut().zip(&block).for_each(|(side, block)| side.extend_from_slice(block));
        if at > latency + least && power <= ENDED * loudest {
            break;
        }
    }
    sides.map(|mut side| {
        side.drain(..latency);
        side
    })
}

/// The impulse on both sides that reaches every stage that is at work: the same, or opposite where all of them work on the side; on the
/// left alone where some do.
fn impulse(path: &Path) -> (f32, f32) {
    let working = || path.stages.iter().filter(|stage| stage.wet() > 0.0);
    let on_side = working().filter(|stage| stage.scope == Scope::Side).count();
    match on_side {
        0 => Scope::Stereo.reached().into(),
        all if all == working().count() => Scope::Side.reached().into(),
        _ => (1.0, 0.0),
    }
}
