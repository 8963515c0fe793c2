//! Input level against output level, predicted and measured with tones.

use serde::Serialize;

use super::levels::rms_dbfs;
use crate::Buffer;
use crate::cast;
use crate::catalogue::Number;
use crate::effects::Setup;
use crate::level::gain_from_db;
use crate::path::{Chain, Path, Stage};
use crate::signals::{Source, SourceDocument};

/// The input levels at which a curve is measured, dBFS.
pub const LEVELS_DBFS: std::ops::RangeInclusive<i32> = -60..=0;

/// One level through a stage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct CurvePoint {
    /// Peak level of the tone that enters, dBFS.
    pub input_dbfs: f64,
    /// Peak level that the formula predicts, dBFS; none where the effect has no static curve.
    pub predicted_dbfs: Option<f64>,
    /// Peak level of the tone that leaves (its RMS level plus 3.01 dB), dBFS.
    pub output_dbfs: f64,
}

/// Length of a piece of tone, s: 20 whole waves of 1 kHz at any usual rate.
const PIECE_S: f64 = 0.02;
/// The level counts as settled when it moves by less than this from one piece to the next, dB.
const SETTLED_DB: f64 = 2e-4;
/// Longest time to settle at one level, in pieces: 20 s.
const MOST_PIECES: usize = 1000;

/// Runs a 1 kHz tone at rising levels, `step_db` apart, through one stage until its level has settled.
///
/// Tone and stage are mono and at unit mix; the stage counts as switched on.
#[must_use]
pub fn measure_static_curve(stage: &Stage, rate_hz: u32, step_db: usize) -> Vec<CurvePoint> {
    let stage = Stage { mix: 1.0, ..stage.alone() };
    let Some(piece) = tone_piece(rate_hz) else { return Vec::new() };
    let setup = Setup { rate_hz, max_block: piece.frames() };
    let predict = stage.effect.static_curve;
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, setup);
    LEVELS_DBFS
        .step_by(step_db.max(1))
        .map(|level| {
            let input_dbfs = f64::from(level);
            CurvePoint {
                input_dbfs,
                predicted_dbfs: predict.map(|curve| curve(&stage.values, input_dbfs)),
                output_dbfs: settled_level_dbfs(&mut chain, &piece, input_dbfs),
            }
        })
        .collect()
}

/// Twenty waves of a 1 kHz tone at full scale.
fn tone_piece(rate_hz: u32) -> Option<Buffer> {
    let params = [("freq_hz", 1000.0), ("level_dbfs", 0.0), ("seconds", 0.1)];
    let params = params.into_iter().map(|(id, value)| (id.to_owned(), Number(value)));
    let tone = Source::from_document(&SourceDocument::of_kind("sine", params)).ok()?;
    let frames = cast::frames(PIECE_S, rate_hz);
    Some(tone.render(rate_hz, 1).ok()?.slice(0..frames))
}

fn settled_level_dbfs(chain: &mut Chain, tone: &Buffer, level_dbfs: f64) -> f64 {
    let gain = cast::sample(gain_from_db(level_dbfs));
    let mut last = f64::NAN;
    let mut piece = vec![0.0; tone.frames()];
    for _ in 0..MOST_PIECES {
        piece.iter_mut().zip(&tone.channels()[0]).for_each(|(x, tone)| *x = gain * tone);
        chain.process(&mut [&mut piece], 0);
        // A sine's RMS level lies 3.01 dB under its peak.
        let level = rms_dbfs(std::iter::once(piece.as_slice())) + 10.0 * 2f64.log10();
        if (level - last).abs() < SETTLED_DB {
            return level;
        }
        last = level;
    }
    last
}
