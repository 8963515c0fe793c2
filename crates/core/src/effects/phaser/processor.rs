//! First-order all-passes in a row, with feedback around them that is worked out within the sample.

use super::super::modulation::{Oscillator, rounds, swing_of};
use super::Settings;
use crate::cast;
use crate::dsp::Ramp;
use crate::effects::{Around, MOVE_S, Processor, Quantity, Setup};

/// The most sections.
const MOST: usize = 12;
/// What is smaller than this is silence.
const SMALLEST: f64 = 1e-20;

/// A phaser at work.
pub struct Phaser {
    rate: f64,
    /// One state for every section of both sides.
    states: [[f64; MOST]; 2],
    oscillators: [Oscillator<1>; 2],
    swings: [[Vec<f32>; 1]; 2],
    /// Octaves over 1 Hz, and to either side.
    centre_oct: Ramp,
    depth_oct: Ramp,
    feedback: Ramp,
    /// How much is taken from behind 2, 4 ... 12 sections.
    taps: [Ramp; MOST / 2],
    /// The corner on the left, Hz.
    freqs_hz: Vec<f32>,
    traced: usize,
}

fn taps(settings: &Settings) -> [f64; MOST / 2] {
    std::array::from_fn(|k| f64::from(u8::from(k == cast::count(settings.sections))))
}

impl Phaser {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let swing = swing_of!(settings);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        Self {
            rate: f64::from(setup.rate_hz),
            states: [[0.0; MOST]; 2],
            oscillators: [0.0, swing.apart].map(|ahead| Oscillator::new(swing, [ahead], setup.rate_hz)),
            swings: [(); 2].map(|()| [vec![0.0; setup.max_block]]),
            centre_oct: ramp(settings.centre_hz.log2()),
            depth_oct: ramp(settings.depth_oct),
            feedback: ramp(settings.feedback),
            taps: taps(settings).map(ramp),
            freqs_hz: vec![0.0; setup.max_block],
            traced: 0,
        }
    }

    fn run(&mut self, side: usize, x: &mut [f32]) {
        let states = &mut self.states[side];
        let highest = 0.49 * self.rate;
        for (i, x) in x.iter_mut().enumerate() {
            let octaves = self.centre_oct.next_value()
                + self.depth_oct.next_value() * f64::from(self.swings[side][0][i]);
            let freq_hz = octaves.exp2().min(highest);
            if side == 0 {
                self.freqs_hz[i] = cast::sample(freq_hz);
            }
            let feedback = self.feedback.next_value();
            let shares: [f64; MOST / 2] = std::array::from_fn(|k| self.taps[k].next_value());
            // Every section passes `pass` of what enters at once, and `kept` of its state (bilinear transform; the states are those
            // of the analogue integrator, so that the corner may move).
            let g = (std::f64::consts::PI * freq_hz / self.rate).tan();
            let share = g / (1.0 + g);
            let (pass, kept) = (2.0 * share - 1.0, 2.0 * (1.0 - share));
            // What comes out at once for an input of 1, and what comes of the states.
            let (mut at_once, mut of_states) = (1.0, 0.0);
            let (mut out_at_once, mut out_of_states) = (0.0, 0.0);
            for (k, pair) in states.chunks_exact(2).enumerate() {
                for state in pair {
                    at_once *= pass;
                    of_states = pass * of_states + kept * state;
                }
                out_at_once += shares[k] * at_once;
                out_of_states += shares[k] * of_states;
            }
            let dry = f64::from(*x);
            let out = (out_at_once * dry + out_of_states) / (1.0 - feedback * out_at_once);
            let mut u = dry + feedback * out;
            for state in states.iter_mut() {
                let v = (u - *state) * share;
                let low = v + *state;
                let next = low + v;
                // What has died away is silence: small numbers take long.
                *state = if next.abs() < SMALLEST { 0.0 } else { next };
                u = 2.0 * low - u;
            }
            *x = cast::sample(out);
        }
    }
}

impl Processor for Phaser {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        let swing = swing_of!(&settings);
        for (oscillator, ahead) in self.oscillators.iter_mut().zip([0.0, swing.apart]) {
            oscillator.set(swing, [ahead]);
        }
        self.centre_oct.set(settings.centre_hz.log2());
        self.depth_oct.set(settings.depth_oct);
        self.feedback.set(settings.feedback);
        self.taps.iter_mut().zip(taps(&settings)).for_each(|(tap, share)| tap.set(share));
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        let start =
            (self.centre_oct.clone(), self.depth_oct.clone(), self.feedback.clone(), self.taps.clone());
        for (side, x) in io.iter_mut().enumerate().take(2) {
            (self.centre_oct, self.depth_oct, self.feedback, self.taps) = start.clone();
            self.oscillators[side].fill(around.at, n, &mut self.swings[side]);
            self.run(side, x);
        }
        self.traced = n;
    }

    fn reset(&mut self) {
        self.states = [[0.0; MOST]; 2];
        self.oscillators.iter_mut().for_each(Oscillator::reset);
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
        (quantity == Quantity::FreqHz && part == 0).then(|| &self.freqs_hz[..self.traced])
    }
}
