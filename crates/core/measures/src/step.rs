//! Attack and release of a stage, measured with a tone that steps up and down again.

use std::f64::consts::TAU;

use serde::Serialize;

use super::reduction::found_late;
use super::static_curve::{PIECE_S, WAVES};
use clear_bend_effects::{LevelStep, Quantity, Setup};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

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
    /// Whether the gain had come to rest at the end; if not, it is not known where it goes, and there are no times.
    pub settled: bool,
    /// For how long the tone was held, s.
    pub held_s: f64,
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

/// Points of a trace.
const POINTS: usize = 240;
/// Ways shorter than this are none, dB.
const NO_WAY_DB: f64 = 0.1;
/// The gain counts as settled when its mean over whole waves has moved by less than this for as long as the stage
/// remembers, dB.
const SETTLED_DB: f64 = 1e-3;
/// A level is held for at most so many times what the stage remembers (a drawn-out way ends as an exponential of about
/// twelve times its time), and at most this long, s.
const MOST_MEMORIES: f64 = 120.0;
const LONGEST_S: f64 = 300.0;
/// A level is held for at least this long where it does not rest, s.
const LEAST_S: f64 = 2.0;

/// Sends the step, a tone of 1 kHz, through one stage, switched on and by itself, and reads the gain that it reports;
/// none for stages that report none. Each level is held until the gain has settled, however long the times are, or
/// says that it has not.
#[must_use]
pub fn measure_step(stage: &Stage, rate_hz: u32, step: LevelStep) -> Option<StepResponse> {
    let stage = Stage { mix: 1.0, ..stage.alone() };
    let mut tone = Tone::new(&stage, rate_hz);
    tone.hold(step.quiet_dbfs)?;
    let rise = tone.frames;
    let up = tone.hold(step.loud_dbfs)?;
    let fall = tone.frames;
    let down = tone.hold(step.quiet_dbfs)?;
    let late = tone.chain.latency();
    // A lookahead lets go before the level falls.
    let before = tone.chain.ahead_of(0) + found_late(rate_hz);
    let gain_db = tone.gain_db.get(late..)?;
    Some(StepResponse {
        step,
        up: side(&gain_db[..fall - before], rise, before, rate_hz, 3.0, up),
        down: side(gain_db, fall, before, rate_hz, 4.0, down),
    })
}

/// A tone on its way through a stage.
struct Tone {
    chain: Chain,
    /// Pieces of whole waves for which the stage remembers a level, lateness included.
    remembers: usize,
    most: usize,
    piece: Vec<f32>,
    /// Frames sent so far, and the gain of each, as late as the stage.
    frames: usize,
    gain_db: Vec<f32>,
}

impl Tone {
    fn new(stage: &Stage, rate_hz: u32) -> Self {
        let frames = cast::frames(PIECE_S, rate_hz);
        let chain = Chain::new(&Path { stages: vec![stage.clone()] }, Setup { rate_hz, max_block: frames });
        let memory_s = stage.memory_s();
        let late = chain.latency().div_ceil(frames);
        Self {
            chain,
            remembers: late + cast::count(memory_s / PIECE_S) + 3,
            most: late + cast::count((MOST_MEMORIES * memory_s).clamp(LEAST_S, LONGEST_S) / PIECE_S),
            piece: vec![0.0; frames],
            frames: 0,
            gain_db: Vec::new(),
        }
    }

    /// Holds a level until the gain rests; gives whether it does. None where the stage reports no gain.
    fn hold(&mut self, level_dbfs: f64) -> Option<bool> {
        let gain = gain_from_db(level_dbfs);
        let angle = TAU * cast::real(WAVES) / cast::real(self.piece.len());
        let mut means = Vec::new();
        for _ in 0..self.most {
            for (i, x) in self.piece.iter_mut().enumerate() {
                *x = cast::sample(gain * (angle * cast::real(i)).sin());
            }
            self.chain.process_stage(0, &mut [&mut self.piece], self.frames);
            let gain_db = self.chain.trace(0, Quantity::GainDb, 0)?;
            means.push(mean(gain_db));
            self.gain_db.extend_from_slice(gain_db);
            self.frames += self.piece.len();
            let rested = &means[means.len().saturating_sub(self.remembers)..];
            let (low, high) = rested.iter().fold((f64::MAX, f64::MIN), |(a, b), x| (a.min(*x), b.max(*x)));
            if means.len() > 2 * self.remembers && high - low < SETTLED_DB {
                // What is still on its way through the stage comes out, too.
                return Some(true);
            }
        }
        Some(false)
    }
}

fn mean(gain_db: &[f32]) -> f64 {
    gain_db.iter().map(|g| f64::from(*g)).sum::<f64>() / cast::real(gain_db.len().max(1))
}

/// Reads one side, on which the level steps at frame `at`: the gain goes from its value before that, and before it may
/// know of the step, to its value at the end.
fn side(gain_db: &[f32], at: usize, before: usize, rate_hz: u32, within_db: f64, settled: bool) -> StepSide {
    let value = |i: usize| f64::from(gain_db[i.min(gain_db.len() - 1)]);
    let start = at.saturating_sub(before);
    let piece = cast::frames(PIECE_S, rate_hz);
    let from_db = mean(&gain_db[start.saturating_sub(piece)..start]);
    let to_db = mean(&gain_db[gain_db.len().saturating_sub(piece)..]);
    let way = to_db - from_db;
    let ms = |frames: f64| frames * 1000.0 / f64::from(rate_hz);
    // The first frame after which the gain stays within `left` of its end, and where between frames it got there.
    let reached = |left: f64| {
        if way.abs() < NO_WAY_DB || !settled {
            return None;
        }
        let last_out = (start..gain_db.len() - 1).rev().find(|&i| (value(i) - to_db).abs() > left)?;
        let (outer, inner) = ((value(last_out) - to_db).abs(), (value(last_out + 1) - to_db).abs());
        let part = if outer > inner { (outer - left) / (outer - inner) } else { 1.0 };
        Some(ms(cast::real(last_out) + part.clamp(0.0, 1.0) + 1.0 - cast::real(at)))
    };
    let to_95_ms = reached(0.05 * way.abs());
    let held_ms = ms(cast::real(gain_db.len() - at));
    let shown_ms = to_95_ms.map_or(if settled { 20.0 } else { held_ms }, |to_95_ms| 3.0 * to_95_ms);
    let shown_ms = shown_ms.clamp(20.0, held_ms.max(20.0));
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
        settled,
        held_s: held_ms / 1000.0,
        trace_from_ms,
        trace_step_ms,
        trace_db: trace.collect(),
    }
}
