//! The key of a stage: another sound that drives its detector.

use std::sync::Arc;

use crate::Buffer;
use crate::signals::Source;

/// What drives the detector of a stage instead of the signal itself.
#[derive(Debug, Clone)]
pub struct Key {
    /// Where it comes from.
    pub source: Source,
    /// Its samples, in step with the passage and as long; none as long as they are not at hand: such a key is silent.
    pub samples: Arc<[f32]>,
}

impl PartialEq for Key {
    fn eq(&self, other: &Self) -> bool {
        self.source == other.source && self.samples.len() == other.samples.len()
    }
}

/// A sound as a key for a passage of so many frames: its channels' mean, cut or repeated to that length.
#[must_use]
pub fn key_samples(sound: &Buffer, frames: usize) -> Arc<[f32]> {
    let channels = sound.channels();
    let share = 1.0 / crate::cast::sample(crate::cast::real(channels.len()));
    let one = |i: usize| channels.iter().map(|channel| channel[i]).sum::<f32>() * share;
    (0..sound.frames()).cycle().take(frames).map(one).collect()
}
