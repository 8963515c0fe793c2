//! What an effect that moves does to a held tone, and to noise that is the same on both sides.

use std::f64::consts::TAU;

use rustfft::num_complex::Complex64;
use serde::Serialize;

use super::predicted::predicted_lines;
use crate::cast;
use crate::dsp::plans;
use crate::effects::Setup;
use crate::level::db_from_power;
use crate::path::{Chain, Path, Stage};
use crate::signals::SplitMix64;

/// The tone that sways, Hz, and its level.
pub(super) const TONE_HZ: f64 = 1000.0;
pub(super) const LEVEL: f64 = 0.25;
/// It is followed for one cycle, but within these times, s.
const LEAST_S: f64 = 0.3;
const MOST_S: f64 = 6.0;
/// Nothing is read before what has been delayed is there, s.
pub(super) const BEFORE_S: f64 = 0.2;
/// Pitch and level are read over this long, s: two cycles of the tone.
pub(super) const OVER_S: f64 = 0.002;

/// How a held tone sways.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sway {
    /// How far the pitch sways to either side, cents: half of the way from its lowest to its highest, of the wet sound alone, and of
    /// the first of its voices where there are several: together they beat, and their phase says nothing of a pitch.
    pub cents: f64,
    /// How far the level sways on the left, as heard: (most - least) / (most + least).
    pub ripple: f64,
    /// The same of the sum of both sides.
    pub sum_ripple: f64,
}

/// Sends a tone of 1 kHz through a stage for a cycle; none where the stage does not move.
#[must_use]
pub fn tone_sway(stage: &Stage, rate_hz: u32) -> Option<Sway> {
    let swing = stage.effect.swing(&stage.values)?;
    let seconds = BEFORE_S + (1.0 / swing.rate_hz).clamp(LEAST_S, MOST_S);
    let tone = |i: usize| cast::sample(LEVEL * (TAU * TONE_HZ * cast::real(i) / f64::from(rate_hz)).sin());
    let heard = through(&stage.by_itself(), rate_hz, seconds, tone);
    let values = stage.effect.delays(&stage.values).map_or_else(|| stage.values.clone(), |(_, alone)| alone);
    let wet = through(&Stage { mix: 1.0, values, ..stage.by_itself() }, rate_hz, seconds, tone);
    let from = cast::frames(BEFORE_S, rate_hz);
    let sum: Vec<f32> = heard[0].iter().zip(&heard[1]).map(|(l, r)| l + r).collect();
    Some(Sway {
        cents: cents(&phasors(&wet[0][from..], rate_hz)),
        ripple: ripple(&phasors(&heard[0][from..], rate_hz)),
        sum_ripple: ripple(&phasors(&sum[from..], rate_hz)),
    })
}

/// The correlation of left and right after a stage, of noise that is the same on both sides, over a cycle; none where it does not
/// move or where nothing is left.
#[must_use]
pub fn sides(stage: &Stage, rate_hz: u32) -> Option<f64> {
    let swing = stage.effect.swing(&stage.values)?;
    let seconds = BEFORE_S + (1.0 / swing.rate_hz).clamp(1.0, MOST_S);
    let mut random = SplitMix64::new(15, 0);
    let noise: Vec<f32> =
        (0..cast::frames(seconds, rate_hz)).map(|_| cast::sample(LEVEL * random.bipolar())).collect();
    let heard = through(&stage.by_itself(), rate_hz, seconds, |i| noise[i]);
    let from = cast::frames(BEFORE_S, rate_hz);
    let product = |a: usize, b: usize| {
        heard[a][from..]
            .iter()
            .zip(&heard[b][from..])
            .map(|(x, y)| f64::from(*x) * f64::from(*y))
            .sum::<f64>()
    };
    let size = (product(0, 0) * product(1, 1)).sqrt();
    (size > 0.0).then(|| product(0, 1) / size)
}

/// What comes out for a sound that goes into both sides, from the beginning of the passage on.
pub(super) fn through(
    stage: &Stage,
    rate_hz: u32,
    seconds: f64,
    sound: impl Fn(usize) -> f32,
) -> [Vec<f32>; 2] {
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, Setup { rate_hz, max_block: 512 });
    let mut left: Vec<f32> = (0..cast::frames(seconds, rate_hz)).map(sound).collect();
    let mut right = left.clone();
    chain.process(&mut [&mut left, &mut right], 0);
    [left, right]
}

/// The tone turned back, every few milliseconds, under a Hann window of twice that: what is left is how it sways.
pub(super) fn phasors(sound: &[f32], rate_hz: u32) -> Vec<Complex64> {
    let step = cast::frames(OVER_S, rate_hz).max(1);
    let turn = TAU * TONE_HZ / f64::from(rate_hz);
    let window = |i: usize| 0.5 - 0.5 * (TAU * (cast::real(i) + 0.5) / cast::real(2 * step)).cos();
    let turned = |(k, part): (usize, &[f32])| {
        let at = |i: usize| -turn * cast::real(k * step + i);
        part.iter().enumerate().map(|(i, x)| Complex64::from_polar(window(i) * f64::from(*x), at(i))).sum()
    };
    sound.windows(2 * step).step_by(step).enumerate().map(turned).collect()
}

/// How far the pitch is off between each and the next, cents.
pub(super) fn pitches(phasors: &[Complex64]) -> impl Iterator<Item = f64> {
    phasors.windows(2).map(|pair| {
        let off_hz = (pair[1] * pair[0].conj()).arg() / (TAU * OVER_S);
        1200.0 * (1.0 + off_hz / TONE_HZ).max(1e-3).log2()
    })
}

fn cents(phasors: &[Complex64]) -> f64 {
    let (low, high) = pitches(phasors).fold((0.0f64, 0.0f64), |(a, b), x| (a.min(x), b.max(x)));
    0.5 * (high - low)
}

fn ripple(phasors: &[Complex64]) -> f64 {
    let (least, most) =
        phasors.iter().map(|x| x.norm()).fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(x), b.max(x)));
    if most > 0.0 { (most - least) / (most + least) } else { 0.0 }
}

/// A line in the spectrum of a tone that sways.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Sideband {
    /// How many times the rate it is away from the tone.
    pub order: i32,
    /// Where, Hz.
    pub freq_hz: f64,
    /// Its level against the tone that went in, dB; none under -120 dB.
    pub level_db: Option<f64>,
    /// The level that the formula says, dB; none under -120 dB, where no formula says so, and where cycles differ.
    pub predicted_db: Option<f64>,
}

/// The spectrum of a tone through an effect that moves.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Sidebands {
    /// The tone, Hz: the nearest to what was asked for that has whole cycles in the window.
    pub tone_hz: f64,
    /// The rate, Hz, the nearest to what is set that has whole cycles in the window.
    pub rate_hz: f64,
    /// The window, s: so many cycles that lines at this rate stand apart. It is rectangular: every line has whole cycles in it.
    pub window_s: f64,
    /// Lines from the lowest to the highest.
    pub lines: Vec<Sideband>,
}

/// Cycles of the oscillator in the window, but no more than fit into 10 s.
const CYCLES: usize = 8;
const LONGEST_S: f64 = 10.0;
/// Orders to each side.
const ORDERS: usize = 8;
/// Lines are listed down to here, dB.
const FAINTEST_DB: f64 = -120.0;

impl Sidebands {
    /// Measures the left side of a stage as it is heard, for a tone (Hz); none where it does not move, or takes more than 10 s for a
    /// cycle.
    #[must_use]
    pub fn of(stage: &Stage, tone_hz: f64, rate_hz: u32) -> Option<Self> {
        let swing = stage.effect.swing(&stage.values)?;
        let rate = f64::from(rate_hz);
        let cycles = cast::floor(LONGEST_S * swing.rate_hz).min(CYCLES);
        if cycles == 0 {
            return None;
        }
        let window = cast::count(cast::real(cycles) / swing.rate_hz * rate);
        let window_s = cast::real(window) / rate;
        let tone_hz = (tone_hz * window_s).round() / window_s;
        // A lead-in of whole cycles, so that everything delayed is there.
        let lead = window.div_ceil(cycles) * cast::count((BEFORE_S * swing.rate_hz).ceil()).max(1);
        let turn = TAU * tone_hz / rate;
        let seconds = cast::real(lead + window + 1) / rate;
        let heard = through(&stage.by_itself(), rate_hz, seconds, |i| {
            cast::sample(LEVEL * (turn * cast::real(i)).sin())
        });
        let mut samples: Vec<Complex64> =
            heard[0][lead..lead + window].iter().map(|x| Complex64::new(f64::from(*x), 0.0)).collect();
        plans::complex_forward(window).process(&mut samples);
        let whole = LEVEL * cast::real(window) / 2.0;
        let predicted =
            if swing.held.is_some() { None } else { predicted_lines(stage, tone_hz, ORDERS, rate_hz) };
        let seen = |db: f64| Some(db).filter(|db| *db > FAINTEST_DB);
        let line = |at: usize| {
            let order = i32::try_from(at).unwrap_or(0) - i32::try_from(ORDERS).unwrap_or(0);
            let place = tone_hz * window_s + f64::from(order) * cast::real(cycles);
            if place < 0.5 || place >= cast::real(window / 2) {
                return None;
            }
            let level_db = db_from_power((samples[cast::count(place)].norm() / whole).powi(2));
            let predicted_db = predicted.as_ref().and_then(|lines| seen(db_from_power(lines[at].powi(2))));
            Some(Sideband { order, freq_hz: place / window_s, level_db: seen(level_db), predicted_db })
        };
        Some(Self {
            tone_hz,
            rate_hz: cast::real(cycles) / window_s,
            window_s,
            lines: (0..=2 * ORDERS).filter_map(line).collect(),
        })
    }
}
