//! Everything that is read off a passage before and after, as it is told.

use std::collections::BTreeMap;

use serde::Serialize;

use clear_bend_measures::room::Room;
use clear_bend_measures::{
    Duck, LevelMatches, Levels, OnsetLevels, PlainLevels, Pumping, Reduction, Sibilants,
};
use clear_bend_playing::path::Play;
use clear_bend_signals::Material;

use super::moving::Moving;
use super::sentence::{MatchSentences, Sentence};

/// Peak and loudness at one point of the path.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PointLevels {
    /// Largest absolute sample, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub peak_dbfs: f64,
    /// Integrated loudness, LUFS; the RMS level, dBFS, where the passage is too short or too quiet for it.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub loudness_lufs: f64,
}

impl From<&Levels> for PointLevels {
    fn from(levels: &Levels) -> Self {
        Self::from(&PlainLevels::from(levels))
    }
}

impl From<&PlainLevels> for PointLevels {
    fn from(levels: &PlainLevels) -> Self {
        Self { peak_dbfs: levels.peak_dbfs, loudness_lufs: levels.loudness_or_rms() }
    }
}

/// One onset before and after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct OnsetChange {
    /// When it begins, s.
    pub at_s: f64,
    /// Its levels before.
    pub before: OnsetLevels,
    /// Its levels after, not matched.
    pub after: OnsetLevels,
}

impl OnsetChange {
    /// Change of the largest level of the first 20 ms, dB.
    #[must_use]
    pub fn transient_change_db(&self) -> f64 {
        self.after.transient_dbfs - self.before.transient_dbfs
    }
}

/// One octave before and after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct OctaveChange {
    /// Middle of the octave, Hz.
    pub freq_hz: f64,
    /// RMS level before, dBFS.
    pub before_dbfs: f64,
    /// RMS level after, not matched, dBFS.
    pub after_dbfs: f64,
}

/// A reference track.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ReferenceLevels {
    /// Its levels as it is.
    pub levels: Levels,
    /// The gain that makes it as loud as before, dB.
    pub match_gain_db: f64,
}

/// What only some stages show.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct StageReadings {
    /// How much its gain moves with the onsets.
    pub pumping: Option<Pumping>,
    /// What is taken off the sibilants.
    pub sibilants: Option<Sibilants>,
    /// What every onset of its key does to its gain.
    pub ducks: Vec<Duck>,
    /// What is read off its response, where it is a room.
    pub room: Option<Room>,
    /// The share of that response's energy which comes later than the loop is long; none where it is played once.
    pub beyond_loop: Option<f64>,
    /// Whether it works on the side of a sound that has none.
    pub silent_side: bool,
    /// What is read off its movement, where it moves.
    pub moving: Option<Moving>,
    /// Why it does nothing but to the level, where that is so, with measured numbers between asterisks.
    pub idle: Option<String>,
}

/// What a path does to a passage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Report {
    /// Length of the passage, s.
    pub seconds: f64,
    /// Its sample rate, Hz.
    pub rate_hz: u32,
    /// Levels before.
    pub before: Levels,
    /// Levels after, not matched.
    pub after: Levels,
    /// The gains that make after as loud as before.
    pub level_matches: LevelMatches,
    /// Levels along the path: at the source, then after every stage.
    pub points: Vec<PointLevels>,
    /// Gain reduction of every stage that reports one.
    pub reductions: Vec<Option<Reduction>>,
    /// For how long it goes on after its end until what is left is 60 dB under its loudest, s; 0 in a round.
    pub tail_s: f64,
    /// By how much it has fallen by then where it is followed no further, dB; none where it has ended.
    pub tail_left_db: Option<f64>,
    /// How it is played.
    pub play: Play,
    /// What its single sounds are.
    pub material: Material,
    /// Room after the path before a true peak reaches full scale, dB; negative when it is over.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub room_db: f64,
    /// What only some stages show.
    pub stages: Vec<StageReadings>,
    /// What the parameters of every stage are there to change, by the outcome's id; `null` where the passage
    /// does not show it.
    pub outcomes: Vec<BTreeMap<&'static str, Option<f64>>>,
    /// The level in every octave before and after, where the path has a filter at work.
    pub octaves: Vec<OctaveChange>,
    /// Every onset before and after.
    pub onsets: Vec<OnsetChange>,
    /// The stages of a shared path whose mix lets what is sent come back untouched as well.
    pub dry_stages: Vec<usize>,
    /// What has changed, in words, with the match by loudness.
    pub sentences: Vec<Sentence>,
    /// Which of them is of the match, and what it says instead where another one is heard; none where nothing happens.
    pub match_sentences: Option<MatchSentences>,
}

impl Report {
    /// The levels before, after (not matched) and their change, and the gain reduction of every stage, as CSV.
    #[must_use]
    pub fn to_csv(&self) -> String {
        let mut csv = String::from("measure,unit,before,after,change\n");
        let mut row = |name: &str, unit: &str, before: f64, after: f64| {
            csv += &format!("{name},{unit},{},{},{}\n", cell(before), cell(after), cell(after - before));
        };
        let (b, a) = (&self.before, &self.after);
        row("peak", "dBFS", b.peak_dbfs, a.peak_dbfs);
        row("true peak", "dBTP", b.true_peak_dbtp, a.true_peak_dbtp);
        row("RMS", "dBFS", b.rms_dbfs, a.rms_dbfs);
        let number = |value: Option<f64>| value.unwrap_or(f64::NAN);
        row("crest factor", "dB", number(b.crest_db), number(a.crest_db));
        row("loudness", "LUFS", b.loudness_lufs, a.loudness_lufs);
        row("loudness range", "LU", number(b.range_lu), number(a.range_lu));
        if let Some((before, after)) = b.evenness_lu.zip(a.evenness_lu) {
            row("evenness", "LU", before, after);
        }
        for (i, reduction) in self.reductions.iter().enumerate() {
            let Some(reduction) = reduction else { continue };
            for (name, value) in [("mean", reduction.mean_db), ("largest", reduction.largest_db)] {
                csv += &format!("{name} gain reduction of stage {},dB,,{},\n", i + 1, cell(value));
            }
        }
        csv
    }
}

/// A number in a CSV file; nothing where there is none.
pub(crate) fn cell(value: f64) -> String {
    if value.is_finite() { format!("{value:.3}") } else { String::new() }
}
