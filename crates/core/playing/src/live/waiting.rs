//! What waits for a moment of silence: changes that would be heard as a jump are done while the gate is closed.

use super::alignment::Realignment;
use super::lane::{Lane, Runs};
use clear_bend_sound::Buffer;

/// Changes that wait for the gate to close. Once done, it holds what was replaced, so that freeing it is
/// left to the next control call.
#[derive(Default)]
pub(super) struct Waiting {
    pub(super) due: bool,
    pub(super) seek: Option<usize>,
    pub(super) source: Option<Buffer>,
    pub(super) backing: Option<Buffer>,
    pub(super) reference: Option<Buffer>,
    /// What is sent to shared paths, by their numbers.
    pub(super) feeds: Vec<(usize, Buffer)>,
    pub(super) lanes: Vec<(Runs, Lane)>,
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
