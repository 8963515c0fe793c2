//! A passage and what is read off it before any path.

use std::cell::OnceCell;

use crate::{LevelMatches, Levels, OnsetLevels, PlainLevels, find_onsets, octave_levels, onset_levels};
use clear_bend_playing::path::{Path, Play};
use clear_bend_playing::render::{Rendered, render_with};
use clear_bend_signals::Material;
use clear_bend_sound::Buffer;

/// A passage with everything that can be read off it before any path, so that it is read only once.
#[derive(Debug, Clone)]
pub struct Passage {
    /// The samples.
    pub buffer: Buffer,
    /// What its single sounds are, where that is known.
    pub material: Material,
    /// Whether they are what stems send to a shared path.
    pub is_sent: bool,
    /// How they go through a path.
    pub play: Play,
    /// Their levels.
    pub levels: Levels,
    /// Where sounds begin, frames.
    pub onsets: Vec<usize>,
    /// The levels of the onsets.
    pub onset_levels: Vec<OnsetLevels>,
    /// Middles (Hz) and levels (dBFS) of its octaves, once they have been wanted.
    octaves: OnceCell<Vec<(f64, f64)>>,
}

impl Passage {
    /// Reads everything off a passage that is played once.
    #[must_use]
    pub fn new(buffer: Buffer) -> Self {
        Self::played(buffer, Play::Once)
    }

    /// Reads everything off a passage that is played in this way.
    #[must_use]
    pub fn played(buffer: Buffer, play: Play) -> Self {
        let onsets = find_onsets(&buffer);
        Self {
            material: Material::default(),
            is_sent: false,
            play,
            levels: Levels::of(&buffer),
            onset_levels: onset_levels(&buffer, &onsets),
            onsets,
            octaves: OnceCell::new(),
            buffer,
        }
    }

    /// Middles (Hz) and levels (dBFS) of its octaves.
    pub fn octaves(&self) -> &[(f64, f64)] {
        self.octaves.get_or_init(|| octave_levels(&self.buffer))
    }

    /// The gains that make what a path has made of the passage, with these levels, as loud as before.
    #[must_use]
    pub fn matches(&self, path: &Path, after: &PlainLevels) -> LevelMatches {
        LevelMatches::through(path, &(&self.levels).into(), after, self.buffer.seconds())
    }

    /// The passage through a path.
    #[must_use]
    pub fn through(&self, path: &Path) -> Rendered {
        render_with(path, &self.buffer, self.play, |_| {})
    }
}
