//! The onset guard: the first milliseconds of every onset pass, whatever the attack time is.

use crate::Setup;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, SlidingMax, larger};
use clear_bend_sound::level::gain_from_db;

/// An onset is a level this far over the loudest of its recent past, dB.
const RISE_DB: f64 = 9.0;
/// Quieter beginnings are not onsets, dBFS.
const QUIETEST_DBFS: f64 = -60.0;
/// The recent past: from this long ago, so that a rise may take a moment...
const NEAR_S: f64 = 0.005;
/// ...for this long, so that a low wave is loud somewhere in it.
const PAST_S: f64 = 0.025;
/// Two onsets are at least this far apart, s.
const APART_S: f64 = 0.05;
/// The guard opens and closes over this time, s; it is open when the onset comes.
const EDGE_S: f64 = 0.001;
/// An onset is found at most this long after it has begun, s.
const FOUND_S: f64 = 0.002;

/// Finds onsets in the level ahead of the signal, and opens when they come through.
pub(super) struct Guard {
    rate_hz: f64,
    /// Frames from finding an onset to opening.
    ahead: usize,
    /// Frames for which it stays open; 0 switches it off.
    open: usize,
    near: Delay,
    past: SlidingMax,
    /// The recent past of every frame of a block.
    before: Vec<f32>,
    since: usize,
    openness: f64,
}

impl Guard {
    /// A guard for a signal that is `late` frames behind its level.
    pub(super) fn new(setup: Setup, late: usize) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let early = cast::count((EDGE_S + FOUND_S) * rate_hz);
        Self {
            rate_hz,
            ahead: late.saturating_sub(early),
            open: 0,
            near: Delay::new(cast::frames(NEAR_S, setup.rate_hz)),
            past: SlidingMax::new(cast::frames(PAST_S, setup.rate_hz), setup.max_block),
            before: vec![0.0; setup.max_block],
            since: usize::MAX / 2,
            openness: 0.0,
        }
    }

    /// Guards the first so many milliseconds; 0 guards nothing.
    pub(super) fn set(&mut self, guard_ms: f64) {
        if self.is_off() && guard_ms > 0.0 {
            self.reset();
        }
        self.open = if guard_ms > 0.0 {
            cast::count((guard_ms / 1000.0 + EDGE_S + FOUND_S) * self.rate_hz)
        } else {
            0
        };
    }

    pub(super) fn reset(&mut self) {
        (self.since, self.openness) = (usize::MAX / 2, 0.0);
        self.near.reset();
        self.past.reset();
    }

    /// Whether it can be open.
    pub(super) fn is_off(&self) -> bool {
        self.open == 0 && self.openness == 0.0
    }

    /// Reads a block of levels and writes how open the guard is, 0 to 1.
    pub(super) fn process(&mut self, level: &[f32], openness: &mut [f32]) {
        let edge = 1.0 / (EDGE_S * self.rate_hz);
        let apart = cast::count(APART_S * self.rate_hz).max(self.ahead + self.open);
        let (rise, quietest) =
            (cast::sample(gain_from_db(RISE_DB)), cast::sample(gain_from_db(QUIETEST_DBFS)));
        let before = &mut self.before[..level.len()];
        before.copy_from_slice(level);
        self.near.process(before);
        self.past.process(before);
        for ((level, before), out) in level.iter().zip(before).zip(openness) {
            if *level > rise * larger(*before, quietest) && self.since > apart {
                self.since = 0;
            }
            self.since += 1;
            let open = self.since > self.ahead && self.since <= self.ahead + self.open;
            self.openness = (self.openness + if open { edge } else { -edge }).clamp(0.0, 1.0);
            *out = cast::sample(self.openness);
        }
    }
}
