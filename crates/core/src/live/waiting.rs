//! What waits for a moment of silence: changes that would be heard as a jump are done while the gate is closed.

use super::Live;
use super::alignment::Realignment;
use super::lane::{Lane, Runs};
use crate::Buffer;

/// Changes that wait for the gate to close. Once done, it holds what was replaced, so that freeing it is
/// left to the next control call.
#[derive(Default)]
pub(super) struct Waiting {
    due: bool,
    pub(super) seek: Option<usize>,
    pub(super) source: Option<Buffer>,
    pub(super) backing: Option<Buffer>,
    pub(super) reference: Option<Buffer>,
    /// What is sent to shared paths, by their numbers.
    pub(super) feeds: Vec<(usize, Buffer)>,
    lanes: Vec<(Runs, Lane)>,
    /// Another latency, and the delays that bring everything to it.
    pub(super) realignment: Option<Realignment>,
}

impl Waiting {
    /// The lanes that wait.
    pub(super) fn lanes(&mut self) -> impl Iterator<Item = &mut (Runs, Lane)> {
        let due = self.due;
        self.lanes.iter_mut().filter(move |_| due)
    }

    /// One of them.
    pub(super) fn lane(&self, runs: Runs) -> Option<&Lane> {
        self.lanes.iter().filter(|_| self.due).find(|(at, _)| *at == runs).map(|(_, lane)| lane)
    }

    /// The same, to be changed.
    pub(super) fn lane_mut(&mut self, runs: Runs) -> Option<&mut Lane> {
        self.lanes().find(|(at, _)| *at == runs).map(|(_, lane)| lane)
    }

    /// Lets a lane wait, in place of one that waits for the same.
    pub(super) fn put_lane(&mut self, runs: Runs, lane: Lane) {
        self.forget_lane(runs);
        self.lanes.push((runs, lane));
    }

    /// One that waits is older than one that runs already.
    pub(super) fn forget_lane(&mut self, runs: Runs) {
        self.lanes.retain(|(at, _)| *at != runs);
    }

    /// Lets what is sent to a shared path wait.
    pub(super) fn put_feed(&mut self, number: usize, feed: Buffer) {
        self.feeds.retain(|(other, _)| *other != number);
        self.feeds.push((number, feed));
    }

    /// The realignment that waits.
    pub(super) fn realignment(&self) -> Option<&Realignment> {
        self.realignment.as_ref().filter(|_| self.due)
    }

    /// Whether there is something, and all of it can be heard when the gate opens again.
    pub(super) fn is_due(&self) -> bool {
        self.due && self.lanes.iter().all(|(_, lane)| lane.chain.ready())
    }
}

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
}
