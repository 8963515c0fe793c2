//! The lanes side by side: which run, which is heard.

use super::lane::{Lane, Runs};
use super::{Live, MOST_LANES};
use crate::path::{Chain, Path};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Delay;

impl Live {
    /// Lets a path run in a lane, or as a shared one, in place of the one that does; the lane after the last one is a new one. Where only
    /// values differ, use [`Live::set_param`] instead. What is over [`MOST_LANES`] or the shared paths that there may be is ignored.
    pub fn set_lane(&mut self, runs: impl Into<Runs>, path: &Path) {
        let runs = runs.into();
        let (is_there, heard, turn) = match runs {
            Runs::Lane(place) => {
                (place <= self.lanes.len() && place < MOST_LANES, place == self.heard, place)
            }
            Runs::Shared(number) => {
                let to = self.returns.get(number);
                (to.is_some(), to.is_some_and(|to| to.works()), MOST_LANES + number)
            }
        };
        if !is_there {
            return;
        }
        let mut lane = Lane::new(self.setup, path, if heard { 1.0 } else { 0.0 }, turn);
        lane.chain.set_passage(self.memory.play, self.memory.source.frames());
        let mut slowest = self.slowest_but(Some(runs));
        let own = slowest.of(runs);
        *own = lane.chain.latency().max(*own);
        lane.align(*own);
        self.align(slowest);
        if heard {
            if let Some(old) = self.newest(runs) {
                lane.match_gain = old.match_gain.clone();
            }
            self.change().put_lane(runs, lane);
            return;
        }
        // One that waits, from when this lane was heard, is older.
        self.waiting.forget_lane(runs);
        match runs {
            Runs::Shared(number) => self.returns[number].lane = lane,
            Runs::Lane(place) if place == self.lanes.len() => self.lanes.push(lane),
            Runs::Lane(place) => self.lanes[place] = lane,
        }
    }

    /// Plays through this path in the first lane.
    pub fn set_path(&mut self, path: &Path) {
        self.set_lane(0, path);
    }

    /// Ends the lanes after the first `count`, except the one that is heard and those before it.
    pub fn keep_lanes(&mut self, count: usize) {
        self.lanes.truncate(count.max(self.heard.max(self.wanted) + 1));
        self.align(self.slowest_but(None));
    }

    /// Lets the lanes that are not heard rest, where the machine is too slow for all: one that is chosen then begins from rest,
    /// and is heard as soon as it has run for as long as it is late.
    pub fn set_resting(&mut self, rests: bool) {
        self.rests = rests;
    }

    /// Makes a part of what is heavy: of the lane that is heard before that of the others.
    pub(super) fn prepare(&mut self) {
        if self.waiting.lanes().any(|(_, lane)| lane.chain.prepare()) {
            return;
        }
        if self.returns.iter_mut().any(|to| to.works() && to.lane.chain.prepare()) {
            return;
        }
        for place in [self.wanted, self.heard].into_iter().chain(0..self.lanes.len()) {
            if self.lanes.get_mut(place).is_some_and(|lane| Chain::prepare(&mut lane.chain)) {
                return;
            }
        }
    }

    /// Lets lanes that nobody hears rest, or run again from rest.
    pub(super) fn rest_lanes(&mut self) {
        for (place, lane) in self.lanes.iter_mut().enumerate() {
            let heard = place == self.heard || place == self.wanted || !lane.share.rests_at(0.0);
            let rests = self.rests && !heard;
            if lane.rests && !rests {
                lane.chain.reset();
                lane.aligned.iter_mut().for_each(Delay::reset);
            }
            lane.rests = rests;
        }
    }

    /// Chooses the lane that is heard, with a short cross-fade.
    pub fn set_heard(&mut self, place: usize) {
        if place < self.lanes.len() {
            self.wanted = place;
            self.switch_lane();
        }
    }

    /// Switches to the wanted lane if it has run for long enough: a lane that is late begins with silence.
    pub(super) fn switch_lane(&mut self) {
        let latency = self.alignment.slowest.lane;
        let ready = self.lanes.get(self.wanted).is_some_and(|lane| lane.age >= latency);
        if self.heard != self.wanted && (ready || self.gate.rests_at(0.0)) {
            self.heard = self.wanted;
            for (place, lane) in self.lanes.iter_mut().enumerate() {
                lane.share.set(if place == self.heard { 1.0 } else { 0.0 });
            }
        }
    }

    /// All lanes over the block in `before`; their sum, as heard, into `after`. Then delays what waits for them.
    pub(super) fn run_lanes(&mut self, n: usize, at: usize) {
        let room = &mut self.room;
        room.after.iter_mut().for_each(|channel| channel[..n].fill(0.0));
        for lane in &mut self.lanes {
            if lane.rests || !lane.chain.ready() {
                lane.age = 0;
                continue;
            }
            let [left, right] = &mut room.lane;
            let (left, right) = (&mut left[..n], &mut right[..n]);
            left.copy_from_slice(&room.before[0][..n]);
            right.copy_from_slice(&room.before[1][..n]);
            lane.run(left, right, at);
            let [share, gain] = &mut room.shares;
            lane.match_gain.fill(&mut gain[..n]);
            if lane.share.rests_at(0.0) {
                continue;
            }
            lane.share.fill(&mut share[..n]);
            for (after, x) in room.after.iter_mut().zip([left, right]) {
                for ((after, x), (share, gain)) in after.iter_mut().zip(x).zip(share[..n].iter().zip(&*gain))
                {
                    *after += share * (gain * *x);
                }
            }
        }
        let delays = self.alignment.before.iter_mut().chain(&mut self.alignment.backing);
        for (delay, channel) in delays.zip(room.before.iter_mut().chain(&mut room.backing)) {
            delay.process(&mut channel[..n]);
        }
    }

    /// Lets the meters see what has been played of a block.
    pub(super) fn see(&mut self, out: [&[f32]; 2]) {
        let n = out[0].len();
        let [before_left, before_right] = &self.room.before;
        let [after_left, after_right] = &self.room.after;
        let lane = self.lanes.get(self.heard);
        let matched = lane.map_or(1.0, |lane| cast::sample(lane.match_gain.value()));
        self.metering.see(
            [&before_left[..n], &before_right[..n]],
            ([&after_left[..n], &after_right[..n]], matched),
            out,
        );
        if let Some(lane) = lane {
            self.metering.see_gain((0..lane.stages.len()).map(|i| lane.chain.last_gain_db(i)).sum());
        }
    }

    /// Lets the shared paths rest while the stem at work is heard alone, to begin from rest. Says whether they run.
    pub(super) fn rest_returns(&mut self) -> bool {
        let together = self.mixing.hears_beside();
        for to in &mut self.returns {
            if !together && !to.lane.rests {
                to.reset();
            }
            to.lane.rests = !together;
        }
        together
    }
}
