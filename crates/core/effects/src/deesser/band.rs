//! The band that a de-esser works in, taken out of the signal without any shift of phase.

use std::f64::consts::{PI, TAU};

use crate::{MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Kaiser, Ramp, symmetric};

/// Half the length of the longest filter, s, which is by how much the band is late: enough for the narrowest band, a
/// fifth of an octave at 1 kHz.
const LATE_S: f64 = 0.0106;
/// No edge is made wider than this, Hz: half a filter of 1 ms.
const WIDEST_EDGE_HZ: f64 = 1465.0;
/// Stop-band attenuation for which the window is designed, dB.
const STOP_DB: f64 = 50.0;
/// Half the length of a filter in samples, times the width of its edge over the rate (Kaiser; Oppenheim and Schafer,
/// "Discrete-Time Signal Processing", section 7.5.3, from memory): (A - 7.95) / 14.36 / 2.
const HALF_TIMES_EDGE: f64 = (STOP_DB - 7.95) / 28.72;
/// Points of the window that are worked out beforehand; others lie on straight lines between them.
const WINDOW_POINTS: usize = 512;

/// A linear-phase band-pass (Kaiser-windowed sinc) for two channels, as long as its band is narrow. Another band is
/// reached by a cross-fade.
pub(super) struct Band {
    rate_hz: f64,
    half: usize,
    window: Vec<f64>,
    taps: Taps,
    next_taps: Taps,
    edges_hz: (f64, f64),
    wanted_hz: (f64, f64),
    fade: Ramp,
    past: [Vec<f32>; 2],
    next: Vec<f32>,
}

/// The first half of a symmetric row of taps, then its middle, of which so many samples to each side are used.
struct Taps {
    row: Vec<f32>,
    reach: usize,
}

impl Taps {
    /// Sums the row over samples, which begin with the history of the longest row.
    fn run(&self, past: &[f32], out: &mut [f32]) {
        let longest = self.row.len() - 1;
        let past = &past[longest - self.reach..];
        symmetric(&self.row[..self.reach], Some(self.row[self.reach]), past, out);
    }
}

impl Band {
    pub(super) fn new(setup: Setup, edges_hz: (f64, f64)) -> Self {
        let half = cast::frames(LATE_S, setup.rate_hz);
        let kaiser = Kaiser::new(STOP_DB);
        let window = (0..=WINDOW_POINTS).map(|i| kaiser.at(cast::real(i) / cast::real(WINDOW_POINTS)));
        let past = vec![0.0; 2 * half + setup.max_block];
        let taps = || Taps { row: vec![0.0; half + 1], reach: 1 };
        let mut band = Self {
            rate_hz: f64::from(setup.rate_hz),
            half,
            window: window.collect(),
            taps: taps(),
            next_taps: taps(),
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
        self.taps.run(past, out);
        if self.fade.left() > 0 {
            let next = &mut self.next[..n];
            self.next_taps.run(past, next);
            let mut fade = self.fade.clone();
            for (out, next) in out.iter_mut().zip(next) {
                let share = cast::sample(fade.next_value());
                *out = share * *next + (1.0 - share) * *out;
            }
        }
        past.copy_within(n..n + history, 0);
    }
}

/// The taps of a band between two edges; up to half the rate where the upper one lies there. Where the band has a
/// middle, that passes whole.
fn design(taps: &mut Taps, window: &[f64], (low_hz, high_hz): (f64, f64), rate_hz: f64) {
    // An edge as wide as the band leaves a middle that passes; one over half as low as it begins stays over 0 Hz.
    let edge_hz = (high_hz - low_hz).min(low_hz).min(WIDEST_EDGE_HZ);
    let half = (HALF_TIMES_EDGE * rate_hz / edge_hz).ceil();
    let reach = cast::count(half).clamp(1, taps.row.len() - 1);
    taps.reach = reach;
    let edge = |hz: f64| 2.0 * (hz / rate_hz).min(0.5);
    let (low, high) = (edge(low_hz), edge(high_hz));
    // An ideal low-pass of a band edge, as a share of half the rate, t samples from its middle.
    let ideal = |edge: f64, t: f64| if t == 0.0 { edge } else { (PI * edge * t).sin() / (PI * t) };
    let row = &mut taps.row[..=reach];
    for (r, tap) in row.iter_mut().enumerate() {
        let t = cast::real(reach - r);
        let place = t / cast::real(reach + 1) * cast::real(window.len() - 1);
        let before = cast::floor(place);
        let share = place - cast::real(before);
        let weight = window[before] + share * (window[before + 1] - window[before]);
        *tap = cast::sample(weight * (ideal(high, t) - ideal(low, t)));
    }
    if high_hz.is_finite() {
        // The sum of cosines at the middle of the band.
        let turn = TAU * (low_hz * high_hz).sqrt() / rate_hz;
        let sum = |(r, tap): (usize, &f32)| f64::from(*tap) * (turn * cast::real(reach - r)).cos();
        let sides: f64 = row[..reach].iter().enumerate().map(sum).sum();
        let gain = 2.0 * sides + f64::from(row[reach]);
        // Near half the rate there may be no band left.
        if gain > 0.5 {
            row.iter_mut().for_each(|tap| *tap *= cast::sample(1.0 / gain));
        }
    }
}
