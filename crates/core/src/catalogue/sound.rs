//! The sounds that an effect takes beside the one that runs through it.

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
