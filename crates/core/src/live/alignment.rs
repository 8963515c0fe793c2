//! Which lanes run, which is heard, and how everything waits for the slowest.

use super::lane::Lane;
use super::{Live, MOST_LANES};
use crate::dsp::Delay;
use crate::path::{Chain, Path};

/// Another latency of the slowest lane and of the slowest return, and the delays that bring everything to it.
pub(super) struct Alignment {
    slowest: [usize; 2],
    /// Those of before and backing.
    aligned: [Delay; 4],
    /// Those of what is heard of the stem at work.
    waiting: [Delay; 2],
    lanes: Vec<[Delay; 2]>,
    /// Those of the feed and of what comes back.
    returns: Vec<[[Delay; 2]; 2]>,
}

impl Live {
    /// Lets a lane run another path; the lane after the last one is a new one. Where only values differ, use
    /// [`Live::set_param`] instead. The lanes from [`MOST_LANES`] on are the shared paths; those beyond them are ignored.
    pub fn set_lane(&mut self, index: usize, path: &Path) {
        let number = index.checked_sub(MOST_LANES);
        let is_there = number.map_or(index <= self.lanes.len(), |number| number < self.returns.len());
        if !is_there {
            return;
        }
        let heard = number.map_or(index == self.heard, |number| self.returns[number].works());
        let mut lane = Lane::new(self.setup, path, if heard { 1.0 } else { 0.0 }, index);
        lane.chain.set_passage(self.play, self.source.frames());
        let mut slowest = self.slowest_but(index);
        let own = &mut slowest[usize::from(number.is_some())];
        *own = lane.chain.latency().max(*own);
        lane.align(*own);
        self.align(slowest);
        if heard {
            if let Some(old) = self.newest(index) {
                lane.match_gain = old.match_gain.clone();
            }
            let lanes = &mut self.change().lanes;
            lanes.retain(|(waiting, _)| *waiting != index);
            lanes.push((index, lane));
        } else {
            // One that waits, from when this lane was heard, is older.
            self.pending.lanes.retain(|(waiting, _)| *waiting != index);
            match number {
                Some(number) => self.returns[number].lane = lane,
                None if index == self.lanes.len() => self.lanes.push(lane),
                None => self.lanes[index] = lane,
            }
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

    /// The latencies of the slowest lane and of the slowest return, in their newest versions, leaving one out.
    fn slowest_but(&self, index: usize) -> [usize; 2] {
        let running = self.lanes.iter().enumerate();
        let returns = self.returns.iter().enumerate().map(|(i, to)| (MOST_LANES + i, &to.lane));
        let mut slowest = [0; 2];
        for (i, lane) in running.chain(returns).filter(|(i, _)| *i != index) {
            let waiting = self.pending.lanes.iter().filter(|_| self.pending.due).find(|(at, _)| *at == i);
            let latency = waiting.map_or(lane, |(_, lane)| lane).chain.latency();
            let own = &mut slowest[usize::from(i >= MOST_LANES)];
            *own = latency.max(*own);
        }
        slowest
    }

    /// Lets everything wait for a lane and a return that are so late.
    fn align(&mut self, slowest: [usize; 2]) {
        if slowest != self.latency_due() {
            let [lanes, returns] = slowest;
            let both = |frames| [(); 2].map(|()| Delay::new(frames));
            let [before_left, before_right] = both(lanes);
            let [backing_left, backing_right] = both(lanes + returns);
            let alignment = Alignment {
                slowest,
                aligned: [before_left, before_right, backing_left, backing_right],
                waiting: both(returns),
                lanes: self.lanes.iter().map(|lane| lane.aligned_to(lanes)).collect(),
                returns: self.returns.iter().map(|to| [both(lanes), to.lane.aligned_to(returns)]).collect(),
            };
            let change = self.change();
            for (index, lane) in &mut change.lanes {
                lane.align(slowest[usize::from(*index >= MOST_LANES)]);
            }
            change.alignment = Some(alignment);
        }
    }

    /// Brings everything to another latency, if one waits.
    pub(super) fn apply_alignment(&mut self) {
        let Some(alignment) = &mut self.pending.alignment else { return };
        let Alignment { slowest: [lanes, returns], aligned, waiting, .. } = alignment;
        (self.latency, self.returns_latency) = (*lanes, *returns);
        std::mem::swap(aligned, &mut self.aligned);
        std::mem::swap(waiting, &mut self.waiting);
        // A lane that has come meanwhile knows the new latency already.
        let bring = |lane: &mut Lane, aligned: &mut [Delay; 2], slowest: usize| {
            if lane.chain.latency() + aligned[0].frames() == slowest {
                std::mem::swap(aligned, &mut lane.aligned);
            }
        };
        for (lane, aligned) in self.lanes.iter_mut().zip(&mut alignment.lanes) {
            bring(lane, aligned, self.latency);
        }
        for (to, [feed, back]) in self.returns.iter_mut().zip(&mut alignment.returns) {
            std::mem::swap(feed, &mut to.aligned);
            bring(&mut to.lane, back, self.returns_latency);
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
        if self.returns.iter_mut().any(|to| to.works() && to.lane.chain.prepare()) {
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

    /// The latencies that will hold once all that waits is done.
    fn latency_due(&self) -> [usize; 2] {
        let waiting = self.pending.alignment.as_ref().filter(|_| self.pending.due);
        waiting.map_or([self.latency, self.returns_latency], |alignment| alignment.slowest)
    }
}
