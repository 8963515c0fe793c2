//! Before against after: level match and difference.

use serde::{Deserialize, Serialize};

use super::PlainLevels;
use clear_bend_playing::path::Path;
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::sanitise;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

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
    /// RMS level: asked for, or the passage is under 3 s or under the loudness gate.
    Rms,
    /// Peak level.
    Peak,
    /// Nothing: one of the two is silent.
    Silence,
    /// Nothing: a part of the sound is heard alone, at its own level.
    Part,
}

/// What a level match is asked to make equal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum MatchBy {
    /// Integrated loudness, or the RMS level where a passage is too short or too quiet for it.
    #[default]
    Loudness,
    /// RMS level.
    Rms,
    /// Peak level.
    Peak,
    /// Nothing: after is heard as it is.
    Off,
}

/// The level matches of a passage, one for each way of matching.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelMatches {
    /// By loudness, where it can be measured.
    pub loudness: LevelMatch,
    /// By RMS level.
    pub rms: LevelMatch,
    /// By peak level.
    pub peak: LevelMatch,
    /// As it is.
    pub off: LevelMatch,
}

impl LevelMatches {
    /// The matches of two passages of this length.
    #[must_use]
    pub fn between(before: &PlainLevels, after: &PlainLevels, seconds: f64) -> Self {
        let matched = |gain_db: f64, by| {
            let silence = LevelMatch { gain_db: 0.0, by: MatchedBy::Silence };
            if gain_db.is_finite() { LevelMatch { gain_db, by } } else { silence }
        };
        let by_loudness = before.loudness_lufs - after.loudness_lufs;
        let rms = matched(before.rms_dbfs - after.rms_dbfs, MatchedBy::Rms);
        let measurable = seconds >= SHORTEST_FOR_LOUDNESS_S && by_loudness.is_finite();
        Self {
            loudness: if measurable { matched(by_loudness, MatchedBy::Loudness) } else { rms },
            rms,
            peak: matched(before.peak_dbfs - after.peak_dbfs, MatchedBy::Peak),
            off: LevelMatch { gain_db: 0.0, by: MatchedBy::Silence },
        }
    }

    /// The matches of a passage of this length before and after a path.
    #[must_use]
    pub fn through(path: &Path, before: &PlainLevels, after: &PlainLevels, seconds: f64) -> Self {
        if path.hears_part() { Self::of_part() } else { Self::between(before, after, seconds) }
    }

    /// None of them: a part of the sound is heard alone, and as loud as it is in the whole.
    #[must_use]
    fn of_part() -> Self {
        let part = LevelMatch { gain_db: 0.0, by: MatchedBy::Part };
        Self { loudness: part, rms: part, peak: part, off: part }
    }

    /// The gain of one of them, dB.
    #[must_use]
    pub fn gain_db(&self, by: MatchBy) -> f64 {
        match by {
            MatchBy::Loudness => self.loudness.gain_db,
            MatchBy::Rms => self.rms.gain_db,
            MatchBy::Peak => self.peak.gain_db,
            MatchBy::Off => 0.0,
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
        // Two sizes that nearly cancel leave numbers that are too small.
        sanitise(out);
    }
    out
}
