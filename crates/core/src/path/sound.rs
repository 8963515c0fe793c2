//! The sounds of a stage: what it takes beside the one that runs through it.

use std::sync::Arc;

use crate::Buffer;
use crate::cast;
use crate::catalogue::SoundSlot;
use crate::signals::Source;

/// A sound in a slot of a stage.
#[derive(Debug, Clone)]
pub struct Sound {
    /// Where it comes from.
    pub source: Source,
    /// Its samples as the effect takes them; none as long as they are not at hand: such a sound is silent.
    pub samples: Option<Arc<Buffer>>,
}

/// Two sounds are the same if they come from the same place and have the same samples.
impl PartialEq for Sound {
    fn eq(&self, other: &Self) -> bool {
        let same = match (&self.samples, &other.samples) {
            (Some(one), Some(other)) => Arc::ptr_eq(one, other) || one == other,
            (one, other) => one.is_none() && other.is_none(),
        };
        self.source == other.source && same
    }
}

impl Sound {
    /// A sound whose samples are still to come.
    #[must_use]
    pub fn of(source: Source) -> Self {
        Self { source, samples: None }
    }
}

impl SoundSlot {
    /// A sound as an effect takes it in this slot with a passage of so many frames: with as many channels as it listens to,
    /// and, if it runs in step with the passage, cut or repeated to that length. A whole one was recorded as a response: of as many samples
    /// fewer as there are in a second now, each counts as much more, so that it answers as loudly as it did at its own rate.
    #[must_use]
    pub fn laid(&self, sound: &Buffer, frames: usize) -> Buffer {
        let as_it_is = self.whole || sound.frames() == frames;
        let mut laid = if as_it_is { sound.clone() } else { sound.repeated(frames) };
        if self.whole && sound.recorded_hz() != sound.rate_hz() {
            let gain = cast::sample(f64::from(sound.recorded_hz()) / f64::from(sound.rate_hz()));
            laid.channels_mut().iter_mut().flatten().for_each(|x| *x *= gain);
        }
        match self.channels {
            1 => laid.into_mono(),
            2 => laid.into_played(),
            _ => laid,
        }
    }
}
