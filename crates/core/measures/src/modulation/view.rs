//! What moves, as it is drawn.

use serde::Serialize;

use super::notches::{Notches, SHORT, power};
use super::predicted::{predicted, predicted_notches};
use crate::log_freqs;
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;

/// Levels are drawn down to this, dB.
const FLOOR_DB: f64 = -80.0;

/// The swing of an oscillator over a passage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SwingView {
    /// Where it swings to on the left and on the right, from the beginning to the end of the passage, -1 to 1.
    pub sides: [Vec<f64>; 2],
    /// The place in its cycle at these times, 0 to 1.
    pub places: Vec<f64>,
    /// One cycle of the left side from its beginning, -1 to 1.
    pub cycle: Vec<f64>,
    /// How long a cycle lasts, s.
    pub cycle_s: f64,
    /// Where it is held; none while it moves.
    pub held: Option<f64>,
    /// How many cycles go into the passage.
    pub cycles: f64,
    /// The nearest rate at which whole cycles go into it, Hz; none where they do.
    pub fitting_hz: Option<f64>,
}

impl SwingView {
    /// The swing of a stage over so many seconds, at so many places; none where it has none.
    #[must_use]
    pub fn of(stage: &Stage, seconds: f64, columns: usize) -> Option<Self> {
        let swing = stage.effect.swing(&stage.values)?;
        let at = |column: usize| seconds * (cast::real(column) + 0.5) / cast::real(columns.max(1));
        let side = |ahead: f64| (0..columns).map(|column| swing.at(at(column), ahead)).collect();
        let moving = clear_bend_effects::Swing { held: None, start: 0.0, ..swing };
        let cycles = swing.rate_hz * seconds;
        let whole = cycles.round().max(1.0);
        let fits = swing.held.is_some() || (cycles - whole).abs() < 1e-6 * whole;
        Some(Self {
            sides: [side(0.0), side(swing.apart)],
            places: (0..columns).map(|column| swing.cycles_at(at(column), 0.0).rem_euclid(1.0)).collect(),
            cycle: (0..columns)
                .map(|k| moving.at(cast::real(k) / cast::real(columns) / swing.rate_hz, 0.0))
                .collect(),
            cycle_s: 1.0 / swing.rate_hz,
            held: swing.held,
            cycles,
            fitting_hz: (!fits).then_some(whole / seconds),
        })
    }
}

/// The response at one place of the cycle, or where the movement is held.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct NotchMoment {
    /// Where the movement is held, 0 to 1; none while it moves.
    pub held: Option<f64>,
    /// The gain of the left side, dB.
    pub gains_db: Vec<f64>,
    /// Notches under 20 kHz, Hz.
    pub notches_hz: Vec<f64>,
    /// The gain that the formula says, dB.
    pub predicted_db: Vec<f64>,
    /// Where the formula says that notches are, Hz.
    pub predicted_hz: Vec<f64>,
}

/// Rounded to a tenth, as it is shown.
fn tenth(x: f64) -> f64 {
    (10.0 * x).round() / 10.0
}

fn tenths(x: &[f64]) -> Vec<f64> {
    x.iter().map(|x| tenth(*x)).collect()
}

impl NotchMoment {
    /// Measures a stage with its movement held so many cycles on, or where its settings hold it, at frequencies at equal ratios
    /// from 20 Hz to 20 kHz; none where it does not move.
    #[must_use]
    pub fn of(stage: &Stage, cycles: f64, points: usize, rate_hz: u32) -> Option<Self> {
        let held = stage.effect.swing(&stage.values)?.held;
        let cycles = held.unwrap_or(cycles);
        let freqs_hz = log_freqs(20.0, (0.49 * f64::from(rate_hz)).min(20_000.0), points);
        let power = power(stage, cycles, rate_hz, SHORT)?;
        let bin_hz = 0.5 * f64::from(rate_hz) / cast::real(power.len() - 1);
        let edge = |k: usize| (freqs_hz[k] * freqs_hz[(k + 1).min(points - 1)]).sqrt();
        // Where lines lie closer than the points, the mean of those around a point.
        let gain = |k: usize| {
            let (low, high) =
                (cast::floor(edge(k.saturating_sub(1)) / bin_hz), cast::count(edge(k) / bin_hz));
            let part = &power[low.min(power.len() - 1)..high.clamp(low + 1, power.len())];
            let mean = part.iter().sum::<f64>() / cast::real(part.len().max(1));
            tenth(db_from_power(mean).max(FLOOR_DB))
        };
        let formula = predicted(stage, cycles, &freqs_hz, rate_hz)?;
        Some(Self {
            held,
            gains_db: (0..points).map(gain).collect(),
            notches_hz: tenths(&Notches::of_power(&power, rate_hz).freqs_hz),
            predicted_db: formula.iter().map(|h| tenth(db_from_power(h.norm_sqr()).max(FLOOR_DB))).collect(),
            predicted_hz: tenths(&predicted_notches(stage, cycles, rate_hz)),
        })
    }
}
