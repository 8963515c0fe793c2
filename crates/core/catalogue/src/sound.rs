//! The sounds that an effect takes beside the one that runs through it.

use clear_bend_sound::{Buffer, cast};
use serde::Serialize;

/// A place for a sound that an effect takes, as a key or an impulse response.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SoundSlot {
    /// Identifier in files.
    pub id: &'static str,
    /// The name on the screen.
    pub label: &'static str,
    /// What the sound does, in a few words.
    pub what: &'static str,
    /// What there is without it, in a few words.
    pub without: &'static str,
    /// The heading of the parameters among which it is chosen.
    pub group: &'static str,
    /// How many channels the effect listens to: 1 gets the mean of both, 4 true stereo as well.
    pub channels: usize,
    /// Whether the effect gets all of it when it is made, at its own length; otherwise it runs in step with the passage.
    pub whole: bool,
    /// The kind of signal that a new stage takes here; none where it begins without a sound.
    pub usual: Option<&'static str>,
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

/// The key of effects with a detector.
pub const KEY: SoundSlot = SoundSlot {
    id: "key",
    label: "Key",
    what: "what the detector hears",
    without: "its own signal",
    group: "Key",
    channels: 2,
    whole: false,
    usual: None,
};
