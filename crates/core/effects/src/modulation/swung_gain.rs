//! Gains that sway: what tremolo and auto-pan are made of.

use super::{Swing, Swings};
use crate::{Around, MOVE_S, Processor, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;

/// How the gain of each side follows a swing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GainSway {
    /// How it moves.
    pub swing: Swing,
    /// How far, 0 to 1.
    pub depth: f64,
    /// How much of each law counts.
    pub laws: [f64; 2],
}

/// The gain of a side (0 left, 1 right) at a swing from -1 to 1 times the depth.
pub type Law = fn(swung: f64, depth: f64, side: usize) -> f64;

/// Gains at work: two laws, of which one or the other holds.
pub struct SwungGain {
    meaning: fn(&[f64]) -> GainSway,
    laws: [Law; 2],
    swings: Swings<1>,
    depth: Ramp,
    shares: [Ramp; 2],
}

impl SwungGain {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, values: &[f64], meaning: fn(&[f64]) -> GainSway, laws: [Law; 2]) -> Self {
        let sway = meaning(values);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        Self {
            meaning,
            laws,
            swings: Swings::new(setup, sway.swing, [0.0]),
            depth: ramp(sway.depth),
            shares: sway.laws.map(ramp),
        }
    }
}

impl Processor for SwungGain {
    fn set(&mut self, values: &[f64]) {
        let sway = (self.meaning)(values);
        self.swings.set(sway.swing, [0.0]);
        self.depth.set(sway.depth);
        self.shares.iter_mut().zip(sway.laws).for_each(|(ramp, share)| ramp.set(share));
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        let start = (self.depth.clone(), self.shares.clone());
        self.swings.fill(around.at, n, io.len().min(2), 1);
        for (side, x) in io.iter_mut().enumerate().take(2) {
            (self.depth, self.shares) = start.clone();
            for (x, swung) in x.iter_mut().zip(self.swings.of(side, 0)) {
                let depth = self.depth.next_value();
                let [one, other] = [self.shares[0].next_value(), self.shares[1].next_value()];
                let swung = f64::from(*swung);
                let gain = match (one, other) {
                    (_, 0.0) => self.laws[0](swung, depth, side),
                    (0.0, _) => self.laws[1](swung, depth, side),
                    _ => one * self.laws[0](swung, depth, side) + other * self.laws[1](swung, depth, side),
                };
                *x *= cast::sample(gain);
            }
        }
    }

    fn reset(&mut self) {
        self.swings.reset();
        self.depth.settle();
        self.shares.iter_mut().for_each(Ramp::settle);
    }
}
