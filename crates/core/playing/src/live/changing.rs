//! How changes come in: what would be heard as a jump waits, and is done in a moment of silence; all is kept in step with the slowest.

use super::Live;
use super::alignment::{Alignment, OfReturn, Realignment, Slowest, both};
use super::lane::{Lane, Runs};
use super::returns::Return;
use super::waiting::Waiting;
use clear_bend_sound::dsp::Delay;

impl Live {
    /// The changes to be done when the gate has closed. Drops what earlier changes have replaced.
    pub(super) fn change(&mut self) -> &mut Waiting {
        if !self.waiting.due {
            self.waiting = Waiting { due: true, ..Waiting::default() };
        }
        &mut self.waiting
    }

    /// Does what waits.
    pub(super) fn apply_waiting(&mut self) {
        if !self.waiting.is_due() {
            return;
        }
        self.waiting.due = false;
        if let Some(source) = &mut self.waiting.source {
            std::mem::swap(source, &mut self.memory.source);
            self.memory.position = 0;
        }
        if let Some(backing) = &mut self.waiting.backing {
            std::mem::swap(backing, &mut self.memory.backing);
        }
        if let Some(reference) = &mut self.waiting.reference {
            std::mem::swap(reference, &mut self.memory.reference);
            self.memory.reference_position = 0;
        }
        for (number, feed) in &mut self.waiting.feeds {
            if let Some(to) = self.returns.get_mut(*number) {
                std::mem::swap(feed, &mut to.feed);
            }
        }
        for (runs, lane) in &mut self.waiting.lanes {
            let old = match *runs {
                Runs::Shared(number) => self.returns.get_mut(number).map(|to| &mut to.lane),
                Runs::Lane(place) => self.lanes.get_mut(place),
            };
            if let Some(old) = old {
                lane.share = old.share.clone();
                std::mem::swap(lane, old);
            }
        }
        self.apply_realignment();
        if let Some(frame) = self.waiting.seek {
            self.memory.position = frame.min(self.memory.source.frames().max(1) - 1);
        }
        self.tell_passage();
        self.hush = self.alignment.latency();
    }

    /// The newest version of a path: the one that waits, or else the one that runs.
    pub(super) fn newest(&mut self, runs: Runs) -> Option<&mut Lane> {
        let running = match runs {
            Runs::Shared(number) => self.returns.get_mut(number).map(|to| &mut to.lane),
            Runs::Lane(place) => self.lanes.get_mut(place),
        };
        self.waiting.lane_mut(runs).or(running)
    }

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
