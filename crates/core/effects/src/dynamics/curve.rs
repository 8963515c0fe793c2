//! The static curve: which gain a steady level gets.

use clear_bend_sound::dsp::{larger, smaller};

/// The soft-knee curve of Giannoulis, Massberg and Reiss (JAES 60(6), 2012), equation 4.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StaticCurve {
    /// Threshold, dBFS.
    pub threshold_db: f64,
    /// Width of the knee, dB.
    pub knee_db: f64,
    /// 1/ratio - 1: dB of gain for each dB over the threshold; 0 at 1:1, -1 when limiting.
    pub slope: f64,
}

impl StaticCurve {
    /// Gain in dB (0 or negative) for a steady level in dBFS.
    #[must_use]
    pub fn gain_db(&self, level_dbfs: f64) -> f64 {
        let over = level_dbfs - self.threshold_db;
        if 2.0 * over < -self.knee_db {
            0.0
        } else if 2.0 * over.abs() <= self.knee_db && self.knee_db > 0.0 {
            self.slope * (over + self.knee_db / 2.0).powi(2) / (2.0 * self.knee_db)
        } else {
            self.slope * over
        }
    }
}

/// The same curve for one lane of the processor, without branches: the part of the level within the knee
/// bends by the square, the part above it by the line. `over` is the level minus the threshold.
#[inline]
#[must_use]
pub fn lane_gain_db(over: f32, knee: f32, slope: f32) -> f32 {
    let half = 0.5 * knee;
    let within = smaller(larger(over + half, 0.0), knee);
    let above = larger(over - half, 0.0);
    // An empty knee has nothing within it; the small number only keeps 0/0 away.
    slope * (within * within / larger(2.0 * knee, 1e-6) + above)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn published_check_value() {
        // JAES 60(6) eq. 4 at x = T: (1/4 - 1) (6/2)^2 / (2 * 6).
        let curve = StaticCurve { threshold_db: -20.0, knee_db: 6.0, slope: 0.25 - 1.0 };
        assert!((curve.gain_db(-20.0) + 0.5625).abs() < 1e-12);
    }

    proptest! {
        #[test]
        fn the_lane_is_the_published_curve(over in -80f64..80.0, knee in prop::sample::select(vec![0.0, 0.1, 6.0, 40.0]), slope in -1f64..=0.0) {
            let curve = StaticCurve { threshold_db: 0.0, knee_db: knee, slope };
            #[allow(clippy::cast_possible_truncation)]
            let lane = lane_gain_db(over as f32, knee as f32, slope as f32);
            prop_assert!((f64::from(lane) - curve.gain_db(over)).abs() < 1e-4);
        }
    }
}
