//! The band that a de-esser works in, taken out of the signal without any shift of phase.

use std::f64::consts::PI;

use crate::cast;
use crate::dsp::{Kaiser, Ramp, symmetric};
use crate::effects::{MOVE_S, Setup};

/// Half the length of the filter, s: 48 samples at 48 kHz, an edge 1.5 kHz wide.
const HALF_S: f64 = 0.001;
/// Stop-band attenuation for which the window is designed, dB.
const STOP_DB: f64 = 50.0;

/// A linear-phase band-pass (Kaiser-windowed sinc) for two channels. Another band is reached by a cross-fade.
pub(super) struct Band {
    rate_hz: f64,
    half: usize,
    window: Vec<f64>,
    /// The first half of the symmetric row of taps, and its middle.
    taps: Vec<f32>,
    next_taps: Vec<f32>,
    edges_hz: (f64, f64),
    wanted_hz: (f64, f64),
    fade: Ramp,
    past: [Vec<f32>; 2],
    next: Vec<f32>,
}

impl Band {
    pub(super) fn new(setup: Setup, edges_hz: (f64, f64)) -> Self {
        let half = cast::frames(HALF_S, setup.rate_hz);
        let kaiser = Kaiser::new(STOP_DB);
        let window = (0..=half).map(|r| kaiser.at(1.0 - cast::real(r) / cast::real(half + 1)));
        let past = vec![0.0; 2 * half + setup.max_block];
        let mut band = Self {
            rate_hz: f64::from(setup.rate_hz),
            half,
            window: window.collect(),
            taps: vec![0.0; half + 1],
            next_taps: vec![0.0; half + 1],
            edges_hz,
            wanted_hz: edges_hz,
            fade: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            past: [past.clone(), past],
            next: vec![0.0; setup.max_block],
        };
        design(&mut band.taps, &band.window, edges_hz, band.rate_hz);
        band
    }

    /// Frames by which the band is late.
    pub(super) fn latency(&self) -> usize {
        self.half
    }

    /// Moves to other edges, Hz.
    pub(super) fn set(&mut self, edges_hz: (f64, f64)) {
        self.wanted_hz = edges_hz;
    }

    pub(super) fn reset(&mut self) {
        self.past.iter_mut().for_each(|past| past.fill(0.0));
        self.fade.settle();
        self.edges_hz = self.wanted_hz;
        design(&mut self.taps, &self.window, self.edges_hz, self.rate_hz);
    }

    /// The band of one block of each channel.
    pub(super) fn process(&mut self, io: &[&mut [f32]], band: &mut [Vec<f32>; 2]) {
        let n = io.first().map_or(0, |c| c.len());
        let mut done = 0;
        while done < n {
            if self.fade.left() == 0 && self.edges_hz != self.wanted_hz {
                self.edges_hz = self.wanted_hz;
                design(&mut self.next_taps, &self.window, self.edges_hz, self.rate_hz);
                self.fade = Ramp::new(0.0, self.fade.length());
                self.fade.set(1.0);
            }
            // A cross-fade ends within the block where it ends, so that the next one may begin there.
            let moving = self.fade.left();
            let run = if moving > 0 { moving.min(n - done) } else { n - done };
            for (channel, (x, out)) in io.iter().zip(band.iter_mut()).enumerate() {
                self.run(channel, &x[done..done + run], &mut out[done..done + run]);
            }
            self.fade.skip(run);
            if moving > 0 && self.fade.left() == 0 {
                std::mem::swap(&mut self.taps, &mut self.next_taps);
            }
            done += run;
        }
    }

    fn run(&mut self, channel: usize, x: &[f32], out: &mut [f32]) {
        let (n, history) = (x.len(), 2 * self.half);
        let past = &mut self.past[channel];
        past[history..history + n].copy_from_slice(x);
        symmetric(&self.taps[..self.half], Some(self.taps[self.half]), past, out);
        if self.fade.left() > 0 {
            let next = &mut self.next[..n];
            symmetric(&self.next_taps[..self.half], Some(self.next_taps[self.half]), past, next);
            let mut fade = self.fade.clone();
            for (out, next) in out.iter_mut().zip(next) {
                let share = cast::sample(fade.next_value());
                *out = share * *next + (1.0 - share) * *out;
            }
        }
        past.copy_within(n..n + history, 0);
    }
}

/// The taps of a band between two edges; up to half the rate where the upper one lies there.
fn design(taps: &mut [f32], window: &[f64], (low_hz, high_hz): (f64, f64), rate_hz: f64) {
    let half = taps.len() - 1;
    let edge = |hz: f64| 2.0 * (hz / rate_hz).min(0.5);
    let (low, high) = (edge(low_hz), edge(high_hz));
    // An ideal low-pass of a band edge, as a share of half the rate, t samples from its middle.
    let ideal = |edge: f64, t: f64| if t == 0.0 { edge } else { (PI * edge * t).sin() / (PI * t) };
    for (r, (tap, window)) in taps.iter_mut().zip(window).enumerate() {
        let t = cast::real(half - r);
        *tap = cast::sample(window * (ideal(high, t) - ideal(low, t)));
    }
}
