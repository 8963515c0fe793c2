//! Playing a bench for the ear: source, other stems, reference, paths side by side, switching, level match, meters,
//! safety.
//!
//! One [`Live`] runs in the browser's audio thread. Control calls may allocate; [`Live::process`] does not. What would be heard as a jump
//! waits (`waiting`) until the gate has closed; everything else moves smoothly at once.

mod alignment;
mod changing;
mod controls;
mod hear;
mod lane;
mod lanes;
mod memory;
mod meters;
mod mixing;
mod returns;
mod room;
mod safety;
mod waiting;

pub use hear::Hear;
pub use lane::Runs;
pub use meters::Meters;

use crate::path::Path;
use crate::render::LONGEST_TAIL_S;
use alignment::{Alignment, Slowest};
use clear_bend_effects::Setup;
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;
use lane::Lane;
use memory::Memory;
use meters::Metering;
use mixing::Mixing;
use returns::Return;
use room::{FADE_S, Room};
use safety::Safety;
use waiting::Waiting;

/// The most paths that run side by side.
pub const MOST_LANES: usize = 20;

/// The live bench.
///
/// Several paths run side by side in lanes: the snapshots, or the values of a fan. All of them see the same source
/// all the time, so that another one is heard at once as if it had always been on, with a short cross-fade.
pub struct Live {
    setup: Setup,
    memory: Memory,
    lanes: Vec<Lane>,
    heard: usize,
    /// The lane that will be heard as soon as it has run for as long as it is late.
    wanted: usize,
    /// Whether lanes that are not heard rest.
    rests: bool,
    /// The shared paths to which the stem at work may send.
    returns: Vec<Return>,
    mixing: Mixing,
    alignment: Alignment,
    waiting: Waiting,
    playing: bool,
    /// Open while sound runs; closes around every jump.
    gate: Ramp,
    /// Frames for which it stays closed after a jump, until what was before it has left the lanes.
    hush: usize,
    room: Room,
    metering: Metering,
    safety: Safety,
}

impl Live {
    /// A silent live bench with an empty path.
    ///
    /// # Errors
    /// Refuses a rate outside [`clear_bend_sound::audio::RATES_HZ`].
    pub fn new(setup: Setup) -> Result<Self, Refusal> {
        let block = || vec![0.0; setup.max_block];
        let pair = || [block(), block()];
        let mut live = Self {
            setup,
            memory: Memory::empty(setup.rate_hz)?,
            lanes: Vec::with_capacity(MOST_LANES),
            heard: 0,
            wanted: 0,
            rests: false,
            returns: Return::all(setup),
            mixing: Mixing::new(setup),
            alignment: Alignment::new(Slowest::default()),
            waiting: Waiting::default(),
            playing: false,
            gate: Ramp::new(0.0, cast::frames(FADE_S, setup.rate_hz)),
            hush: 0,
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
        let position_s = cast::real(self.memory.position) / f64::from(self.setup.rate_hz);
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
        if !self.opens(n) {
            left.fill(0.0);
            right.fill(0.0);
            self.metering.rest(n);
            return;
        }
        let mut out = [&mut left[..n], &mut right[..n]];
        self.play(&mut out);
        let [left, right] = &out;
        self.see([&**left, &**right]);
        let [left, right] = out;
        self.safety.process(left, right);
    }

    /// Moves the gate over a block of so many frames, and does what waits where it is closed. Says whether anything is heard.
    fn opens(&mut self, n: usize) -> bool {
        let is_silent = self.memory.source.frames() == 0;
        let opened = self.playing && !self.waiting.is_due() && self.hush == 0;
        self.gate.set(if opened { 1.0 } else { 0.0 });
        // Where there is no source, nothing is heard however far the gate is open.
        if self.gate.rests_at(0.0) || is_silent {
            if !self.playing && self.memory.has_ended() {
                // What has been played to its end begins anew, from rest.
                self.memory.position = 0;
                self.lanes.iter_mut().for_each(|lane| lane.chain.reset());
                self.returns.iter_mut().for_each(Return::reset);
            }
            self.apply_waiting();
            self.gate.set(if self.playing && self.hush == 0 { 1.0 } else { 0.0 });
        }
        let hushed = self.playing && self.hush > 0;
        self.hush = if hushed { self.hush.saturating_sub(n) } else { self.hush };
        !((self.gate.rests_at(0.0) && !hushed) || self.memory.source.frames() == 0)
    }

    /// The next block of all that is heard.
    fn play(&mut self, out: &mut [&mut [f32]; 2]) {
        let n = out[0].len();
        let at = self.memory.position;
        let together = self.rest_returns();
        for to in self.returns.iter_mut().filter(|to| to.runs()) {
            to.begin(self.memory.play, at, n);
        }
        self.memory.read(n, &mut self.room, together, self.mixing.heard_reference());
        self.run_lanes(n, at);
        self.end_once(together);
        let room = &mut self.room;
        self.gate.fill(&mut room.gate[..n]);
        out.iter_mut().for_each(|out| out.fill(0.0));
        self.mixing.blend(out, room);
        let gain = &mut room.shares[1][..n];
        let mut send = |tap: usize, out: &[&mut [f32]; 2]| {
            for to in self.returns.iter_mut().filter(|to| to.runs()) {
                to.take(tap, out, gain);
            }
        };
        send(0, out);
        self.mixing.place(out);
        send(1, out);
        for to in self.returns.iter_mut().filter(|to| to.runs()) {
            to.run(n, (at, self.alignment.slowest.lane), &mut room.backing, gain);
        }
        for (delay, out) in self.alignment.heard.iter_mut().zip(out.iter_mut()) {
            delay.process(out);
        }
        self.mixing.add_beside(out, &room.backing);
        for out in out {
            out.iter_mut().zip(&room.gate[..n]).for_each(|(x, gate)| *x *= gate);
        }
    }

    /// Stops where a source that is played once has ended, with all that is left of it.
    fn end_once(&mut self, together: bool) {
        let Some(past) = self.memory.past_end(self.alignment.latency()) else { return };
        let longest = cast::frames(LONGEST_TAIL_S, self.setup.rate_hz);
        let own = self.lanes.iter().map(|lane| lane.chain.tail()).max().unwrap_or(0);
        let returned = self.returns.iter().map(Return::tail).max().unwrap_or(0);
        let others = if together { self.memory.backing_tail().max(own.saturating_add(returned)) } else { 0 };
        self.playing &= past < own.max(others).min(longest);
    }
}
