//! The way of every notch through a cycle: by the formula, and found in noise.

use serde::Serialize;

use super::notches::{HIGHEST_HZ, NOTCH};
use super::predicted::predicted_notches;
use super::tone::{BEFORE_S, LEVEL, through};
use crate::{Transform, Window, log_freqs};
use clear_bend_effects::modulation::Moment;
use clear_bend_playing::path::Stage;
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;

/// Noise is sent through for so many seconds: as many cycles as go into it are laid over each other.
const NOISE_S: f64 = 8.0;
const MOST_CYCLES: usize = 16;
/// What is held still is followed for so long, s.
const HELD_S: f64 = 1.0;
/// The window takes a twentieth of a cycle, so that a movement is seen and not its mean, between these, s.
const WINDOW: f64 = 0.05;
const SHORTEST_S: f64 = 0.004;
const LONGEST_S: f64 = 0.085;
/// The lowest notches are followed, so many of them.
const FOLLOWED: usize = 12;
/// Levels are drawn down to this, dB.
const FLOOR_DB: f64 = -48.0;

/// The way of the notches through a cycle.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Traces {
    /// How much is shown, s: a cycle, but no more than 8 s.
    pub seconds: f64,
    /// How long a cycle lasts, s; none where it is held.
    pub cycle_s: Option<f64>,
    /// The place of the cycle at the beginning, 0 to 1.
    pub from: f64,
    /// The window over which a spectrum of the noise is taken, s: Hann's.
    pub window_s: f64,
    /// How many cycles are laid over each other.
    pub cycles: usize,
    /// Frequencies of the rows, Hz, at equal ratios.
    pub freqs_hz: Vec<f64>,
    /// Noise after the stage against the same before it, dB: columns of rows.
    pub levels_db: Vec<f32>,
    /// The lowest notches by the formula in every column, Hz.
    pub predicted_hz: Vec<Vec<f64>>,
    /// Those found in the noise, Hz: each between the middles to its neighbours; none where there is none.
    pub found_hz: Vec<Vec<Option<f64>>>,
}

impl Traces {
    /// Follows a stage, on the left, in so many columns of so many rows; none where it does not move or no formula says where notches
    /// are.
    #[must_use]
    pub fn of(stage: &Stage, (columns, rows): (usize, usize), rate_hz: u32) -> Option<Self> {
        let swing = stage.effect.swing(&stage.values)?;
        stage.effect.at_moment(&stage.values, &Moment { cycles: 0.0, side: 0, rate_hz: 1.0 }, &[])?;
        let rate = f64::from(rate_hz);
        let cycle_s = if swing.held.is_some() { HELD_S } else { 1.0 / swing.rate_hz };
        let seconds = cycle_s.min(NOISE_S);
        // Cycles that differ are not laid over each other.
        let alike = swing.wave.random == 0.0;
        let cycles = if alike { cast::floor(NOISE_S / cycle_s).clamp(1, MOST_CYCLES) } else { 1 };
        // Whole cycles go before, until all that is delayed is there.
        let lead_s = cycle_s * (BEFORE_S / cycle_s).ceil();
        let window = cast::count((WINDOW * cycle_s).clamp(SHORTEST_S, LONGEST_S) * rate);
        let all_s = lead_s + cycle_s * cast::real(cycles - 1) + seconds + cast::real(window) / rate;
        let mut random = SplitMix64::new(16, 0);
        let noise: Vec<f32> =
            (0..cast::frames(all_s, rate_hz)).map(|_| cast::sample(LEVEL * random.bipolar())).collect();
        let sides = through(&stage.by_itself(), rate_hz, all_s, |i| noise[i]);
        let heard = &sides[stage.scope.heard_on()];
        // Places between its own, so that notches are found more closely.
        let mut transform = Transform::padded(Window::Hann, window, (2 * window).next_power_of_two());
        let bins = transform.bins();
        let mut add = |samples: &[f32], powers: &mut [f64]| {
            transform.add_powers(samples.iter().map(|x| f64::from(*x)), 1.0, powers);
        };
        let freqs_hz = log_freqs(20.0, (0.49 * rate).min(HIGHEST_HZ), rows);
        let (mut levels_db, mut predicted_hz, mut found_hz) = (Vec::new(), Vec::new(), Vec::new());
        for column in 0..columns {
            let into_s = seconds * (cast::real(column) + 0.5) / cast::real(columns);
            let (mut before, mut after) = (vec![0.0; bins], vec![0.0; bins]);
            for cycle in 0..cycles {
                let middle = cast::count((lead_s + cycle_s * cast::real(cycle) + into_s) * rate);
                let part = middle.saturating_sub(window / 2)..(middle + window - window / 2).min(noise.len());
                add(&noise[part.clone()], &mut before);
                add(&heard[part], &mut after);
            }
            let ratio: Vec<f64> =
                (0..bins).map(|k| around(&after, k) / around(&before, k).max(1e-30)).collect();
            let bin_hz = 0.5 * rate / cast::real(ratio.len() - 1);
            levels_db.extend(freqs_hz.iter().map(|hz| {
                let bin = cast::count(hz / bin_hz).min(ratio.len() - 1);
                cast::sample(db_from_power(ratio[bin]).max(FLOOR_DB)).round()
            }));
            let place = swing.held.unwrap_or((lead_s + into_s) * swing.rate_hz + swing.start);
            let all = predicted_notches(stage, place, rate_hz);
            found_hz.push((0..all.len().min(FOLLOWED)).map(|k| found(&ratio, bin_hz, &all, k)).collect());
            predicted_hz.push(all.into_iter().take(FOLLOWED).collect());
        }
        let from = swing.held.unwrap_or(swing.start).rem_euclid(1.0);
        let cycle_s = swing.held.is_none().then_some(cycle_s);
        let window_s = cast::real(window) / rate;
        Some(Self { seconds, cycle_s, from, window_s, cycles, freqs_hz, levels_db, predicted_hz, found_hz })
    }
}

/// A power and its neighbours: single ones of noise are by chance nearly nothing.
fn around(power: &[f64], k: usize) -> f64 {
    power[k.saturating_sub(1)..(k + 2).min(power.len())].iter().sum()
}

/// The lowest place of a response around a notch, between the middles to its neighbours, Hz; none where it is no notch, and where
/// neighbours lie too close for the window.
fn found(ratio: &[f64], bin_hz: f64, notches_hz: &[f64], k: usize) -> Option<f64> {
    let here = notches_hz[k];
    let low = notches_hz[..k].last().map_or(0.5 * here, |before| 0.5 * (before + here));
    let high = notches_hz.get(k + 1).map_or(2.0 * here - low, |after| 0.5 * (after + here));
    let last = cast::floor(HIGHEST_HZ / bin_hz).min(ratio.len() - 2);
    let (low, high) = (cast::count(low / bin_hz).max(1), cast::count(high / bin_hz).min(last));
    // Hann's window spreads over four places.
    if high < low + 6 {
        return None;
    }
    let lowest = (low..=high).min_by(|a, b| ratio[*a].total_cmp(&ratio[*b]))?;
    let mean = ratio[low..=high].iter().sum::<f64>() / cast::real(high - low + 1);
    let [before, at, after] = [ratio[lowest - 1], ratio[lowest], ratio[lowest + 1]];
    let bend = before - 2.0 * at + after;
    let off = if bend > 0.0 { (0.5 * (before - after) / bend).clamp(-0.5, 0.5) } else { 0.0 };
    (lowest > low && lowest < high && at < NOTCH * mean).then(|| (cast::real(lowest) + off) * bin_hz)
}
