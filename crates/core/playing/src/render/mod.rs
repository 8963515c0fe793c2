//! A path over a whole passage, as it is measured and exported.

mod rendered;
mod run;
mod stage;

pub use rendered::{LONGEST_TAIL_S, Moved, Rendered};
pub use run::{Look, Run, Underway, tail_frames};

use crate::path::{Path, Play};
use clear_bend_sound::Buffer;

/// Runs a path over a passage; calls `after_stage` with the passage after each stage but the last.
pub fn render_with(path: &Path, before: &Buffer, play: Play, after_stage: impl FnMut(&Buffer)) -> Rendered {
    Run::<()>::keeping(0).render(path, before, play, after_stage)
}

/// Runs a path, from rest, over a passage.
#[must_use]
pub fn render(path: &Path, before: &Buffer) -> Rendered {
    render_with(path, before, Play::Once, |_| {})
}
