//! Which lanes run, which is heard, and how everything waits for the slowest.

use super::lane::Lane;
use super::{Live, MOST_LANES};
use crate::dsp::Delay;
use crate::path::{Chain, Path};

impl Live {
    /// Lets a lane run another path; the lane after the last one is a new one. Where only values differ, use
    /// [`Live::set_param`] instead. Lanes beyond [`MOST_LANES`] are ignored.
    pub fn set_lane(&mut self, index: usize, path: &Path) {
        if index > self.lanes.len() || index >= MOST_LANES {
            return;
        }
        let heard = index == self.heard;
        let mut lane = Lane::new(self.setup, path, if heard { 1.0 } else { 0.0 }, index);
        lane.chain.set_passage(self.play, self.source.frames());
        let slowest = self.slowest_but(index).max(lane.chain.latency());
        lane.align(slowest);
        self.align(slowest);
        if index == self.lanes.len() {
            self.lanes.push(lane);
        } else if heard {
            lane.match_gain = self.lanes[index].match_gain.clone();
            let lanes = &mut self.change().lanes;
            lanes.retain(|(waiting, _)| *waiting != index);
            lanes.push((index, lane));
        } else {
            // One that waits, from when this lane was heard, is older.
            self.pending.lanes.retain(|(waiting, _)| *waiting != index);
            self.lanes[index] = lane;
        }
    }

    /// Plays through this path in the first lane.
    pub fn set_path(&mut self, path: &Path) {
        self.set_lane(0, path);
    }

    /// Ends the lanes after the first `count`, except the one that is heard and those before it.
    pub fn keep_lanes(&mut self, count: usize) {
        self.lanes.truncate(count.max(self.heard.max(self.wanted) + 1));
        self.align(self.slowest_but(usize::MAX));
    }

    /// The latency of the slowest lane, in its newest version, leaving one out.
    fn slowest_but(&self, index: usize) -> usize {
        let newest = |i: usize| {
            let waiting = self.pending.lanes.iter().filter(|_| self.pending.due).find(|(at, _)| *at == i);
            waiting.map(|(_, lane)| lane).or(self.lanes.get(i))
        };
        let others = (0..self.lanes.len()).filter(|i| *i != index).filter_map(newest);
        others.map(|lane| lane.chain.latency()).max().unwrap_or(0)
    }

    /// Lets everything wait for a lane that is so late.
    fn align(&mut self, slowest: usize) {
        if slowest != self.latency_due() {
            let others = self.lanes.iter().map(|lane| lane.aligned_to(slowest)).collect();
            let change = self.change();
            change.lanes.iter_mut().for_each(|(_, lane)| lane.align(slowest));
            change.latency = Some((slowest, [(); 4].map(|()| Delay::new(slowest)), others));
        }
    }

    /// Lets the lanes that are not heard rest, where the machine is too slow for all: one that is chosen then begins from rest,
    /// and is heard as soon as it has run for as long as it is late.
    pub fn set_resting(&mut self, rests: bool) {
        self.rests = rests;
    }

    /// Makes a part of what is heavy: of the lane that is heard before that of the others.
    pub(super) fn prepare(&mut self) {
        let [first, second] = [self.wanted, self.heard];
        let waiting = self.pending.lanes.iter_mut().filter(|_| self.pending.due).map(|(_, lane)| lane);
        if waiting.map(|lane| &mut lane.chain).any(Chain::prepare) {
            return;
        }
        for index in [first, second].into_iter().chain(0..self.lanes.len()) {
            if self.lanes.get_mut(index).is_some_and(|lane| lane.chain.prepare()) {
                return;
            }
        }
    }

    /// Whether all that waits for the gate can be heard when it opens again.
    pub(super) fn is_due(&self) -> bool {
        self.pending.due && self.pending.lanes.iter().all(|(_, lane)| lane.chain.ready())
    }

    /// Lets lanes that nobody hears rest, or run again from rest.
    pub(super) fn rest_lanes(&mut self) {
        for (index, lane) in self.lanes.iter_mut().enumerate() {
            let heard = index == self.heard || index == self.wanted || !lane.share.rests_at(0.0);
            let rests = self.rests && !heard;
            if lane.rests && !rests {
                lane.chain.reset();
                lane.aligned.iter_mut().for_each(Delay::reset);
            }
            lane.rests = rests;
        }
    }

    /// Chooses the lane that is heard, with a short cross-fade.
    pub fn set_heard(&mut self, index: usize) {
        if index < self.lanes.len() {
            self.wanted = index;
            self.switch_lane();
        }
    }

    /// Switches to the wanted lane if it has run for long enough: a lane that is late begins with silence.
    pub(super) fn switch_lane(&mut self) {
        let ready = self.lanes.get(self.wanted).is_some_and(|lane| lane.age >= self.latency);
        if self.heard != self.wanted && (ready || self.gate.rests_at(0.0)) {
            self.heard = self.wanted;
            for (i, lane) in self.lanes.iter_mut().enumerate() {
                lane.share.set(if i == self.heard { 1.0 } else { 0.0 });
            }
        }
    }

    /// The latency that will hold once all that waits is done.
    fn latency_due(&self) -> usize {
        let waiting = self.pending.latency.as_ref().filter(|_| self.pending.due);
        waiting.map_or(self.latency, |(latency, ..)| *latency)
    }
}
