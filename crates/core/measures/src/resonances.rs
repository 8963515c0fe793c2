//! Resonances of a passage: narrow ranges that stand out of their surroundings, in the long run and most of the time.
//!
//! The long-term spectrum is set against its smoothed self (the median of an octave around), which tells how far a range
//! stands out; the same is done for every short stretch, which tells whether it always does, as a room or a body of wood
//! does, or only while one note sounds.

use serde::Serialize;

use super::Hum;
use super::spectrum::{Transform, Window, channel_samples, starts};
use clear_bend_catalogue::q_of_octaves;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;
use clear_bend_sound::scope::Scope;

/// A range that stands out.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Resonance {
    /// Its middle, Hz.
    pub freq_hz: f64,
    /// How far it stands out of the octave around, dB.
    pub prominence_db: f64,
    /// Share of the time, while there is sound, in which it stands out by 3 dB or more.
    pub persistence: f64,
    /// The Q of a bell that is as wide.
    pub q: f64,
}

/// What stands out of a passage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Resonances {
    /// Hum of the mains, if there is any.
    pub hum: Option<Hum>,
    /// All else, the most conspicuous first.
    pub others: Vec<Resonance>,
}

impl Resonances {
    /// Finds what stands out; what belongs to a hum is not listed again.
    #[must_use]
    pub fn of(sound: &Buffer) -> Self {
        let hum = Hum::find(sound);
        let mut others = find_resonances(sound);
        others.retain(|found| hum.as_ref().is_none_or(|hum| !hum.holds(found.freq_hz)));
        Self { hum, others }
    }
}

/// Length of a short stretch, s.
const STRETCH_S: f64 = 0.34;
const LOWEST_HZ: f64 = 40.0;
const HIGHEST_HZ: f64 = 12_000.0;
/// Points to the octave.
const POINTS: usize = 48;
/// Less than this does not stand out, dB.
const LEAST_DB: f64 = 4.0;
/// What stands out less of the time than this is a note, not a resonance.
const LEAST_SHARE: f64 = 0.35;
/// A stretch that is so much quieter than the loudest one is silence, dB.
const SILENCE_DB: f64 = 50.0;
/// Two that are nearer to each other are one, in points.
const APART: usize = POINTS / 6;
/// The most that are listed.
const MOST: usize = 8;

/// The resonances of a passage, the most conspicuous first.
#[must_use]
pub fn find_resonances(sound: &Buffer) -> Vec<Resonance> {
    let stretches = stretches(sound);
    let loudest = stretches.iter().map(|s| s.iter().sum::<f64>()).fold(0.0, f64::max);
    if loudest < 1e-12 {
        return Vec::new();
    }
    let floor = loudest * 10f64.powf(-0.1 * SILENCE_DB);
    let heard: Vec<&Vec<f64>> = stretches.iter().filter(|s| s.iter().sum::<f64>() > floor).collect();
    let count = heard[0].len();
    let mean: Vec<f64> =
        (0..count).map(|k| heard.iter().map(|s| s[k]).sum::<f64>() / cast::real(heard.len())).collect();
    let long = prominences(&mean);
    let mut share = vec![0.0; count];
    for stretch in &heard {
        let short = prominences(stretch);
        for (k, share) in share.iter_mut().enumerate() {
            let near = short[k.saturating_sub(1)..(k + 2).min(count)].iter().fold(f64::MIN, |a, b| a.max(*b));
            *share += f64::from(u8::from(near >= 3.0)) / cast::real(heard.len());
        }
    }
    let highest = |k: usize| {
        let around = &long[k.saturating_sub(APART)..(k + APART + 1).min(count)];
        around.iter().all(|other| *other <= long[k])
    };
    let mut found: Vec<Resonance> = (1..count - 1)
        .filter(|k| long[*k] >= LEAST_DB && share[*k] >= LEAST_SHARE && highest(*k))
        .map(|k| describe(&long, k, share[k]))
        .collect();
    found.sort_by(|a, b| (b.prominence_db * b.persistence).total_cmp(&(a.prominence_db * a.persistence)));
    found.truncate(MOST);
    found
}

/// Middle and width of what stands out around a point.
fn describe(long: &[f64], k: usize, persistence: f64) -> Resonance {
    let half = 0.5 * long[k];
    let below = (0..k).rev().find(|i| long[*i] < half).map_or(0.0, |i| crossing(long, i, i + 1, half));
    let above = (k + 1..long.len()).find(|i| long[*i] < half);
    let above = above.map_or(cast::real(long.len() - 1), |i| crossing(long, i, i - 1, half));
    let width_oct = ((above - below) / cast::real(POINTS)).max(1.0 / cast::real(POINTS));
    // The middle of what stands out over half its height.
    let (from, to) = (cast::floor(below) + 1, cast::floor(above));
    let inside = (from.min(k)..=to.max(k)).map(|i| (cast::real(i), (long[i] - half).max(0.0)));
    let (sum, weighted) =
        inside.fold((0.0, 0.0), |(sum, all), (place, over)| (sum + over, all + over * place));
    let middle = if sum > 0.0 { weighted / sum } else { cast::real(k) };
    Resonance {
        freq_hz: LOWEST_HZ * (middle / cast::real(POINTS)).exp2(),
        prominence_db: long[k],
        persistence,
        q: q_of_octaves(width_oct).min(40.0),
    }
}

/// Where a level is crossed between a point below it and its neighbour above.
fn crossing(long: &[f64], low: usize, high: usize, level: f64) -> f64 {
    let share = ((level - long[low]) / (long[high] - long[low]).max(1e-9)).clamp(0.0, 1.0);
    cast::real(low) + share * (cast::real(high) - cast::real(low))
}

/// The power around every point of the logarithmic axis, stretch by stretch.
fn stretches(sound: &Buffer) -> Vec<Vec<f64>> {
    let rate_hz = sound.rate_hz();
    let frames = cast::frames(STRETCH_S, rate_hz).next_power_of_two().min(sound.frames().next_power_of_two());
    let mut transform = Transform::new(Window::Hann, frames.max(1024));
    let frames = transform.frames();
    let per_hz = cast::real(frames) / f64::from(rate_hz);
    let top = HIGHEST_HZ.min(0.45 * f64::from(rate_hz));
    let count = cast::floor((top / LOWEST_HZ).log2() * cast::real(POINTS)) + 1;
    let edge = |k: f64| LOWEST_HZ * (k / cast::real(POINTS)).exp2() * per_hz;
    let mut powers = vec![0.0; transform.bins()];
    starts(sound.frames(), frames, frames / 4)
        .map(|start| {
            powers.fill(0.0);
            transform.add_powers(channel_samples(sound, Scope::Stereo, start), 1.0, &mut powers);
            let around = |k: usize| {
                let (from, to) = (edge(cast::real(k) - 0.5), edge(cast::real(k) + 0.5));
                // Where points are denser than bins, the power between two bins.
                let (first, last) = (cast::floor(from), cast::floor(to).max(cast::floor(from)) + 1);
                let power = |i: usize| powers.get(i).copied().unwrap_or(0.0);
                if to - from < 1.0 {
                    let share = 0.5 * (from + to) - cast::real(first);
                    power(first) * (1.0 - share).max(0.0) + power(first + 1) * share
                } else {
                    (first + 1..=last).map(power).sum::<f64>() / cast::real(last - first)
                }
            };
            (0..count).map(around).collect()
        })
        .collect()
}

/// How far every point stands out of the median of the octave around it, dB, slightly smoothed.
fn prominences(power: &[f64]) -> Vec<f64> {
    let count = power.len();
    let around = |k: usize, reach: usize| k.saturating_sub(reach)..(k + reach + 1).min(count);
    let levels: Vec<f64> = (0..count)
        .map(|k| {
            let near = &power[around(k, 1)];
            db_from_power(near.iter().sum::<f64>() / cast::real(near.len()) + 1e-20)
        })
        .collect();
    let mut sorted = Vec::with_capacity(POINTS + 1);
    (0..count)
        .map(|k| {
            sorted.clear();
            sorted.extend_from_slice(&levels[around(k, POINTS / 2)]);
            sorted.sort_by(f64::total_cmp);
            levels[k] - sorted[sorted.len() / 2]
        })
        .collect()
}
