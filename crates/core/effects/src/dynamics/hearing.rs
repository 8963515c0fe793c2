//! What of an effect with a detector is heard: its result, what the detector hears, or what is taken out.

use super::Detector;
use crate::{MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, Ramp, linear_from_db};

/// The choice, in the order in which it is offered.
pub const CHOICES: &[&str] = &["the result", "what the detector hears", "what is taken out"];

/// Switches between them with a short cross-fade.
pub struct Hearing {
    /// Shares of the three choices.
    shares: [Ramp; 3],
    late: [Delay; 2],
    untouched: [Vec<f32>; 2],
    heard: [Vec<f32>; 2],
    /// The shares of the last block.
    block: [Vec<f32>; 3],
    /// What the mix lays under, as late as the result is in the end: what the detector hears, and how little of the
    /// untouched signal.
    laid: [Vec<f32>; 2],
    laid_late: [Delay; 2],
    without: Vec<f32>,
    without_late: Delay,
    /// Frames for which something of that is still on its way, and whether there was any in the last block.
    lingers: usize,
    lays: bool,
}

impl Hearing {
    /// At rest at a choice; what the detector hears is `latency` frames ahead of the signal, and what comes after this
    /// delays the result by `after` frames.
    #[must_use]
    pub fn new(setup: Setup, choice: f64, latency: usize, after: usize) -> Self {
        let block = || [vec![0.0; setup.max_block], vec![0.0; setup.max_block]];
        let ramp = |i| Ramp::new(share(choice, i), cast::frames(MOVE_S, setup.rate_hz));
        Self {
            shares: [ramp(0), ramp(1), ramp(2)],
            late: [Delay::new(latency), Delay::new(latency)],
            untouched: block(),
            heard: block(),
            block: [(); 3].map(|()| vec![0.0; setup.max_block]),
            laid: block(),
            laid_late: [Delay::new(after), Delay::new(after)],
            without: vec![0.0; setup.max_block],
            without_late: Delay::new(after),
            lingers: 0,
            lays: false,
        }
    }

    /// Whether anything but the result is heard.
    #[must_use]
    pub fn listens(&self) -> bool {
        !self.shares[0].rests_at(1.0)
    }

    /// Samples until a move ends; none while it is at rest.
    #[must_use]
    pub fn left(&self) -> Option<usize> {
        self.shares.iter().map(Ramp::left).filter(|left| *left > 0).min()
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
        self.late
            .iter_mut()
            .chain(&mut self.laid_late)
            .chain([&mut self.without_late])
            .for_each(Delay::reset);
        self.lingers = 0;
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
        let n = io.first().map_or(0, |c| c.len());
        let range = from..from + n;
        let listens = self.listens();
        self.lays = listens || self.lingers > 0 || (from > 0 && self.lays);
        if !self.lays {
            return;
        }
        self.lingers = if listens { self.without_late.frames() } else { self.lingers.saturating_sub(n) };
        for (ramp, shares) in self.shares.iter_mut().zip(&mut self.block) {
            ramp.fill(&mut shares[range.clone()]);
        }
        let [results, keys, takens] = &self.block;
        for (without, result) in self.without[range.clone()].iter_mut().zip(&results[from..]) {
            *without = 1.0 - result;
        }
        self.without_late.process(&mut self.without[range.clone()]);
        for (channel, x) in io.iter_mut().enumerate().take(2) {
            let laid = &mut self.laid[channel][range.clone()];
            if listens {
                let (untouched, heard) = (&self.untouched[channel], &self.heard[channel]);
                for (i, (x, laid)) in x.iter_mut().zip(laid.iter_mut()).enumerate() {
                    let at = from + i;
                    let fixed = fixed_db.map_or(1.0, |fixed_db| linear_from_db(fixed_db[i]));
                    let taken = takens[at] * (untouched[at] - *x);
                    *laid = keys[at] * heard[at];
                    *x = results[at] * fixed * *x + *laid + taken;
                }
            } else {
                laid.fill(0.0);
            }
            self.laid_late[channel].process(laid);
        }
    }

    /// What lies under that below full mix: the untouched signal under the result, nothing more under what is taken
    /// out, and what the detector hears is heard whole whatever the mix.
    pub fn lay_under(&self, dry: &mut [&mut [f32]]) {
        if !self.lays {
            return;
        }
        for (x, laid) in dry.iter_mut().zip(&self.laid) {
            for (x, (laid, without)) in x.iter_mut().zip(laid.iter().zip(&self.without)) {
                *x = (1.0 - without) * *x + laid;
            }
        }
    }
}

fn share(choice: f64, i: usize) -> f64 {
    f64::from(u8::from(cast::count(choice) == i))
}
