//! What of an effect with a detector is heard: its result, what the detector hears, or what is taken out.

use super::Detector;
use crate::cast;
use crate::dsp::{Delay, Ramp, linear_from_db};
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
    /// The shares of the last block, and whether anything but the result was heard in it.
    block: [Vec<f32>; 3],
    listened: bool,
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
            block: [(); 3].map(|()| vec![0.0; setup.max_block]),
            listened: false,
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

    /// Keeps the signal, as late as the result will be, and what the detector has heard of a stretch that begins at
    /// `from` in the block.
    pub fn keep(&mut self, io: &[&mut [f32]], detector: &Detector, from: usize) {
        if self.shares[0].rests_at(1.0) {
            return;
        }
        for (channel, x) in io.iter().enumerate().take(2) {
            let range = from..from + x.len();
            self.untouched[channel][range.clone()].copy_from_slice(x);
            let heard = &mut self.heard[channel][range];
            heard.copy_from_slice(detector.heard(channel));
            self.late[channel].process(heard);
        }
    }

    /// Replaces the result by what is to be heard: what is taken out is what the result lacks of the signal that was
    /// kept. The result alone gets a fixed gain on top, dB on each frame, where there is one.
    pub fn finish(&mut self, io: &mut [&mut [f32]], fixed_db: Option<&[f32]>, from: usize) {
        let listens = self.listens();
        self.listened = listens || (from > 0 && self.listened);
        if !self.listened {
            return;
        }
        let n = io.first().map_or(0, |c| c.len());
        for (ramp, shares) in self.shares.iter_mut().zip(&mut self.block) {
            ramp.fill(&mut shares[from..from + n]);
        }
        if !listens {
            return;
        }
        let [results, keys, takens] = &self.block;
        for (channel, x) in io.iter_mut().enumerate().take(2) {
            let (untouched, heard) = (&self.untouched[channel], &self.heard[channel]);
            for (i, x) in x.iter_mut().enumerate() {
                let at = from + i;
                let fixed = fixed_db.map_or(1.0, |fixed_db| linear_from_db(fixed_db[i]));
                let taken = takens[at] * (untouched[at] - *x);
                *x = results[at] * fixed * *x + keys[at] * heard[at] + taken;
            }
        }
    }

    /// What lies under that below full mix: the untouched signal under the result, nothing more under what is taken
    /// out, and what the detector hears is heard whole whatever the mix.
    pub fn lay_under(&self, dry: &mut [&mut [f32]]) {
        if !self.listened {
            return;
        }
        let [results, keys, _] = &self.block;
        for (channel, x) in dry.iter_mut().enumerate().take(2) {
            for (i, x) in x.iter_mut().enumerate() {
                *x = results[i] * *x + keys[i] * self.heard[channel][i];
            }
        }
    }
}

fn share(choice: f64, i: usize) -> f64 {
    f64::from(u8::from(cast::count(choice) == i))
}
