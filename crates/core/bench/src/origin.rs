//! Where the sounds of stages come from on a bench, and how they are laid beside the passage; and all of its stems as they play.

use std::borrow::Cow;
use std::sync::Arc;

use crate::{BENCH_RATE_HZ, BenchDocument, CheckedStem};
use clear_bend_catalogue::SoundSlot;
use clear_bend_playing::mix::{Desk, Playing};
use clear_bend_playing::path::{Path, Play};
use clear_bend_playing::render::render_with;
use clear_bend_signals::Source;
use clear_bend_sound::Buffer;
use clear_bend_sound::region::{Region, cut};

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

/// A sound as an effect takes it in a slot beside a passage of so many frames, which is a region of a bench: cut as that is
/// and, where there is a path for it, as it leaves that.
#[must_use]
pub fn laid_on_bench(
    slot: &SoundSlot,
    sound: &Buffer,
    through: Option<&Path>,
    region: Option<Region>,
    play: Play,
    frames: usize,
) -> Buffer {
    let part = if slot.whole { sound.clone() } else { cut(sound, region) };
    match through {
        Some(path) => {
            let after = render_with(path, &part.into_stereo(), play, |_| {}).after;
            slot.laid(&after.recorded_at(sound.recorded_hz()), frames)
        }
        None => slot.laid(&part, frames),
    }
}

/// Finds the samples of the sounds of paths beside a passage of a bench.
pub struct Sounds<'a, F> {
    /// The bench.
    pub bench: &'a BenchDocument,
    /// Its stems.
    pub stems: &'a [CheckedStem],
    /// How long the passage is, frames.
    pub frames: usize,
    /// Gives the samples of a source, all of it.
    pub sound: F,
}

impl<E, F: FnMut(&Source) -> Result<Buffer, E>> Sounds<'_, F> {
    /// A path with the samples of all its sounds.
    ///
    /// # Errors
    /// Says which source has none: it would be silent.
    pub fn of(&mut self, path: Path) -> Result<Path, E> {
        let mut refused = None;
        let path = path.with_sounds(|_, slot, source| {
            self.laid(slot, source).map_err(|error| refused = Some(error)).ok()
        });
        refused.map_or(Ok(path), Err)
    }

    fn laid(&mut self, slot: &SoundSlot, source: &Source) -> Result<Arc<Buffer>, E> {
        let Origin { source, path } = Origin::of(source, self.stems);
        let sound = (self.sound)(source)?;
        // Its own sounds are before their paths: this goes no deeper.
        let path = path.map(|path| self.of(path)).transpose()?;
        let BenchDocument { region, play, .. } = self.bench;
        Ok(Arc::new(laid_on_bench(slot, &sound, path.as_ref(), *region, *play, self.frames)))
    }
}

/// The stems of a bench as they play together: `sound` gives the samples of a source, all of it.
///
/// # Errors
/// Says which source has none.
pub fn desk<'a, E>(
    bench: &'a BenchDocument,
    stems: &'a [CheckedStem],
    mut sound: impl FnMut(&Source) -> Result<Buffer, E>,
) -> Result<Desk<'a>, E> {
    let mut playing = Vec::new();
    for stem in stems {
        // Of ten minutes, a minute at most is needed.
        let source = (!stem.is_shared()).then(|| sound(&stem.source)).transpose()?;
        let source = source.map(|source| Cow::Owned(cut(&source, bench.region)));
        playing.push(Playing { source, path: stem.path.clone(), strip: stem.strip, sends: &stem.sends });
    }
    let mut desk = Desk {
        stems: playing,
        work: bench.work,
        play: bench.play,
        region: None,
        sends_as: bench.listening.sends_as,
        rate_hz: BENCH_RATE_HZ,
    };
    // Sounds are as long as all of it.
    let mut sounds = Sounds { bench, stems, frames: desk.frames(), sound };
    for playing in &mut desk.stems {
        playing.path = sounds.of(std::mem::take(&mut playing.path))?;
    }
    Ok(desk)
}
