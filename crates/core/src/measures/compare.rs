//! Before against after: level match and difference.

use serde::Serialize;

use super::Levels;
use crate::Buffer;
use crate::cast;
use crate::level::gain_from_db;

/// Passages shorter than this are matched by RMS: the gating of integrated loudness needs time.
const SHORTEST_FOR_LOUDNESS_S: f64 = 3.0;

/// The gain that makes after as loud as before.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelMatch {
    /// Gain for the signal after, dB.
    pub gain_db: f64,
    /// What was made equal.
    pub by: MatchedBy,
}

/// What a level match makes equal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum MatchedBy {
    /// Integrated loudness.
    Loudness,
    /// RMS level: the passage is under 3 s, or under the loudness gate.
    Rms,
    /// Nothing: one of the two is silent.
    Silence,
}

impl LevelMatch {
    /// The match of two passages of this length.
    #[must_use]
    pub fn between(before: &Levels, after: &Levels, seconds: f64) -> Self {
        let by_loudness = before.loudness_lufs - after.loudness_lufs;
        let by_rms = before.rms_dbfs - after.rms_dbfs;
        if seconds >= SHORTEST_FOR_LOUDNESS_S && by_loudness.is_finite() {
            Self { gain_db: by_loudness, by: MatchedBy::Loudness }
        } else if by_rms.is_finite() {
            Self { gain_db: by_rms, by: MatchedBy::Rms }
        } else {
            Self { gain_db: 0.0, by: MatchedBy::Silence }
        }
    }
}

/// After with a gain, minus before. Both have the same shape; what one lacks counts as silence.
#[must_use]
pub fn difference(before: &Buffer, after: &Buffer, match_gain_db: f64) -> Buffer {
    let gain = cast::sample(gain_from_db(match_gain_db));
    let mut out = after.clone();
    for (out, before) in out.channels_mut().iter_mut().zip(before.channels()) {
        out.iter_mut().zip(before).for_each(|(x, before)| *x = gain * *x - before);
    }
    out
}
