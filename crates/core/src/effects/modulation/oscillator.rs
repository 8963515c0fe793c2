//! The oscillator of all effects that move. Its phase follows the passage and not the clock: the same place of the loop always
//! sounds the same, in every lane, in measuring and in export, wherever one jumps to.

use std::array::from_fn;

use super::Wave;
use crate::cast;

/// The swing is worked out at every so many frames of the passage, and goes in straight lines between: at 20 Hz it is never off by
/// more than (2 pi 20 * 16 / 48000)^2 / 8, 0.02 % of its depth.
const STEP: i64 = 16;
/// How long it takes to go over to another swing, and to another place of the passage, s.
const OVER_S: f64 = 0.05;

/// How an oscillator swings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Swing {
    /// Cycles per second.
    pub rate_hz: f64,
    /// Its shape.
    pub wave: Wave,
    /// Where the cycle is at the beginning of the passage, cycles.
    pub start: f64,
    /// How far the right side is ahead of the left one, cycles.
    pub apart: f64,
    /// The place of the cycle at which it is held still.
    pub held: Option<f64>,
}

impl Swing {
    /// Where the cycle is at a time of the passage, s, for what is ahead by some cycles.
    #[must_use]
    pub fn cycles_at(&self, seconds: f64, ahead: f64) -> f64 {
        self.held.unwrap_or(self.rate_hz * seconds + self.start) + ahead
    }

    /// Where it swings to at a time of the passage, s, -1 to 1.
    #[must_use]
    pub fn at(&self, seconds: f64, ahead: f64) -> f64 {
        self.wave.at(self.cycles_at(seconds, ahead), self.rate_hz)
    }
}

/// The swing that settings with the usual names describe.
macro_rules! swing_of {
    ($settings:expr) => {{
        let s = $settings;
        let note_s = $crate::catalogue::note_s(s.rate_note, s.tempo_bpm);
        $crate::effects::modulation::Swing {
            rate_hz: note_s.map_or(s.rate_hz, |seconds| 1.0 / seconds),
            wave: $crate::effects::modulation::Wave {
                lean: s.lean,
                edge: s.edge,
                random: s.random,
                seed: $crate::cast::seed(s.seed),
            },
            start: s.start_deg / 360.0,
            apart: s.apart_deg / 360.0,
            held: (s.hold > 0.5).then_some(s.hold_deg / 360.0),
        }
    }};
}
pub(crate) use swing_of;

/// An oscillator at work, read at `N` places of its cycle at once.
#[derive(Debug, Clone)]
pub struct Oscillator<const N: usize> {
    sample_rate_hz: f64,
    swing: Swing,
    /// How far every reading is ahead, cycles.
    ahead: [f64; N],
    /// Where every reading was at the last frame, and the frame that comes next; none after a reset.
    last: Option<([f64; N], i64)>,
    /// How far every reading was from the new swing when it changed, and for how many frames that is still felt.
    off: [f64; N],
    left: usize,
    over: usize,
    changed: bool,
}

impl<const N: usize> Oscillator<N> {
    /// At rest.
    #[must_use]
    pub fn new(swing: Swing, ahead: [f64; N], rate_hz: u32) -> Self {
        Self {
            sample_rate_hz: f64::from(rate_hz),
            swing,
            ahead,
            last: None,
            off: [0.0; N],
            left: 0,
            over: cast::frames(OVER_S, rate_hz),
            changed: false,
        }
    }

    /// Goes over to another swing.
    pub fn set(&mut self, swing: Swing, ahead: [f64; N]) {
        self.changed |= swing != self.swing || ahead != self.ahead;
        (self.swing, self.ahead) = (swing, ahead);
    }

    /// Forgets where it was.
    pub fn reset(&mut self) {
        (self.last, self.left, self.changed) = (None, 0, false);
    }

    /// Reads a block that begins at a frame of the passage: every reading into its own part of `out`, `-1` to `1`.
    pub fn fill(&mut self, at: i64, frames: usize, out: &mut [Vec<f32>; N]) {
        let (swing, rate_hz, ahead) = (self.swing, self.sample_rate_hz, self.ahead);
        let on_grid = |k: usize, grid: i64| swing.at(cast::signed(grid * STEP) / rate_hz, ahead[k]);
        let target = |k: usize| {
            let share = cast::signed(at.rem_euclid(STEP)) / cast::signed(STEP);
            let grid = at.div_euclid(STEP);
            (1.0 - share) * on_grid(k, grid) + share * on_grid(k, grid + 1)
        };
        if let Some((last, next)) = self.last {
            // Another swing, or another place of the passage: what is left of the last one fades.
            if self.changed || next != at {
                self.off = from_fn(|k| last[k] - target(k));
                self.left = self.over;
            }
        }
        self.changed = false;
        let mut now = [0.0; N];
        for k in 0..N {
            let mut done = 0;
            while done < frames {
                let frame = at + cast::whole(cast::real(done));
                let (grid, into) = (frame.div_euclid(STEP), cast::after(frame.rem_euclid(STEP)));
                let run = (cast::after(STEP) - into).min(frames - done);
                let (from, to) = (on_grid(k, grid), on_grid(k, grid + 1));
                for i in 0..run {
                    let share = cast::real(into + i) / cast::signed(STEP);
                    now[k] = (1.0 - share) * from + share * to;
                    let left = self.left.saturating_sub(done + i);
                    if left > 0 {
                        now[k] += self.off[k] * cast::real(left) / cast::real(self.over);
                    }
                    out[k][done + i] = cast::sample(now[k]);
                }
                done += run;
            }
        }
        self.left = self.left.saturating_sub(frames);
        if frames > 0 {
            self.last = Some((now, at + cast::whole(cast::real(frames))));
        }
    }
}
