//! Automatic release: how much shorter than the longest it is, read off the crest factor.

use clear_bend_sound::cast;

/// The time over which the crest factor is read, s.
const WINDOW_S: f64 = 0.2;
/// Squares under this (-120 dBFS) say nothing about the signal.
const QUIETEST: f64 = 1e-12;

/// The crest factor of the recent past, squared: peak and mean of the square, both falling back over 200 ms.
///
/// Giannoulis, Massberg, Reiss, "Parameter Automation in a Dynamic Range Compressor", JAES 61(10), 2013 (from memory):
/// the release is its longest time times 2 over the squared crest factor, which is 2 for a sine. What hits is released
/// quickly, what holds slowly.
#[derive(Debug, Clone)]
pub(super) struct Crest {
    keep: f64,
    peak: f64,
    mean: f64,
}

impl Crest {
    pub(super) fn new(rate_hz: f64) -> Self {
        Self { keep: (-1.0 / (WINDOW_S * rate_hz)).exp(), peak: 0.0, mean: 0.0 }
    }

    pub(super) fn reset(&mut self) {
        (self.peak, self.mean) = (0.0, 0.0);
    }

    /// The share of the longest release at every sample, 0.02 to 1.
    pub(super) fn process(&mut self, level: &[f32], share: &mut [f32]) {
        for (level, share) in level.iter().zip(share) {
            let square = f64::from(*level) * f64::from(*level);
            self.mean = self.keep * self.mean + (1.0 - self.keep) * square;
            self.peak = square.max(self.keep * self.peak + (1.0 - self.keep) * square);
            // Silence dies away to nothing, and not to denormal numbers.
            if self.peak < 1e-30 {
                (self.peak, self.mean) = (0.0, 0.0);
            }
            let crest = if self.mean > QUIETEST { 2.0 * self.mean / self.peak } else { 1.0 };
            *share = cast::sample(crest.clamp(0.02, 1.0));
        }
    }
}
