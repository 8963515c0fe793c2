//! How everything waits for the slowest.

use super::lane::Runs;
use clear_bend_sound::dsp::Delay;

/// Frames by which the slowest lane is late, for which all else waits, and by which the slowest return is after that, for which what is
/// heard of the stem at work waits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Slowest {
    pub(super) lane: usize,
    pub(super) shared: usize,
}

impl Slowest {
    /// That of the kind of a path.
    pub(super) fn of(&mut self, runs: Runs) -> &mut usize {
        match runs {
            Runs::Lane(_) => &mut self.lane,
            Runs::Shared(_) => &mut self.shared,
        }
    }
}

/// The delays by which everything is brought to the slowest.
pub(super) struct Alignment {
    pub(super) slowest: Slowest,
    pub(super) before: [Delay; 2],
    pub(super) backing: [Delay; 2],
    /// What is heard of the stem at work.
    pub(super) heard: [Delay; 2],
}

impl Alignment {
    pub(super) fn new(slowest: Slowest) -> Self {
        let Slowest { lane, shared } = slowest;
        Self { slowest, before: both(lane), backing: both(lane + shared), heard: both(shared) }
    }

    /// Frames by which what is heard is late.
    pub(super) fn latency(&self) -> usize {
        self.slowest.lane + self.slowest.shared
    }
}

/// Delays of two channels.
pub(super) fn both(frames: usize) -> [Delay; 2] {
    [(); 2].map(|()| Delay::new(frames))
}

/// Another alignment, with the delays of all that run.
pub(super) struct Realignment {
    pub(super) to: Alignment,
    pub(super) lanes: Vec<[Delay; 2]>,
    pub(super) returns: Vec<OfReturn>,
}

/// The delays of a shared path.
pub(super) struct OfReturn {
    pub(super) feed: [Delay; 2],
    pub(super) back: [Delay; 2],
}
