//! How everything waits for the slowest.

use super::Live;
use super::lane::{Lane, Runs};
use super::returns::Return;
use crate::dsp::Delay;

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

fn both(frames: usize) -> [Delay; 2] {
    [(); 2].map(|()| Delay::new(frames))
}

/// Another alignment, with the delays of all that run.
pub(super) struct Realignment {
    to: Alignment,
    lanes: Vec<[Delay; 2]>,
    returns: Vec<OfReturn>,
}

/// The delays of a shared path.
struct OfReturn {
    feed: [Delay; 2],
    back: [Delay; 2],
}

impl Live {
    /// The latencies of the slowest, in their newest versions, leaving one out.
    pub(super) fn slowest_but(&self, left_out: Option<Runs>) -> Slowest {
        let lanes = self.lanes.iter().enumerate().map(|(place, lane)| (Runs::Lane(place), lane));
        let shared = self.returns.iter().enumerate().map(|(number, to)| (Runs::Shared(number), &to.lane));
        let mut slowest = Slowest::default();
        for (runs, lane) in lanes.chain(shared).filter(|(runs, _)| Some(*runs) != left_out) {
            let own = slowest.of(runs);
            *own = self.waiting.lane(runs).unwrap_or(lane).chain.latency().max(*own);
        }
        slowest
    }

    /// Lets everything wait for a lane and a return that are so late.
    pub(super) fn align(&mut self, mut slowest: Slowest) {
        let waiting = self.waiting.realignment().map(|realignment| &realignment.to);
        if slowest == waiting.unwrap_or(&self.alignment).slowest {
            return;
        }
        let of_return =
            |to: &Return| OfReturn { feed: both(slowest.lane), back: to.lane.aligned_to(slowest.shared) };
        let realignment = Realignment {
            to: Alignment::new(slowest),
            lanes: self.lanes.iter().map(|lane| lane.aligned_to(slowest.lane)).collect(),
            returns: self.returns.iter().map(of_return).collect(),
        };
        let change = self.change();
        for (runs, lane) in change.lanes() {
            lane.align(*slowest.of(*runs));
        }
        change.realignment = Some(realignment);
    }

    /// Brings everything to another latency, if one waits.
    pub(super) fn apply_realignment(&mut self) {
        let Some(Realignment { to, lanes, returns }) = &mut self.waiting.realignment else { return };
        std::mem::swap(to, &mut self.alignment);
        let slowest = self.alignment.slowest;
        // A lane that has come meanwhile knows the new latency already.
        let bring = |lane: &mut Lane, aligned: &mut [Delay; 2], slowest: usize| {
            if lane.chain.latency() + aligned[0].frames() == slowest {
                std::mem::swap(aligned, &mut lane.aligned);
            }
        };
        for (lane, aligned) in self.lanes.iter_mut().zip(lanes) {
            bring(lane, aligned, slowest.lane);
        }
        for (to, OfReturn { feed, back }) in self.returns.iter_mut().zip(returns) {
            std::mem::swap(feed, &mut to.aligned);
            bring(&mut to.lane, back, slowest.shared);
        }
    }
}
