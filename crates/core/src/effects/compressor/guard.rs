//! The onset guard: the first milliseconds of every onset pass, whatever the attack time is.

use crate::cast;
use crate::dsp::db_from_linear;

/// An onset is a level this far over its own recent past, dB.
const RISE_DB: f64 = 9.0;
/// Quieter beginnings are not onsets, dBFS.
const QUIETEST_DBFS: f64 = -60.0;
/// The time in which the recent past follows the level, s.
const PAST_S: f64 = 0.05;
/// Two onsets are at least this far apart, s.
const APART_S: f64 = 0.05;
/// The guard opens and closes over this time, s; it is open when the onset comes.
const EDGE_S: f64 = 0.001;
/// An onset is found at most this long after it has begun, s.
const FOUND_S: f64 = 0.002;

/// Finds onsets in the level ahead of the signal, and opens when they come through.
pub(super) struct Guard {
    rate_hz: f64,
    past_share: f64,
    /// Frames from finding an onset to opening.
    ahead: usize,
    /// Frames for which it stays open; 0 switches it off.
    open: usize,
    past_db: f64,
    since: usize,
    openness: f64,
}

impl Guard {
    /// A guard for a signal that is `late` frames behind its level.
    pub(super) fn new(rate_hz: f64, late: usize) -> Self {
        let early = cast::count((EDGE_S + FOUND_S) * rate_hz);
        Self {
            rate_hz,
            past_share: -(-1.0 / (PAST_S * rate_hz)).exp_m1(),
            ahead: late.saturating_sub(early),
            open: 0,
            past_db: QUIETEST_DBFS,
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
        (self.past_db, self.since, self.openness) = (QUIETEST_DBFS, usize::MAX / 2, 0.0);
    }

    /// Whether it can be open.
    pub(super) fn is_off(&self) -> bool {
        self.open == 0 && self.openness == 0.0
    }

    /// Reads a block of levels and writes how open the guard is, 0 to 1.
    pub(super) fn process(&mut self, level: &[f32], openness: &mut [f32]) {
        let edge = 1.0 / (EDGE_S * self.rate_hz);
        let apart = cast::count(APART_S * self.rate_hz).max(self.ahead + self.open);
        for (level, out) in level.iter().zip(openness) {
            let level_db = f64::from(db_from_linear(*level)).max(QUIETEST_DBFS);
            if level_db > self.past_db + RISE_DB && self.since > apart {
                self.since = 0;
            }
            self.past_db += self.past_share * (level_db - self.past_db);
            self.since += 1;
            let open = self.since > self.ahead && self.since <= self.ahead + self.open;
            self.openness = (self.openness + if open { edge } else { -edge }).clamp(0.0, 1.0);
            *out = cast::sample(self.openness);
        }
    }
}
