//! A tail of few samples a second and few bits: each sample stands until the next, and is rounded to a step.

use super::settings::{FULL_BITS, FULL_RATE_HZ};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;

/// Holds and rounds two channels.
pub struct Coarse {
    rate_hz: f64,
    tail_rate_hz: f64,
    bits: f64,
    /// How much of the coarse sound is heard: 0 where both are full.
    share: Ramp,
    phase: f64,
    held: [f64; 2],
}

impl Coarse {
    /// At rest; moves take so many samples.
    #[must_use]
    pub fn new(rate_hz: f64, tail_rate_hz: f64, bits: f64, move_frames: usize) -> Self {
        let share = Ramp::new(share(tail_rate_hz, bits), move_frames);
        Self { rate_hz, tail_rate_hz, bits, share, phase: 1.0, held: [0.0; 2] }
    }

    /// Moves to another rate (Hz) and word length (bits).
    pub fn set(&mut self, tail_rate_hz: f64, bits: f64) {
        if self.share.rests_at(0.0) {
            self.phase = 1.0;
        }
        self.share.set(share(tail_rate_hz, bits));
        // What is faded out stays coarse until it is gone.
        if share(tail_rate_hz, bits) > 0.0 {
            (self.tail_rate_hz, self.bits) = (tail_rate_hz, bits);
        }
    }

    /// Arrives and forgets what it holds.
    pub fn reset(&mut self) {
        self.share.settle();
        (self.phase, self.held) = (1.0, [0.0; 2]);
    }

    /// Holds and rounds a block.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        if self.share.rests_at(0.0) {
            return;
        }
        let full_rate = self.tail_rate_hz >= FULL_RATE_HZ;
        let advance = if full_rate { 1.0 } else { (self.tail_rate_hz / self.rate_hz).min(1.0) };
        // Steps of a word with a sign, over -1 to 1; the full word is not rounded.
        let steps = (self.bits - 1.0).exp2();
        let rounded = |x: f32| {
            let x = f64::from(x);
            if self.bits >= FULL_BITS { x } else { (x * steps).round() / steps }
        };
        for (l, r) in left.iter_mut().zip(right) {
            if self.phase >= 1.0 {
                self.phase -= 1.0;
                self.held = [rounded(*l), rounded(*r)];
            }
            self.phase += advance;
            let share = self.share.next_value();
            for (x, held) in [l, r].into_iter().zip(self.held) {
                let dry = f64::from(*x);
                *x = cast::sample(share * held + (1.0 - share) * dry);
            }
        }
    }
}

fn share(tail_rate_hz: f64, bits: f64) -> f64 {
    f64::from(u8::from(tail_rate_hz < FULL_RATE_HZ || bits < FULL_BITS))
}
