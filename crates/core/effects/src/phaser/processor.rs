//! First-order all-passes in a row, with feedback around them that is worked out within the sample.

use std::array::from_fn;
use std::f64::consts::PI;

use super::super::modulation::{Swings, rounds, swing_of};
use super::Settings;
use crate::{Around, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Ramp, exp2, smaller, tangent_share};

/// The most sections.
const MOST: usize = 12;
/// What is smaller than this is silence.
const SMALLEST: f64 = 1e-20;
/// Corners are worked out for so many samples at a time.
const STRETCH: usize = 16;

/// Highest corner, as a share of the rate.
const HIGHEST: f32 = 0.49;

/// Left and right, which are worked out side by side.
type Sides = [f64; 2];

/// A phaser at work.
pub struct Phaser {
    rate: f64,
    /// One state for every section of both sides: that of the analogue integrator, so that the corner may move.
    states: [Sides; MOST],
    swings: Swings<1>,
    /// Octaves over 1 Hz, and to either side.
    centre_oct: Ramp,
    depth_oct: Ramp,
    feedback: Ramp,
    /// How much is taken from behind 2, 4 ... 12 sections.
    taps: [Ramp; MOST / 2],
    /// What every section passes of the difference between its input and its state, over a block.
    passed: [Vec<f32>; 2],
    /// The corner, Hz.
    freqs_hz: [Vec<f32>; 2],
    traced: usize,
}

fn taps(settings: &Settings) -> [f64; MOST / 2] {
    from_fn(|k| f64::from(u8::from(k == cast::count(settings.sections))))
}

impl Phaser {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let swing = swing_of!(settings);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        Self {
            rate: f64::from(setup.rate_hz),
            states: [[0.0; 2]; MOST],
            swings: Swings::new(setup, swing, [0.0]),
            centre_oct: ramp(settings.centre_hz.log2()),
            depth_oct: ramp(settings.depth_oct),
            feedback: ramp(settings.feedback),
            taps: taps(settings).map(ramp),
            passed: [(); 2].map(|()| vec![0.0; setup.max_block]),
            freqs_hz: [(); 2].map(|()| vec![0.0; setup.max_block]),
            traced: 0,
        }
    }

    /// How many sections lie before the last one that is heard.
    fn heard(&self) -> usize {
        2 * self.taps.iter().rposition(|tap| !tap.rests_at(0.0)).map_or(0, |last| last + 1)
    }

    /// Works out the corners of a block.
    fn tune(&mut self, sides: usize, frames: usize) {
        let highest_hz = HIGHEST * cast::sample(self.rate);
        let turn = cast::sample(PI / self.rate);
        let mut moved = [(0.0f32, 0.0f32); STRETCH];
        let mut done = 0;
        while done < frames {
            let n = STRETCH.min(frames - done);
            for moved in &mut moved[..n] {
                *moved =
                    (cast::sample(self.centre_oct.next_value()), cast::sample(self.depth_oct.next_value()));
            }
            for side in 0..sides {
                let to = done..done + n;
                let swings = &self.swings.of(side, 0)[to.clone()];
                let (freqs_hz, passed) = (&mut self.freqs_hz[side][to.clone()], &mut self.passed[side][to]);
                let both = freqs_hz.iter_mut().zip(passed);
                for (((freq_hz, passed), (centre, depth)), swing) in both.zip(&moved).zip(swings) {
                    *freq_hz = smaller(exp2(centre + depth * swing), highest_hz);
                    *passed = tangent_share(turn * *freq_hz);
                }
            }
            done += n;
        }
    }

    /// One sample of both sides: what comes out of the sections that are heard.
    #[inline(always)]
    fn step(&mut self, dry: Sides, share: Sides, sections: usize) -> Sides {
        let feedback = self.feedback.next_value();
        let (pass, kept) = (share.map(|share| 2.0 * share - 1.0), share.map(|share| 2.0 * (1.0 - share)));
        // What comes out of every section at once for an input of 1, and what comes of the states.
        let (mut at_once, mut of_states) = ([[1.0; 2]; MOST + 1], [[0.0; 2]; MOST + 1]);
        let (mut out_at_once, mut out_of_states) = ([0.0; 2], [0.0; 2]);
        for (k, tap) in self.taps.iter_mut().enumerate().take(sections / 2) {
            for section in [2 * k, 2 * k + 1] {
                for side in 0..2 {
                    at_once[section + 1][side] = pass[side] * at_once[section][side];
                    of_states[section + 1][side] =
                        pass[side] * of_states[section][side] + kept[side] * self.states[section][side];
                }
            }
            let tap = tap.next_value();
            for side in 0..2 {
                out_at_once[side] += tap * at_once[2 * k + 2][side];
                out_of_states[side] += tap * of_states[2 * k + 2][side];
            }
        }
        let out: Sides = from_fn(|side| {
            (out_at_once[side] * dry[side] + out_of_states[side]) / (1.0 - feedback * out_at_once[side])
        });
        let enters: Sides = from_fn(|side| dry[side] + feedback * out[side]);
        for (k, state) in self.states.iter_mut().enumerate().take(sections) {
            for side in 0..2 {
                let u = at_once[k][side] * enters[side] + of_states[k][side];
                let next = state[side] + 2.0 * share[side] * (u - state[side]);
                // What has died away is silence: small numbers take long.
                state[side] = if next.abs() < SMALLEST { 0.0 } else { next };
            }
        }
        out
    }
}

impl Processor for Phaser {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.swings.set(swing_of!(&settings), [0.0]);
        // What sections held when they were heard last is not heard again.
        let heard = self.heard();
        self.states[heard..].fill([0.0; 2]);
        self.centre_oct.set(settings.centre_hz.log2());
        self.depth_oct.set(settings.depth_oct);
        self.feedback.set(settings.feedback);
        self.taps.iter_mut().zip(taps(&settings)).for_each(|(tap, share)| tap.set(share));
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        let sides = io.len().min(2);
        self.swings.fill(around.at, n, sides, 1);
        self.tune(sides, n);
        let sections = self.heard();
        for i in 0..n {
            let dry = from_fn(|side| io.get(side).map_or(0.0, |x| f64::from(x[i])));
            let share = from_fn(|side| f64::from(self.passed[side][i]));
            let out = self.step(dry, share, sections);
            for (x, out) in io.iter_mut().zip(out) {
                x[i] = cast::sample(out);
            }
        }
        self.taps[sections / 2..].iter_mut().for_each(|tap| tap.skip(n));
        self.traced = n;
    }

    fn reset(&mut self) {
        self.states = [[0.0; 2]; MOST];
        self.swings.reset();
        for ramp in
            [&mut self.centre_oct, &mut self.depth_oct, &mut self.feedback].into_iter().chain(&mut self.taps)
        {
            ramp.settle();
        }
    }

    fn tail(&self) -> usize {
        // Each section rings at the lowest corner, and all of it as often as the feedback keeps it.
        let lowest_hz = (self.centre_oct.value() - self.depth_oct.value()).exp2();
        let once = cast::real(MOST) / lowest_hz;
        cast::count(once * rounds(self.feedback.value().abs()).min(60.0) * self.rate)
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::FreqHz && part == 0).then(|| &self.freqs_hz[0][..self.traced])
    }
}
