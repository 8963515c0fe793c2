//! What is handed out: before, after, after as loud as before, or their difference. Never limited.

use serde::{Deserialize, Serialize};

use crate::{LevelMatches, MatchBy, PlainLevels, difference};
use clear_bend_playing::path::Path;
use clear_bend_playing::path::Play;
use clear_bend_playing::render::render_with;
use clear_bend_sound::Buffer;

/// What is handed out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Part {
    /// The passage untouched.
    Before,
    /// The passage through the path, not matched in level.
    #[default]
    After,
    /// The same with the gain that makes it as loud as before.
    Matched,
    /// After minus before, with after matched in level first.
    Difference,
}

/// The samples of a part: one round of a loop as it is heard once settled, or the passage once, with its tail. `after_stage` is
/// called with the passage after each stage but the last.
#[must_use]
pub fn export(
    part: Part,
    before: &Buffer,
    path: &Path,
    play: Play,
    match_by: MatchBy,
    after_stage: impl FnMut(&Buffer),
) -> Buffer {
    if part == Part::Before {
        return before.clone();
    }
    let rendered = render_with(path, before, play, after_stage);
    let whole = rendered.with_tail();
    if part == Part::After {
        return whole.into_owned();
    }
    let levels = PlainLevels::of(&rendered.after);
    let matches = LevelMatches::through(path, &PlainLevels::of(before), &levels, before.seconds());
    let gain_db = matches.gain_db(match_by);
    if part == Part::Matched {
        let mut matched = whole.into_owned();
        matched.apply_gain_db(gain_db);
        return matched;
    }
    let mut silent_after = before.clone();
    silent_after.resize(whole.frames());
    difference(&silent_after, &whole, gain_db)
}
