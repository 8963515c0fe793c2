//! Numbers read off a passage. Each has one definition, given in its docstring and in docs/measures.md.

mod compare;
mod levels;
mod onsets;
mod overview;
mod reduction;
mod static_curve;

pub use compare::{LevelMatch, LevelMatches, MatchBy, MatchedBy, difference};
pub use levels::{Levels, PlainLevels, crest_db, loudest_moments, loudness_or_rms, peak_and_loudness};
pub use onsets::{OnsetLevels, find_onsets, onset_levels};
pub use overview::{Overview, deepest};
pub use reduction::Reduction;
pub use static_curve::{CurvePoint, LEVELS_DBFS, measure_static_curve};
