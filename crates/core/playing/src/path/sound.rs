//! The sounds of a stage: what it takes beside the one that runs through it.

use std::sync::Arc;

use clear_bend_signals::Source;
use clear_bend_sound::Buffer;

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
