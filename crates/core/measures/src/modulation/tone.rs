//! What an effect that moves does to a held tone, and to noise that is the same on both sides.

use std::f64::consts::TAU;

use rustfft::num_complex::Complex64;
use serde::Serialize;

use super::predicted::predicted_lines;
use clear_bend_effects::Setup;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;
use clear_bend_sound::level::db_from_power;

/// The tone that sways, Hz, and its level.
pub(super) const TONE_HZ: f64 = 1000.0;
pub(super) const LEVEL: f64 = 0.25;
/// It is followed for whole cycles, as many as come to this, s.
const LEAST_S: f64 = 0.3;
/// Nothing is read before what has been delayed and goes in again is there, s: within these.
pub(super) const BEFORE_S: f64 = 0.2;
const MOST_BEFORE_S: f64 = 10.0;
/// Pitch is read over this long, s: two cycles of the tone.
pub(super) const OVER_S: f64 = 0.002;

/// How a held tone sways.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sway {
    /// How far the pitch sways to either side, cents: half of the way from its lowest to its highest, of the wet sound alone, and of
    /// the first of its voices where there are several: together they beat, and their phase says nothing of a pitch. None where the
    /// delay grows as fast as time, or faster: the sound then stands still or runs backwards.
    pub cents: Option<f64>,
    /// How far the level sways where the stage is heard, on the left: (most - least) / (most + least).
    pub ripple: f64,
    /// The same of the sum of both sides.
    pub sum_ripple: f64,
}

/// Sends a tone of 1 kHz through a stage for whole cycles, however slow; none where the stage does not move.
#[must_use]
pub fn tone_sway(stage: &Stage, rate_hz: u32) -> Option<Sway> {
    let swing = stage.effect.swing(&stage.values)?;
    let cycle_s = 1.0 / swing.rate_hz;
    let looked_s = cycle_s * (LEAST_S / cycle_s).ceil();
    let heard = turns(&stage.by_itself(), rate_hz, looked_s, TONE_HZ);
    let values = stage.effect.delays(&stage.values).map_or_else(|| stage.values.clone(), |(_, alone)| alone);
    let wet = turns(&Stage { mix: 1.0, values, ..stage.by_itself() }, rate_hz, looked_s, TONE_HZ);
    let side = stage.scope.heard_on();
    let sum: Vec<Complex64> = heard[0].iter().zip(&heard[1]).map(|(l, r)| l + r).collect();
    Some(Sway { cents: cents(&wet[side], rate_hz), ripple: ripple(&heard[side]), sum_ripple: ripple(&sum) })
}

/// The correlation of left and right after a stage, of noise that is the same on both sides, over whole cycles; none where it does not
/// move or where nothing is left.
#[must_use]
pub fn sides(stage: &Stage, rate_hz: u32) -> Option<f64> {
    let cycle_s = 1.0 / stage.effect.swing(&stage.values)?.rate_hz;
    let lead_s = lead_s(stage, rate_hz);
    let seconds = lead_s + cycle_s * (1.0 / cycle_s).ceil();
    let mut random = SplitMix64::new(15, 0);
    let noise: Vec<f32> =
        (0..cast::frames(seconds, rate_hz)).map(|_| cast::sample(LEVEL * random.bipolar())).collect();
    let heard = through(&stage.by_itself(), rate_hz, seconds, |i| noise[i]);
    let from = cast::frames(lead_s, rate_hz);
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

/// How long a sound has to be there before what a stage makes of it is whole, s.
pub(super) fn lead_s(stage: &Stage, rate_hz: u32) -> f64 {
    tail_s(stage, rate_hz).clamp(BEFORE_S, MOST_BEFORE_S)
}

/// For how long what has entered is heard, s.
fn tail_s(stage: &Stage, rate_hz: u32) -> f64 {
    let path = Path { stages: vec![stage.by_itself()] };
    let tail = Chain::new(&path, Setup { rate_hz, max_block: 512 }).tail();
    cast::real(tail) / f64::from(rate_hz)
}

/// What comes out on the left and on the right, from the beginning of the passage on, for a sound that goes into both sides, or turned
/// over into one of them where the stage works on what they have not in common.
pub(crate) fn through(
    stage: &Stage,
    rate_hz: u32,
    seconds: f64,
    sound: impl Fn(usize) -> f32,
) -> [Vec<f32>; 2] {
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, Setup { rate_hz, max_block: 512 });
    let frames = cast::frames(seconds, rate_hz);
    let mut sides =
        stage.scope.reached().map(|gain| (0..frames).map(|i| gain * sound(i)).collect::<Vec<f32>>());
    let [left, right] = &mut sides;
    chain.process(&mut [left, right], 0);
    sides
}

/// What a stage makes of a tone (Hz) as a number that turns: its size is the level against that of the tone, its angle is how far it is
/// turned, at every frame of so many seconds once all that is delayed is there. A tone and the same a quarter of a cycle later are sent
/// through one after the other: what moves and is linear makes of both together what it makes of the number that turns.
pub(super) fn turns(stage: &Stage, rate_hz: u32, seconds: f64, tone_hz: f64) -> [Vec<Complex64>; 2] {
    let lead_s = lead_s(stage, rate_hz);
    let turn = TAU * tone_hz / f64::from(rate_hz);
    let angle = |i: usize| turn * cast::real(i);
    let along = through(stage, rate_hz, lead_s + seconds, |i| cast::sample(LEVEL * angle(i).cos()));
    let across = through(stage, rate_hz, lead_s + seconds, |i| cast::sample(LEVEL * angle(i).sin()));
    let from = cast::frames(lead_s, rate_hz);
    [0, 1].map(|side| {
        let pairs = along[side].iter().zip(&across[side]).enumerate().skip(from);
        pairs
            .map(|(i, (x, y))| {
                let both = Complex64::new(f64::from(*x), f64::from(*y));
                both * Complex64::from_polar(1.0 / LEVEL, -angle(i))
            })
            .collect()
    })
}

/// How far the pitch is off from every stretch of 2 ms to the next one, by the mean angles of both, cents; none where it runs backwards.
pub(super) fn pitches(turns: &[Complex64], rate_hz: u32) -> Vec<Option<f64>> {
    let step = cast::frames(OVER_S, rate_hz).max(1);
    // From sample to sample it never turns by half a round.
    let mut angle = 0.0;
    let angles: Vec<f64> = std::iter::once(0.0)
        .chain(turns.windows(2).map(|pair| {
            angle += (pair[1] * pair[0].conj()).arg();
            angle
        }))
        .collect();
    let means: Vec<f64> =
        angles.chunks_exact(step).map(|part| part.iter().sum::<f64>() / cast::real(step)).collect();
    let pitch = |pair: &[f64]| {
        let off_hz = (pair[1] - pair[0]) * f64::from(rate_hz) / (TAU * cast::real(step));
        let share = 1.0 + off_hz / TONE_HZ;
        (share > STANDS_STILL).then(|| 1200.0 * share.log2())
    };
    means.windows(2).map(pitch).collect()
}

/// What goes on at a smaller share of its speed stands still, or runs backwards.
const STANDS_STILL: f64 = 0.05;

fn cents(turns: &[Complex64], rate_hz: u32) -> Option<f64> {
    let pitches: Vec<f64> = pitches(turns, rate_hz).into_iter().collect::<Option<_>>()?;
    let (low, high) = pitches.iter().fold((0.0f64, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
    Some(0.5 * (high - low))
}

fn ripple(turns: &[Complex64]) -> f64 {
    let (least, most) =
        turns.iter().map(|x| x.norm()).fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(x), b.max(x)));
    if most > 1e-6 { (most - least) / (most + least) } else { 0.0 }
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
/// What rings for less than this share of a cycle is at every moment as if the movement stood still.
const AT_ONCE: f64 = 0.02;
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
        let lead_s = lead_s(stage, rate_hz);
        let lead = window.div_ceil(cycles) * cast::count((lead_s * swing.rate_hz).ceil()).max(1);
        let turn = TAU * tone_hz / rate;
        let seconds = cast::real(lead + window + 1) / rate;
        let heard = through(&stage.by_itself(), rate_hz, seconds, |i| {
            cast::sample(LEVEL * (turn * cast::real(i)).sin())
        });
        let mut samples: Vec<Complex64> = heard[stage.scope.heard_on()][lead..lead + window]
            .iter()
            .map(|x| Complex64::new(f64::from(*x), 0.0))
            .collect();
        plans::complex_forward(window).process(&mut samples);
        let whole = LEVEL * cast::real(window) / 2.0;
        // The formula is that of a stage which stands still at every moment: what goes in again belongs to other moments.
        let at_once = tail_s(stage, rate_hz) * swing.rate_hz < AT_ONCE
            || stage.effect.delays(&stage.values).is_some_and(|(sway, _)| sway.feedback == 0.0);
        let predicted = Some(()).filter(|()| swing.held.is_none() && at_once);
        let predicted = predicted.and_then(|()| predicted_lines(stage, tone_hz, ORDERS, rate_hz));
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
