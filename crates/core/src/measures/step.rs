//! Attack and release of a stage, measured with a tone that steps up and down again.

use serde::Serialize;

use crate::Buffer;
use crate::cast;
use crate::level::gain_from_db;
use crate::path::{Path, Stage};
use crate::render::render;

/// The tone steps from quiet to loud and back, dBFS (peak levels).
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelStep {
    /// Level before and after, dBFS.
    pub quiet_dbfs: f64,
    /// Level between, dBFS.
    pub loud_dbfs: f64,
}

impl LevelStep {
    /// The step of IEC 60118-2 and ANSI S3.22 (from memory), 25 dB, placed at -35 and -10 dBFS.
    pub const USUAL: Self = Self { quiet_dbfs: -35.0, loud_dbfs: -10.0 };
}

/// One side of the step.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct StepSide {
    /// Time until the gain is within 3 dB (up) or 4 dB (down) of its final value, ms: the attack and release times
    /// of IEC 60118-2 and ANSI S3.22 (from memory).
    pub standard_ms: Option<f64>,
    /// Time until the gain has gone 63.2 % of its way, ms.
    pub to_63_ms: Option<f64>,
    /// Time until it has gone 95 % of its way, ms.
    pub to_95_ms: Option<f64>,
    /// Gain just before the step, dB.
    pub from_db: f64,
    /// Gain at the end, dB.
    pub to_db: f64,
    /// Where the trace begins, ms against the step.
    pub trace_from_ms: f64,
    /// Distance of its points, ms.
    pub trace_step_ms: f64,
    /// The gain, dB, at even distances.
    pub trace_db: Vec<f32>,
}

/// The answer of a stage to a step up and down.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct StepResponse {
    /// The step.
    pub step: LevelStep,
    /// The side on which the level rises.
    pub up: StepSide,
    /// The side on which the level falls.
    pub down: StepSide,
}

const FREQ_HZ: f64 = 1000.0;
/// Lengths of the three parts, s.
const LEAD_S: f64 = 1.0;
const LOUD_S: f64 = 3.0;
const TAIL_S: f64 = 6.0;
/// The gain may move this much before the level does, s: more than any lookahead.
const EARLY_S: f64 = 0.02;
/// Points of a trace.
const POINTS: usize = 240;
/// Ways shorter than this are none, dB.
const NO_WAY_DB: f64 = 0.1;

/// Sends the step, a tone of 1 kHz, through one stage, switched on and by itself, and reads the gain that it reports;
/// none for stages that report none.
#[must_use]
pub fn measure_step(stage: &Stage, rate_hz: u32, step: LevelStep) -> Option<StepResponse> {
    let stage = Stage { mix: 1.0, ..stage.alone() };
    let frames = |seconds| cast::frames(seconds, rate_hz);
    let (rise, fall, end) = (frames(LEAD_S), frames(LEAD_S + LOUD_S), frames(LEAD_S + LOUD_S + TAIL_S));
    let angle = std::f64::consts::TAU * FREQ_HZ / f64::from(rate_hz);
    let (quiet, loud) = (gain_from_db(step.quiet_dbfs), gain_from_db(step.loud_dbfs));
    let wave = (0..end).map(|i| {
        let level = if (rise..fall).contains(&i) { loud } else { quiet };
        cast::sample(level * (angle * cast::real(i)).sin())
    });
    let wave = Buffer::from_mono(rate_hz, wave.collect(), 1).ok()?;
    let gain_db = render(&Path { stages: vec![stage] }, &wave).gains_db.pop()??;
    Some(StepResponse {
        step,
        // A lookahead lets go before the level falls.
        up: side(&gain_db[..fall - frames(EARLY_S)], rise, rate_hz, 3.0),
        down: side(&gain_db, fall, rate_hz, 4.0),
    })
}

/// Reads one side: the gain goes from its value at the step to its value at the end.
fn side(gain_db: &[f32], at: usize, rate_hz: u32, within_db: f64) -> StepSide {
    let value = |i: usize| f64::from(gain_db[i.min(gain_db.len() - 1)]);
    // With lookahead, the gain is on its way before the step comes.
    let before = cast::frames(EARLY_S, rate_hz);
    let (from_db, to_db) = (value(at.saturating_sub(before)), value(gain_db.len() - 1));
    let way = to_db - from_db;
    let ms = |frames: f64| frames * 1000.0 / f64::from(rate_hz);
    // The first frame after which the gain stays within `left` of its end, and where between frames it got there.
    let reached = |left: f64| {
        if way.abs() < NO_WAY_DB {
            return None;
        }
        let start = at.saturating_sub(before);
        let last_out = (start..gain_db.len()).rev().find(|&i| (value(i) - to_db).abs() > left)?;
        let (outer, inner) = ((value(last_out) - to_db).abs(), (value(last_out + 1) - to_db).abs());
        let part = if outer > inner { (outer - left) / (outer - inner) } else { 1.0 };
        Some(ms(cast::real(last_out) + part.clamp(0.0, 1.0) + 1.0 - cast::real(at)))
    };
    let to_95_ms = reached(0.05 * way.abs());
    let shown_ms = (3.0 * to_95_ms.unwrap_or(0.0)).clamp(20.0, ms(cast::real(gain_db.len() - at)));
    let trace_from_ms = -0.1 * shown_ms;
    let trace_step_ms = (shown_ms - trace_from_ms) / cast::real(POINTS - 1);
    let trace = (0..POINTS).map(|k| {
        let t = trace_from_ms + trace_step_ms * cast::real(k);
        let frame = cast::real(at) + t / 1000.0 * f64::from(rate_hz);
        cast::sample(value(cast::count(frame)))
    });
    StepSide {
        standard_ms: reached(within_db).filter(|_| way.abs() > within_db),
        to_63_ms: reached((-1f64).exp() * way.abs()),
        to_95_ms,
        from_db,
        to_db,
        trace_from_ms,
        trace_step_ms,
        trace_db: trace.collect(),
    }
}
