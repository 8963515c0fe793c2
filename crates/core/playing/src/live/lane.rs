//! One of the paths that run side by side.

use super::room::FADE_S;
use crate::path::{Chain, Path, Stage};
use clear_bend_effects::{MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, Ramp};

/// A path that runs: in a lane beside others, over the same source, or as one that is shared, over what is sent to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Runs {
    /// In a lane, by its place.
    Lane(usize),
    /// As a shared path, by its number.
    Shared(usize),
}

/// A place alone is that of a lane.
impl From<usize> for Runs {
    fn from(place: usize) -> Self {
        Self::Lane(place)
    }
}

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
    /// A path at rest, whose share of what is heard is 0 or 1, and its place among those that are made ready.
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

    /// Runs over a block and makes it as late as that of the slowest lane.
    pub(super) fn run(&mut self, left: &mut [f32], right: &mut [f32], at: usize) {
        let n = left.len();
        self.chain.process(&mut [&mut *left, &mut *right], at);
        self.age = self.age.saturating_add(n);
        self.aligned[0].process(left);
        self.aligned[1].process(right);
    }
}
