//! The oscillator of all effects that move. Its phase follows the passage and not the clock: the same place of the loop always
//! sounds the same, in every lane, in measuring and in export, wherever one jumps to.

use std::array::from_fn;

use super::Wave;
use super::delay::STRETCH;
use crate::Setup;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::widest;

/// The swing is worked out at every so many frames of the passage, and goes in straight lines between: a sine at 20 Hz is never off
/// by more than (2 pi 20 * 16 / 48000)^2 / 8, 0.02 % of its depth.
const STEP: i32 = 16;
/// A sine that is slower keeps to that with fewer of them, down to one of so many frames.
const LONGEST_STEP: i32 = 64;
const SHORT_ENOUGH_HZ: f64 = 20.0 * 16.0;

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
        let note_s = clear_bend_catalogue::note_s(s.rate_note, s.tempo_bpm);
        $crate::modulation::Swing {
            rate_hz: note_s.map_or(s.rate_hz, |seconds| 1.0 / seconds),
            wave: $crate::modulation::Wave {
                lean: s.lean,
                edge: s.edge,
                random: s.random,
                seed: clear_bend_sound::cast::seed(s.seed),
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
    /// How many of them were read then.
    read: usize,
    /// Where the swing is at the last place at which it was worked out, and which place that is; none where it has changed.
    reached: Option<([f64; N], i64)>,
    /// How far every reading was from the new swing when it changed, and for how many frames that is still felt.
    off: [f64; N],
    left: usize,
    over: usize,
    changed: bool,
    /// Frames between places at which the swing is worked out.
    step: i32,
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
            read: 0,
            reached: None,
            off: [0.0; N],
            left: 0,
            over: cast::frames(OVER_S, rate_hz),
            changed: false,
            step: step(swing),
        }
    }

    /// Goes over to another swing.
    pub fn set(&mut self, swing: Swing, ahead: [f64; N]) {
        if swing != self.swing || ahead != self.ahead {
            (self.changed, self.reached) = (true, None);
        }
        (self.swing, self.ahead, self.step) = (swing, ahead, step(swing));
    }

    /// Forgets where it was.
    pub fn reset(&mut self) {
        (self.last, self.reached, self.left, self.changed) = (None, None, 0, false);
    }

    /// Reads the first few places over a block that begins at a frame of the passage, each into its own part of `out`, `-1` to `1`.
    #[inline(always)]
    pub fn fill(&mut self, at: i64, frames: usize, out: &mut [Vec<f32>]) {
        let (swing, step, rate_hz, ahead) = (self.swing, self.step, self.sample_rate_hz, self.ahead);
        let on_grid =
            |k: usize, grid: i64| swing.at(cast::signed(grid * i64::from(step)) / rate_hz, ahead[k]);
        let first = at.div_euclid(i64::from(step));
        // Less than a step.
        let into = i32::try_from(at.rem_euclid(i64::from(step))).unwrap_or(0);
        let target = |k: usize| {
            let (from, to) = (on_grid(k, first), on_grid(k, first + 1));
            from + f64::from(into) * (to - from) / f64::from(step)
        };
        if let Some((last, next)) = self.last {
            // Another swing, or another place of the passage: what is left of the last one fades.
            if self.changed || next != at {
                // What is read for the first time has no last one.
                self.off = from_fn(|k| if k < self.read { last[k] - target(k) } else { 0.0 });
                self.left = self.over;
            }
        }
        self.changed = false;
        // The last block has often worked it out.
        let reached = self.reached.filter(|(_, grid)| *grid == first && out.len() <= self.read);
        let (mut now, mut ends, mut end) = ([0.0; N], [0.0; N], first);
        for (k, out) in out.iter_mut().enumerate().take(N) {
            let (mut grid, mut into) = (first, into);
            let mut from = reached.map_or_else(|| on_grid(k, grid), |(places, _)| places[k]);
            let mut rest = &mut out[..frames];
            while !rest.is_empty() {
                let to = on_grid(k, grid + 1);
                let (run, later) = rest.split_at_mut(rest.len().min(cast::after(i64::from(step - into))));
                let rise = (to - from) / f64::from(step);
                for (x, place) in run.iter_mut().zip(into..) {
                    *x = cast::sample(from + rise * f64::from(place));
                }
                (from, grid, into, rest) = (to, grid + 1, 0, later);
            }
            (ends[k], end) = (from, grid);
            // How far it is off goes to 0 in a straight line.
            let fading = frames.min(self.left);
            for (i, x) in out[..fading].iter_mut().enumerate() {
                let off = self.off[k] * cast::real(self.left - i) / cast::real(self.over);
                *x = cast::sample(f64::from(*x) + off);
            }
            now[k] = out[..frames].last().map_or(0.0, |x| f64::from(*x));
        }
        self.left = self.left.saturating_sub(frames);
        if frames > 0 {
            self.last = Some((now, at + cast::whole(cast::real(frames))));
            self.read = out.len();
            self.reached = Some((ends, end));
        }
    }
}

/// Frames between the places at which a swing is worked out.
fn step(swing: Swing) -> i32 {
    let doubled = std::iter::successors(Some(2 * STEP), |step| Some(2 * step));
    let enough = |step: &i32| swing.rate_hz * f64::from(*step) <= SHORT_ENOUGH_HZ && *step <= LONGEST_STEP;
    if swing.wave.is_sine() { doubled.take_while(enough).last().unwrap_or(STEP) } else { STEP }
}

/// The oscillator on both sides, read at up to `V` places of its cycle.
#[derive(Debug, Clone)]
pub struct Swings<const V: usize> {
    oscillators: [Oscillator<V>; 2],
    read: [[Vec<f32>; V]; 2],
}

impl<const V: usize> Swings<V> {
    /// At rest; `ahead` says how far every place is ahead, cycles.
    #[must_use]
    pub fn new(setup: Setup, swing: Swing, ahead: [f64; V]) -> Self {
        Self {
            oscillators: sides(swing, ahead).map(|ahead| Oscillator::new(swing, ahead, setup.rate_hz)),
            read: [(); 2].map(|()| from_fn(|_| vec![0.0; setup.max_block + STRETCH])),
        }
    }

    /// Goes over to another swing.
    pub fn set(&mut self, swing: Swing, ahead: [f64; V]) {
        for (oscillator, ahead) in self.oscillators.iter_mut().zip(sides(swing, ahead)) {
            oscillator.set(swing, ahead);
        }
    }

    /// Forgets where it was.
    pub fn reset(&mut self) {
        self.oscillators.iter_mut().for_each(Oscillator::reset);
    }

    /// Reads the first few places of a block that begins at a frame of the passage, on so many sides.
    pub fn fill(&mut self, at: i64, frames: usize, sides: usize, places: usize) {
        for (oscillator, read) in self.oscillators.iter_mut().zip(&mut self.read).take(sides) {
            widest(
                #[inline(always)]
                || oscillator.fill(at, frames, &mut read[..places]),
            );
        }
    }

    /// What was read last on a side at a place, with some room behind.
    #[must_use]
    pub fn of(&self, side: usize, place: usize) -> &[f32] {
        &self.read[side][place]
    }
}

/// How far every place is ahead on the left and on the right.
fn sides<const V: usize>(swing: Swing, ahead: [f64; V]) -> [[f64; V]; 2] {
    [ahead, ahead.map(|ahead| ahead + swing.apart)]
}
