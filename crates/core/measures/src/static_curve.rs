//! Input level against output level, predicted and measured with tones.

use std::f64::consts::TAU;

use serde::Serialize;

use super::levels::rms_dbfs;
use clear_bend_effects::Setup;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::cast;
use clear_bend_sound::level::{db_from_gain, gain_from_db};

/// The input levels at which a curve is measured, dBFS.
pub const LEVELS_DBFS: std::ops::RangeInclusive<i32> = -60..=0;

/// One level through a stage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct CurvePoint {
    /// Peak level of the tone that enters, dBFS.
    pub input_dbfs: f64,
    /// Peak level that the detector alone asks for, before mix and output gain, dBFS; none where the effect has no
    /// static curve, or where something else than its result is heard.
    pub asked_dbfs: Option<f64>,
    /// Peak level that leaves the whole stage by the formula, mix and output gain in it, dBFS.
    pub predicted_dbfs: Option<f64>,
    /// Peak level of the tone that leaves (its RMS level plus 3.01 dB), dBFS; none where nothing does.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub output_dbfs: f64,
}

/// Length of a piece of tone, s...
pub(super) const PIECE_S: f64 = 0.02;
/// ...and the whole waves in it: 1 kHz, or as near as whole samples allow.
pub(super) const WAVES: usize = 20;
/// The level counts as settled when it has moved by less than this for as long as the stage remembers, dB.
const SETTLED_DB: f64 = 2e-4;
/// The longest time to settle at one level, as a multiple of what the stage remembers: a drawn-out way ends as an
/// exponential of about twelve times its time.
const MOST_MEMORIES: f64 = 60.0;

/// Runs a 1 kHz tone at rising levels, `step_db` apart, through one stage until its level has settled.
///
/// Tone and stage are mono; the stage counts as switched on, with its mix and output gain.
#[must_use]
pub fn measure_static_curve(stage: &Stage, rate_hz: u32, step_db: usize) -> Vec<CurvePoint> {
    let stage = stage.alone();
    let tone = tone_piece(rate_hz);
    let setup = Setup { rate_hz, max_block: tone.len() };
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, setup);
    let late = chain.latency().div_ceil(tone.len());
    let remembers = cast::count(stage.memory_s() / PIECE_S) + 1;
    LEVELS_DBFS
        .step_by(step_db.max(1))
        .map(|level| {
            let input_dbfs = f64::from(level);
            let asked_dbfs = stage.effect.asked_dbfs(&stage.values, input_dbfs);
            CurvePoint {
                input_dbfs,
                asked_dbfs,
                predicted_dbfs: asked_dbfs.map(|asked_dbfs| mixed_dbfs(&stage, input_dbfs, asked_dbfs)),
                output_dbfs: settled_level_dbfs(&mut chain, &tone, input_dbfs, late, remembers),
            }
        })
        .collect()
}

/// The level of a tone after mix and output gain: both parts are in step and in phase, so that they add up.
fn mixed_dbfs(stage: &Stage, input_dbfs: f64, asked_dbfs: f64) -> f64 {
    let sum = stage.mix * gain_from_db(asked_dbfs) + (1.0 - stage.mix) * gain_from_db(input_dbfs);
    db_from_gain(sum * stage.output_gain())
}

/// Whole waves of a tone at full scale.
fn tone_piece(rate_hz: u32) -> Vec<f32> {
    let frames = cast::frames(PIECE_S, rate_hz);
    let angle = TAU * cast::real(WAVES) / cast::real(frames);
    (0..frames).map(|i| cast::sample((angle * cast::real(i)).sin())).collect()
}

/// The level that comes out once it rests. The stage comes `late` pieces late, and has to be looked at for as many as it
/// `remembers`: a detector may rise for that long before the gain first moves.
fn settled_level_dbfs(
    chain: &mut Chain,
    tone: &[f32],
    level_dbfs: f64,
    late: usize,
    remembers: usize,
) -> f64 {
    let gain = cast::sample(gain_from_db(level_dbfs));
    let mut piece = vec![0.0; tone.len()];
    let mut levels = Vec::new();
    let most = late + cast::count(MOST_MEMORIES * cast::real(remembers)) + 2;
    for k in 0..most {
        piece.iter_mut().zip(tone).for_each(|(x, tone)| *x = gain * tone);
        chain.process(&mut [&mut piece], 0);
        // A sine's RMS level lies 3.01 dB under its peak.
        levels.push(rms_dbfs(std::iter::once(piece.as_slice())) + 10.0 * 2f64.log10());
        let rested = &levels[levels.len().saturating_sub(remembers + 1)..];
        let (low, high) = rested.iter().fold((f64::MAX, f64::MIN), |(a, b), x| (a.min(*x), b.max(*x)));
        if k > late + remembers && (high - low < SETTLED_DB || high == f64::NEG_INFINITY) {
            break;
        }
    }
    levels.last().copied().unwrap_or(f64::NEG_INFINITY)
}
