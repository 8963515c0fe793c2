//! The corner: how a wave is bent where it passes a level.

use std::f64::consts::FRAC_PI_2;

use clear_bend_sound::cast;
use clear_bend_sound::dsp::{larger, smaller};
use clear_bend_sound::level::{db_from_gain, db_from_power, gain_from_db};

/// A curve that is straight up to `1 - round` of a level, then a cubic that arrives flat at the level, then the level
/// itself.
///
/// `round` goes from 0, a sharp edge, to 1, all of it bent: then the curve is the cubic y = 1.5 u - 0.5 u³ of
/// u = x / (1.5 level), and nothing up to it is straight. The slope at 0 is 1 for every corner, so that quiet sound
/// passes as it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WaveShaper {
    level: f32,
    per_level: f32,
    straight: f32,
    round: f32,
    per_width: f32,
}

impl WaveShaper {
    /// The curve of a level (linear, over 0) and a roundness.
    #[inline]
    #[must_use]
    pub fn new(level: f32, round: f32) -> Self {
        // Without any rounding there is nothing between straight and flat; the small number keeps 0/0 away.
        let per_width = 1.0 / larger(1.5 * round, 1e-9);
        Self { level, per_level: 1.0 / level, straight: 1.0 - round, round, per_width }
    }

    /// One sample, bent.
    #[inline]
    #[must_use]
    pub fn at(&self, x: f32) -> f32 {
        let u = x.abs() * self.per_level;
        let z = smaller(larger((u - self.straight) * self.per_width, 0.0), 1.0);
        let y = smaller(u, self.straight) + self.round * z * (1.5 - 0.5 * z * z);
        (self.level * y).copysign(x)
    }
}

/// Points of a quarter of a wave at which a tone is bent.
const POINTS: usize = 256;

/// What is left of a tone with a peak (dBFS) that is bent from a level (dBFS) on, its RMS level as the peak of a tone, and the peak that is
/// left, dBFS; corner from 0, very round, to 1, a sharp edge.
#[must_use]
pub fn bent_tone_dbfs(peak_dbfs: f64, level_dbfs: f64, corner: f64) -> (f64, f64) {
    let shaper = WaveShaper::new(cast::sample(gain_from_db(level_dbfs)), cast::sample(1.0 - corner));
    let peak = gain_from_db(peak_dbfs);
    let bent = |share: f64| f64::from(shaper.at(cast::sample(peak * (FRAC_PI_2 * share).sin())));
    let square: f64 =
        (0..POINTS).map(|i| bent((cast::real(i) + 0.5) / cast::real(POINTS)).powi(2)).sum::<f64>()
            / cast::real(POINTS);
    (db_from_power(2.0 * square), db_from_gain(bent(1.0)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_corner_is_odd_never_over_the_level_and_never_steeper_than_one(
            x in -8f32..8.0, step in 1e-4f32..0.1, level in 0.05f32..2.0, round in 0f32..=1.0,
        ) {
            let y = WaveShaper::new(level, round).at(x);
            prop_assert_eq!(WaveShaper::new(level, round).at(-x), -y);
            prop_assert!(y.abs() <= level * 1.000_001 && y.abs() <= x.abs() + 1e-6);
            let rise = WaveShaper::new(level, round).at(x + step) - y;
            prop_assert!((-1e-6..=step + 1e-5).contains(&rise), "{rise}");
        }
    }

    #[test]
    fn the_two_ends_are_the_cubic_and_the_edge() {
        for u in [0.0f32, 0.2, 0.7, 1.0, 1.4, 1.5, 3.0] {
            let cubic = if u < 1.5 { u - 4.0 / 27.0 * u.powi(3) } else { 1.0 };
            assert!((WaveShaper::new(1.0, 1.0).at(u) - cubic).abs() < 1e-6);
            assert!((WaveShaper::new(1.0, 0.0).at(u) - u.min(1.0)).abs() < 1e-6);
        }
    }
}
