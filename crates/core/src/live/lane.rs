//! One of the paths that run side by side.

use super::FADE_S;
use crate::cast;
use crate::dsp::{Delay, Ramp};
use crate::effects::{MOVE_S, Setup};
use crate::path::{Chain, Path, Stage};

/// One path at work.
pub(super) struct Lane {
    pub(super) stages: Vec<Stage>,
    pub(super) chain: Chain,
    pub(super) aligned: [Delay; 2],
    pub(super) match_gain: Ramp,
    pub(super) share: Ramp,
    /// Frames for which it has run.
    pub(super) age: usize,
    /// Whether it does not run, because nobody hears it and the machine is slow.
    pub(super) rests: bool,
}

impl Lane {
    /// A path at rest, whose share of what is heard is 0 or 1, and its place among the lanes.
    pub(super) fn new(setup: Setup, path: &Path, share: f64, turn: usize) -> Self {
        Self {
            stages: path.stages.clone(),
            chain: Chain::in_turn(path, setup, turn),
            aligned: [Delay::new(0), Delay::new(0)],
            match_gain: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            share: Ramp::new(share, cast::frames(FADE_S, setup.rate_hz)),
            age: 0,
            rests: false,
        }
    }

    pub(super) fn align(&mut self, latency: usize) {
        self.aligned = self.aligned_to(latency);
    }

    /// Delays that make this lane as late as the slowest.
    pub(super) fn aligned_to(&self, latency: usize) -> [Delay; 2] {
        [(); 2].map(|()| Delay::new(latency - self.chain.latency().min(latency)))
    }
}
