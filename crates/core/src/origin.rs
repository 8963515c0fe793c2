//! Where the sounds of stages come from on a bench, and how they are laid beside the passage.

use crate::Buffer;
use crate::bench::CheckedStem;
use crate::catalogue::SoundSlot;
use crate::path::{Path, Play};
use crate::region::{Region, cut};
use crate::render::render_with;
use crate::signals::Source;

/// Where a sound of a stage comes from.
#[derive(Debug, Clone, PartialEq)]
pub struct Origin<'a> {
    /// What is played.
    pub source: &'a Source,
    /// What it runs through before it is heard; none where it is heard as it is.
    pub path: Option<Path>,
}

impl<'a> Origin<'a> {
    /// The origin of a sound on a bench with some stems: a stem is heard by its source, before or after its path.
    #[must_use]
    pub fn of(source: &'a Source, stems: &'a [CheckedStem]) -> Self {
        match source {
            Source::Stem { place, after } => stems.get(*place).map_or(Self { source, path: None }, |stem| {
                Self { source: &stem.source, path: after.then(|| stem.path.clone().taking_stems_before()) }
            }),
            source => Self { source, path: None },
        }
    }
}

impl SoundSlot {
    /// A sound as an effect takes it in this slot beside a passage of so many frames, which is a region of a bench: cut as that is
    /// and, where there is a path for it, as it leaves that.
    #[must_use]
    pub fn laid_on_bench(
        &self,
        sound: &Buffer,
        through: Option<&Path>,
        region: Option<Region>,
        play: Play,
        frames: usize,
    ) -> Buffer {
        let part = if self.whole { sound.clone() } else { cut(sound, region) };
        match through {
            Some(path) => self.laid(&render_with(path, &part.into_stereo(), play, |_| {}).after, frames),
            None => self.laid(&part, frames),
        }
    }
}
