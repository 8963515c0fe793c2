//! What is handed out: before, after, or their difference. Never limited, and after is never matched in level.

use serde::{Deserialize, Serialize};

use crate::Buffer;
use crate::measures::{LevelMatches, MatchBy, PlainLevels, difference};
use crate::path::Path;
use crate::render::render;

/// What is handed out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Part {
    /// The passage untouched.
    Before,
    /// The passage through the path.
    #[default]
    After,
    /// After minus before, with after matched in level first.
    Difference,
}

/// The samples of a part.
#[must_use]
pub fn export(part: Part, before: &Buffer, path: &Path, match_by: MatchBy) -> Buffer {
    if part == Part::Before {
        return before.clone();
    }
    let after = render(path, before).after;
    if part == Part::After {
        return after;
    }
    let matches = LevelMatches::between(&PlainLevels::of(before), &PlainLevels::of(&after), before.seconds());
    difference(before, &after, matches.gain_db(match_by))
}
