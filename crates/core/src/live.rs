//! Playing a bench for the ear: source, other stems, reference, paths side by side, switching, level match, meters,
//! safety.
//!
//! One [`Live`] runs in the browser's audio thread. Control calls may allocate; [`Live::process`] does not.

mod alignment;
mod controls;
mod lane;
mod meters;
mod mixing;
mod returns;
mod safety;

pub use meters::Meters;

use crate::bench::Hear;
use crate::cast;
use crate::dsp::{Delay, Ramp};
use crate::effects::{MOVE_S, Setup};
use crate::mix::Strip;
use crate::path::Path;
use crate::path::Play;
use crate::render::LONGEST_TAIL_S;
use crate::{Buffer, Refusal};
use alignment::Alignment;
use lane::Lane;
use meters::Metering;
use mixing::{add_share, read_loop, read_once};
use returns::Return;
use safety::Safety;

/// Length of the fades between before, after and difference, and of those around jumps, s.
const FADE_S: f64 = 0.01;

/// The most paths that run side by side.
pub const MOST_LANES: usize = 20;

/// The live bench.
///
/// Several paths run side by side in lanes: the snapshots, or the values of a fan. All of them see the same source
/// all the time, so that another one is heard at once as if it had always been on, with a short cross-fade.
pub struct Live {
    setup: Setup,
    source: Buffer,
    /// The other stems, summed; as long as the source.
    backing: Buffer,
    reference: Buffer,
    position: usize,
    play: Play,
    reference_position: usize,
    lanes: Vec<Lane>,
    /// The shared paths to which the stem at work may send.
    returns: Vec<Return>,
    heard: usize,
    /// The lane that will be heard as soon as it has run for as long as it is late.
    wanted: usize,
    hear: Hear,
    all_stems: bool,
    strip: Strip,
    /// Whether lanes that are not heard rest.
    rests: bool,
    /// Frames by which the slowest lane is late; all else waits for it.
    latency: usize,
    /// Frames by which the slowest of the returns is late after that; what is heard of the stems waits for it.
    returns_latency: usize,
    playing: bool,
    /// Open while sound runs; closes around every jump.
    gate: Ramp,
    /// Frames for which it stays closed after a jump, until what was before it has left the lanes.
    hush: usize,
    pending: Pending,
    /// What is heard is `(before * before_share + after * after_share) * strip + backing + reference`, where the returns are a part of
    /// the backing.
    before_share: Ramp,
    after_share: Ramp,
    backing_share: Ramp,
    reference_share: Ramp,
    reference_gain: Ramp,
    strip_gains: [Ramp; 2],
    /// Before, as late as the slowest lane, and backing, as late as the returns.
    aligned: [Delay; 4],
    /// What is heard of the stem at work waits by this for the returns.
    waiting: [Delay; 2],
    room: Room,
    metering: Metering,
    safety: Safety,
}

/// Room for one block of everything.
struct Room {
    before: [Vec<f32>; 2],
    after: [Vec<f32>; 2],
    lane: [Vec<f32>; 2],
    backing: [Vec<f32>; 2],
    reference: [Vec<f32>; 2],
    gate: Vec<f32>,
    shares: [Vec<f32>; 2],
}

/// Changes that wait for the gate to close. Once done, it holds what was replaced, so that freeing it is
/// left to the next control call.
#[derive(Default)]
struct Pending {
    due: bool,
    seek: Option<usize>,
    source: Option<Buffer>,
    backing: Option<Buffer>,
    reference: Option<Buffer>,
    feeds: Vec<(usize, Buffer)>,
    lanes: Vec<(usize, Lane)>,
    /// Another latency, and the delays that bring everything to it.
    alignment: Option<Alignment>,
}

impl Live {
    /// A silent live bench with an empty path.
    ///
    /// # Errors
    /// Refuses a rate outside [`crate::audio::RATES_HZ`].
    pub fn new(setup: Setup) -> Result<Self, Refusal> {
        let fade = cast::frames(FADE_S, setup.rate_hz);
        let block = || vec![0.0; setup.max_block];
        let pair = || [block(), block()];
        let silence = Buffer::new(setup.rate_hz, vec![Vec::new(); 2])?;
        let mut live = Self {
            setup,
            source: silence.clone(),
            backing: silence.clone(),
            reference: silence,
            position: 0,
            play: Play::Round,
            reference_position: 0,
            lanes: Vec::with_capacity(MOST_LANES),
            returns: Return::all(setup),
            heard: 0,
            wanted: 0,
            hear: Hear::After,
            all_stems: false,
            strip: Strip::default(),
            rests: false,
            latency: 0,
            returns_latency: 0,
            playing: false,
            gate: Ramp::new(0.0, fade),
            hush: 0,
            pending: Pending::default(),
            before_share: Ramp::new(0.0, fade),
            after_share: Ramp::new(1.0, fade),
            backing_share: Ramp::new(0.0, fade),
            reference_share: Ramp::new(0.0, fade),
            reference_gain: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            strip_gains: [(); 2].map(|()| Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz))),
            aligned: [(); 4].map(|()| Delay::new(0)),
            waiting: [(); 2].map(|()| Delay::new(0)),
            room: Room {
                before: pair(),
                after: pair(),
                lane: pair(),
                backing: pair(),
                reference: pair(),
                gate: block(),
                shares: pair(),
            },
            metering: Metering::new(setup.rate_hz),
            safety: Safety::new(setup.rate_hz),
        };
        let lane = Lane::new(setup, &Path::default(), 1.0, 0);
        live.lanes.push(lane);
        Ok(live)
    }

    /// The meters since the last call.
    pub fn read_meters(&mut self) -> Meters {
        let position_s = cast::real(self.position) / f64::from(self.setup.rate_hz);
        self.metering.read(position_s, self.playing)
    }

    /// The latest block before and after (as matched): left and right of each, as much of it as was last asked for.
    #[must_use]
    pub fn seen(&self) -> [&[f32]; 4] {
        let [before, after] = [&self.room.before, &self.room.after];
        [&before[0], &before[1], &after[0], &after[1]]
    }

    /// Writes the next block, at most the prepared maximum of frames.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        let n = left.len().min(right.len()).min(self.setup.max_block);
        self.prepare();
        self.rest_lanes();
        self.switch_lane();
        self.gate.set(if self.playing && !self.is_due() && self.hush == 0 { 1.0 } else { 0.0 });
        // Where there is no source, nothing is heard however far the gate is open.
        if self.gate.rests_at(0.0) || self.source.frames() == 0 {
            if !self.playing && self.position >= self.source.frames() {
                // What has been played to its end begins anew, from rest.
                self.position = 0;
                self.lanes.iter_mut().for_each(|lane| lane.chain.reset());
                self.returns.iter_mut().for_each(Return::reset);
            }
            self.apply_pending();
            self.gate.set(if self.playing && self.hush == 0 { 1.0 } else { 0.0 });
        }
        let hushed = self.playing && self.hush > 0;
        self.hush = if hushed { self.hush.saturating_sub(n) } else { self.hush };
        if (self.gate.rests_at(0.0) && !hushed) || self.source.frames() == 0 {
            left.fill(0.0);
            right.fill(0.0);
            self.metering.rest(n);
            return;
        }
        let at = self.position;
        let together = self.rest_returns();
        self.read_sources(n);
        self.run_lanes(n, at);
        self.end_once(together);
        let room = &mut self.room;
        self.gate.fill(&mut room.gate[..n]);
        let [share, gain] = &mut room.shares;
        let (share, gain) = (&mut share[..n], &mut gain[..n]);
        let mut out = [&mut left[..n], &mut right[..n]];
        out.iter_mut().for_each(|out| out.fill(0.0));
        for (ramp, from) in [
            (&mut self.before_share, &room.before),
            (&mut self.after_share, &room.after),
            (&mut self.reference_share, &room.reference),
        ] {
            add_share(&mut out, ramp, from, share);
        }
        let mut send = |tap: usize, out: &[&mut [f32]; 2]| {
            for to in self.returns.iter_mut().filter(|to| to.runs()) {
                to.take(tap, out, gain);
            }
        };
        send(0, &out);
        for (out, strip) in out.iter_mut().zip(&mut self.strip_gains) {
            if !strip.rests_at(1.0) {
                strip.fill(share);
                out.iter_mut().zip(&*share).for_each(|(x, gain)| *x *= gain);
            }
        }
        send(1, &out);
        for to in self.returns.iter_mut().filter(|to| to.runs()) {
            to.run(n, (at, self.latency), &mut room.backing, gain);
        }
        for (delay, out) in self.waiting.iter_mut().zip(&mut out) {
            delay.process(out);
        }
        add_share(&mut out, &mut self.backing_share, &room.backing, share);
        for out in &mut out {
            out.iter_mut().zip(&room.gate[..n]).for_each(|(x, gate)| *x *= gate);
        }
        let [before_left, before_right] = &room.before;
        let [after_left, after_right] = &room.after;
        let lane = self.lanes.get(self.heard);
        let matched = lane.map_or(1.0, |lane| cast::sample(lane.match_gain.value()));
        self.metering.see(
            [&before_left[..n], &before_right[..n]],
            ([&after_left[..n], &after_right[..n]], matched),
            [&*out[0], &*out[1]],
        );
        if let Some(lane) = self.lanes.get(self.heard) {
            self.metering.see_gain((0..lane.stages.len()).map(|i| lane.chain.last_gain_db(i)).sum());
        }
        self.safety.process(&mut left[..n], &mut right[..n]);
    }

    /// The next block of everything that comes from memory, and on.
    fn read_sources(&mut self, n: usize) {
        let room = &mut self.room;
        let read = if self.play == Play::Once { read_once } else { read_loop };
        read(&self.source, self.position, &mut room.before, n);
        for to in self.returns.iter_mut().filter(|to| to.runs()) {
            to.begin(self.play, self.position, n);
        }
        if self.backing_share.rests_at(0.0) {
            room.backing.iter_mut().for_each(|channel| channel[..n].fill(0.0));
        } else {
            read(&self.backing, self.position, &mut room.backing, n);
        }
        if !self.reference_share.rests_at(0.0) {
            read_loop(&self.reference, self.reference_position, &mut room.reference, n);
            let [left, right] = &mut room.reference;
            self.reference_gain.scale(&mut [&mut left[..n], &mut right[..n]]);
            self.reference_position = (self.reference_position + n) % self.reference.frames().max(1);
        }
        self.position += n;
        if self.play == Play::Round {
            self.position %= self.source.frames();
        }
    }

    /// Stops where a source that is played once has ended, with all that is left of it.
    fn end_once(&mut self, together: bool) {
        let late = self.latency + self.returns_latency;
        let past = self.position.saturating_sub(self.source.frames() + late);
        if self.play == Play::Once && past > 0 {
            let longest = cast::frames(LONGEST_TAIL_S, self.setup.rate_hz);
            let own = self.lanes.iter().map(|lane| lane.chain.tail()).max().unwrap_or(0);
            let beside = self.backing.frames().saturating_sub(self.source.frames());
            let returned = self.returns.iter().map(Return::tail).max().unwrap_or(0);
            let others = if together { beside.max(own.saturating_add(returned)) } else { 0 };
            self.playing &= past < own.max(others).min(longest);
        }
    }

    /// All lanes over the block in `before`; their sum, as heard, into `after`. Then delays what waits for them.
    fn run_lanes(&mut self, n: usize, at: usize) {
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
            lane.chain.process(&mut [&mut *left, &mut *right], at);
            lane.age = lane.age.saturating_add(n);
            lane.aligned[0].process(left);
            lane.aligned[1].process(right);
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
        for (delay, channel) in self.aligned.iter_mut().zip(room.before.iter_mut().chain(&mut room.backing)) {
            delay.process(&mut channel[..n]);
        }
    }

    /// The changes to be done when the gate has closed. Drops what earlier changes have replaced.
    fn change(&mut self) -> &mut Pending {
        if !self.pending.due {
            self.pending = Pending { due: true, ..Pending::default() };
        }
        &mut self.pending
    }

    fn apply_pending(&mut self) {
        if !self.is_due() {
            return;
        }
        self.pending.due = false;
        if let Some(source) = &mut self.pending.source {
            std::mem::swap(source, &mut self.source);
            self.position = 0;
        }
        if let Some(backing) = &mut self.pending.backing {
            std::mem::swap(backing, &mut self.backing);
        }
        if let Some(reference) = &mut self.pending.reference {
            std::mem::swap(reference, &mut self.reference);
            self.reference_position = 0;
        }
        for (number, feed) in &mut self.pending.feeds {
            if let Some(to) = self.returns.get_mut(*number) {
                std::mem::swap(feed, &mut to.feed);
            }
        }
        for (index, lane) in &mut self.pending.lanes {
            let old = match index.checked_sub(MOST_LANES) {
                Some(number) => self.returns.get_mut(number).map(|to| &mut to.lane),
                None => self.lanes.get_mut(*index),
            };
            if let Some(old) = old {
                lane.share = old.share.clone();
                std::mem::swap(lane, old);
            }
        }
        self.apply_alignment();
        if let Some(frame) = self.pending.seek {
            self.position = frame.min(self.source.frames().max(1) - 1);
        }
        self.tell_passage();
        self.hush = self.latency + self.returns_latency;
    }

    /// The newest version of a lane: the one that waits, or else the one that runs.
    fn newest(&mut self, lane: usize) -> Option<&mut Lane> {
        let waiting = self.pending.lanes.iter_mut().filter(|_| self.pending.due);
        let waiting = waiting.filter(|(index, _)| *index == lane).map(|(_, lane)| lane).next();
        waiting.or(match lane.checked_sub(MOST_LANES) {
            Some(number) => self.returns.get_mut(number).map(|to| &mut to.lane),
            None => self.lanes.get_mut(lane),
        })
    }
}
