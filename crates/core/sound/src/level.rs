//! Levels and gains: between ratios of amplitude and decibels.

/// Amplitude ratio of a gain in dB. Negative infinity gives 0.
#[inline]
#[must_use]
pub fn gain_from_db(db: f64) -> f64 {
    10f64.powf(db / 20.0)
}

/// Gain or level in dB of an amplitude ratio; 0 gives negative infinity.
#[inline]
#[must_use]
pub fn db_from_gain(gain: f64) -> f64 {
    20.0 * gain.abs().log10()
}

/// Level in dB of a mean square; 0 gives negative infinity.
#[inline]
#[must_use]
pub fn db_from_power(mean_square: f64) -> f64 {
    10.0 * mean_square.log10()
}
