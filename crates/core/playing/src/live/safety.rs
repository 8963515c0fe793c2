//! The safety limiter of the monitor path: nobody's ears are hurt. Never in a measured or exported signal.

use clear_bend_sound::cast;
use clear_bend_sound::dsp::peak;

/// Nothing above this is played: 1 dB under full scale.
const CEILING: f32 = 0.891_25;
/// Time in which the gain comes back after a peak, s.
const RECOVERY_S: f64 = 0.2;

/// Turns down at once what would pass the ceiling, and comes back slowly. Below it, bit for bit the input.
pub(super) struct Safety {
    gain: f32,
    recovery: f32,
}

impl Safety {
    pub fn new(rate_hz: u32) -> Self {
        let recovery = cast::sample(1.0 - (-1.0 / (RECOVERY_S * f64::from(rate_hz))).exp());
        Self { gain: 1.0, recovery }
    }

    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        if self.gain == 1.0 && peak(left).max(peak(right)) <= CEILING {
            return;
        }
        for (l, r) in left.iter_mut().zip(right) {
            let peak = l.abs().max(r.abs());
            let allowed = if peak > CEILING { CEILING / peak } else { 1.0 };
            let recovered = self.gain + self.recovery * (1.0 - self.gain);
            self.gain = if recovered > 0.999_99 { 1.0 } else { recovered }.min(allowed);
            *l = (*l * self.gain).clamp(-CEILING, CEILING);
            *r = (*r * self.gain).clamp(-CEILING, CEILING);
        }
    }
}
