//! A few cycles of the wave, held still: every look begins where the wave before the path rises through zero.

use serde::Serialize;

use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

/// Cycles that are shown, and how long a look is where no cycle is found, s.
const CYCLES: f64 = 4.0;
const PITCHLESS_S: f64 = 0.02;
/// Pitches that are looked for, Hz, over this long, s.
const PITCHES_HZ: (f64, f64) = (40.0, 2000.0);
const OVER_S: f64 = 0.06;
/// A cycle is one where the wave is as alike as this a cycle later.
const ALIKE: f64 = 0.8;

/// One look.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct WaveLook {
    /// Where it begins in the passage, s.
    pub at_s: f64,
    /// How long it is, s.
    pub seconds: f64,
    /// The pitch of the wave before, Hz; none where it has none.
    pub pitch_hz: Option<f64>,
    /// Left and right before, linear.
    pub before: [Vec<f32>; 2],
    /// Left and right after.
    pub after: [Vec<f32>; 2],
}

/// Looks at evenly spread places of a passage.
#[must_use]
pub fn wave_looks(before: &Buffer, after: &Buffer, looks: usize, points: usize) -> Vec<WaveLook> {
    let frames = before.frames().min(after.frames());
    (0..looks).map(|k| look(before, after, cast::part_of(frames, k, looks), points)).collect()
}

fn look(before: &Buffer, after: &Buffer, from: usize, points: usize) -> WaveLook {
    let rate = f64::from(before.rate_hz());
    let both: Vec<f32> = match before.channels() {
        [left, right] => {
            left[from..].iter().zip(&right[from..]).map(|(l, r)| l + r).take(reach(rate)).collect()
        }
        channels => channels
            .first()
            .map(|c| c[from..].iter().copied().take(reach(rate)).collect())
            .unwrap_or_default(),
    };
    let cycle = cycle_of(&both, rate);
    let within = cast::count(cycle.unwrap_or(PITCHLESS_S * rate));
    let start = cast::real(from) + rising(&both, within);
    let frames = cycle.map_or(PITCHLESS_S * rate, |cycle| CYCLES * cycle);
    let side = |sound: &Buffer, side: usize| -> Vec<f32> {
        let channel = sound.channels().get(side).or(sound.channels().first());
        let at = |k: usize| {
            let place = start + frames * cast::real(k) / cast::real(points.max(2) - 1);
            let (whole, part) = (cast::floor(place), cast::sample(place.fract()));
            let sample = |i: usize| channel.and_then(|c| c.get(i)).copied().unwrap_or(0.0);
            (1.0 - part) * sample(whole) + part * sample(whole + 1)
        };
        (0..points).map(at).collect()
    };
    WaveLook {
        at_s: start / rate,
        seconds: frames / rate,
        pitch_hz: cycle.map(|cycle| rate / cycle),
        before: [0, 1].map(|c| side(before, c)),
        after: [0, 1].map(|c| side(after, c)),
    }
}

/// Samples that are looked at to find a cycle.
fn reach(rate: f64) -> usize {
    cast::count((OVER_S + 1.0 / PITCHES_HZ.0) * rate)
}

/// The length of a cycle, samples: the first delay at which the wave is nearly as alike as it ever is (normalised autocorrelation,
/// Rabiner and Schafer, "Digital processing of speech signals", ch. 4); none where it is not.
fn cycle_of(samples: &[f32], rate: f64) -> Option<f64> {
    let over = cast::count(OVER_S * rate);
    let (least, most) = (cast::floor(rate / PITCHES_HZ.1).max(2), cast::count(rate / PITCHES_HZ.0));
    if samples.len() < over + most {
        return None;
    }
    // Every few samples of the sum do for long cycles.
    let product = |lag: usize, of: &dyn Fn(f64, f64) -> f64| -> f64 {
        (0..over).step_by(4).map(|i| of(f64::from(samples[i]), f64::from(samples[i + lag]))).sum()
    };
    let energy = product(0, &|x, _| x * x);
    if energy < 1e-9 {
        return None;
    }
    let alike = |lag: usize| {
        let size = (energy * product(lag, &|_, y| y * y)).sqrt();
        if size > 0.0 { product(lag, &|x, y| x * y) / size } else { 0.0 }
    };
    let all: Vec<f64> = (least - 1..=most).map(alike).collect();
    let best = all.iter().copied().fold(0.0, f64::max);
    let first = (1..all.len() - 1)
        .find(|k| all[*k] > ALIKE.max(0.95 * best) && all[*k] >= all[k - 1] && all[*k] > all[k + 1])?;
    let [before, at, after] = [all[first - 1], all[first], all[first + 1]];
    let bend = before - 2.0 * at + after;
    let off = if bend < 0.0 { 0.5 * (before - after) / bend } else { 0.0 };
    Some(cast::real(least - 1 + first) + off)
}

/// Where, between samples, the wave rises through zero for the last time before its highest sample in the second cycle.
fn rising(samples: &[f32], cycle: usize) -> f64 {
    let second = cycle.min(samples.len())..(2 * cycle).min(samples.len());
    let highest = second.max_by(|a, b| samples[*a].total_cmp(&samples[*b])).unwrap_or(0);
    let found = (1..=highest).rev().find(|i| samples[i - 1] < 0.0 && samples[*i] >= 0.0);
    found.map_or(0.0, |i| {
        let (low, high) = (f64::from(samples[i - 1]), f64::from(samples[i]));
        cast::real(i) - high / (high - low)
    })
}
