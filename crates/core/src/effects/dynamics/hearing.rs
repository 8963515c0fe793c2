//! What of an effect with a detector is heard: its result, what the detector hears, or what is taken out.

use super::Detector;
use crate::cast;
use crate::dsp::{Delay, Ramp};
use crate::effects::{MOVE_S, Setup};

/// The choice, in the order in which it is offered.
pub const CHOICES: &[&str] = &["the result", "what the detector hears", "what is taken out"];

/// Switches between them with a short cross-fade.
pub struct Hearing {
    /// Shares of the three choices.
    shares: [Ramp; 3],
    late: [Delay; 2],
    untouched: [Vec<f32>; 2],
    heard: [Vec<f32>; 2],
}

impl Hearing {
    /// At rest at a choice; what the detector hears is `latency` frames ahead of the signal.
    #[must_use]
    pub fn new(setup: Setup, choice: f64, latency: usize) -> Self {
        let block = || [vec![0.0; setup.max_block], vec![0.0; setup.max_block]];
        let ramp = |i| Ramp::new(share(choice, i), cast::frames(MOVE_S, setup.rate_hz));
        Self {
            shares: [ramp(0), ramp(1), ramp(2)],
            late: [Delay::new(latency), Delay::new(latency)],
            untouched: block(),
            heard: block(),
        }
    }

    /// Whether anything but the result is heard.
    #[must_use]
    pub fn listens(&self) -> bool {
        !self.shares[0].rests_at(1.0)
    }

    /// Moves to a choice.
    pub fn set(&mut self, choice: f64) {
        if self.shares[0].rests_at(1.0) {
            self.late.iter_mut().for_each(Delay::reset);
        }
        self.shares.iter_mut().enumerate().for_each(|(i, ramp)| ramp.set(share(choice, i)));
    }

    /// Arrives at its choice.
    pub fn reset(&mut self) {
        self.shares.iter_mut().for_each(Ramp::settle);
        self.late.iter_mut().for_each(Delay::reset);
    }

    /// Keeps the signal, as late as the result will be, and what the detector has heard of the block.
    pub fn keep(&mut self, io: &[&mut [f32]], detector: &Detector) {
        if self.shares[0].rests_at(1.0) {
            return;
        }
        for (channel, x) in io.iter().enumerate().take(2) {
            let n = x.len();
            self.untouched[channel][..n].copy_from_slice(x);
            let heard = &mut self.heard[channel][..n];
            heard.copy_from_slice(detector.heard(channel));
            self.late[channel].process(heard);
        }
    }

    /// Replaces the result by what is to be heard.
    pub fn finish(&mut self, io: &mut [&mut [f32]]) {
        if self.shares[0].rests_at(1.0) {
            return;
        }
        let start = self.shares.clone();
        for (channel, x) in io.iter_mut().enumerate().take(2) {
            self.shares = start.clone();
            for (x, (untouched, heard)) in
                x.iter_mut().zip(self.untouched[channel].iter().zip(&self.heard[channel]))
            {
                let [result, key, taken] = &mut self.shares;
                let [result, key, taken] = [result, key, taken].map(|ramp| cast::sample(ramp.next_value()));
                *x = result * *x + key * heard + taken * (untouched - *x);
            }
        }
    }
}

fn share(choice: f64, i: usize) -> f64 {
    f64::from(u8::from(cast::count(choice) == i))
}
