//! Logarithm and power of two, written so that a loop over them compiles to SIMD lanes.
//!
//! The compressor needs both for every sample, and the library functions are calls that cannot be
//! vectorised. Both are series with known remainders (Abramowitz and Stegun 4.1.29 and 4.2.1), not
//! fitted constants.

use std::f32::consts::{FRAC_PI_2, FRAC_PI_4, LN_2, LOG2_E, SQRT_2};

/// Values that are computed side by side, so that they stay in registers.
pub(super) const WIDE: usize = 16;

/// The larger of two numbers that are not NaN: one instruction, where `f32::max` takes care of NaN and signed
/// zeros and takes several.
#[inline]
#[must_use]
pub fn larger(a: f32, b: f32) -> f32 {
    if a < b { b } else { a }
}

/// The smaller of two numbers that are not NaN.
#[inline]
#[must_use]
pub fn smaller(a: f32, b: f32) -> f32 {
    if b < a { b } else { a }
}

/// Decibels of amplitude per power of two: 20 log10 2.
const LOG2_TO_DB: f32 = 6.020_6;

/// Base-two logarithm of a positive normal number, to within 2e-7 + 1e-7 |log2 x|.
#[inline]
#[must_use]
pub fn log2(x: f32) -> f32 {
    // x = m 2^e with m between sqrt(1/2) and sqrt(2).
    let shifted = x.to_bits().wrapping_sub((SQRT_2 / 2.0).to_bits());
    let exponent = shifted.cast_signed() >> 23;
    let m = f32::from_bits(x.to_bits().wrapping_sub((exponent << 23).cast_unsigned()));
    // log m = 2 artanh(s); |s| < 0.172, so the first term left out is under 2e-9.
    let s = (m - 1.0) / (m + 1.0);
    let s2 = s * s;
    let series = 1.0 + s2 * (1.0 / 3.0 + s2 * (1.0 / 5.0 + s2 * (1.0 / 7.0 + s2 * (1.0 / 9.0))));
    real(exponent) + 2.0 * LOG2_E * s * series
}

/// Two to the power of x, to within 2e-7 of its size; exactly 1 at 0. For x from -126 to 126.
#[inline]
#[must_use]
pub fn exp2(x: f32) -> f32 {
    let x = smaller(larger(x, -126.0), 126.0);
    // Adding 1.5 * 2^23 rounds to the nearest whole number in the low bits.
    let biased = x + 12_582_912.0;
    let whole = biased - 12_582_912.0;
    let power = biased.to_bits() << 23;
    // e^t with |t| < 0.347: the first term left out is under 6e-9.
    let t = (x - whole) * LN_2;
    let series = 1.0
        + t * (1.0
            + t * (1.0 / 2.0
                + t * (1.0 / 6.0 + t * (1.0 / 24.0 + t * (1.0 / 120.0 + t * (1.0 / 720.0 + t / 5040.0))))));
    f32::from_bits(series.to_bits().wrapping_add(power))
}

/// Tangent of an angle from 0 up to, but not including, a right one, as a share: t / (1 + t), to within 3e-7 of its size. (What a
/// filter of first order passes at once, by the bilinear transform.)
#[inline]
#[must_use]
pub fn tangent_share(angle: f32) -> f32 {
    // The tangent of what is left to a right angle is the inverse.
    let over = FRAC_PI_4 < angle;
    let x = if over { FRAC_PI_2 - angle } else { angle };
    // Continued fraction (Abramowitz and Stegun 4.3.94), cut off after the fifth part.
    let x2 = x * x;
    let (up, down) = (x * (945.0 - x2 * (105.0 - x2)), 945.0 - x2 * (420.0 - 15.0 * x2));
    (if over { down } else { up }) / (up + down)
}

/// An exponent as a real number: exact, since exponents lie between -127 and 128.
#[allow(clippy::cast_precision_loss)]
#[inline]
fn real(exponent: i32) -> f32 {
    exponent as f32
}

/// Levels under this (-200 dBFS) read as this: keeps the logarithm finite.
const SMALLEST_LEVEL: f32 = 1e-10;

/// A level in dB, for lanes.
#[inline]
#[must_use]
pub fn db_from_linear(level: f32) -> f32 {
    LOG2_TO_DB * log2(larger(level, SMALLEST_LEVEL))
}

/// A gain in dB as a factor, for lanes; exactly 1 at 0 dB.
#[inline]
#[must_use]
pub fn linear_from_db(db: f32) -> f32 {
    exp2(db / LOG2_TO_DB)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn log2_agrees_with_the_library(x in 1e-30f32..1e30) {
            let exact = f64::from(x).log2();
            prop_assert!((f64::from(log2(x)) - exact).abs() <= 2e-7 + 1e-7 * exact.abs());
        }

        #[test]
        fn exp2_agrees_with_the_library(x in -120f32..120.0) {
            let exact = f64::from(x).exp2();
            prop_assert!((f64::from(exp2(x)) - exact).abs() <= 2e-7 * exact);
        }
    }

    proptest! {
        #[test]
        fn shares_of_tangents_agree_with_the_library(share in 1e-5f32..0.9999) {
            let angle = share * FRAC_PI_2;
            let tan = f64::from(angle).tan();
            let exact = tan / (1.0 + tan);
            prop_assert!((f64::from(tangent_share(angle)) - exact).abs() <= 3e-7 * exact);
        }
    }

    #[test]
    fn powers_of_two_are_exact() {
        for e in -120i8..=120 {
            let x = f32::from(e);
            assert_eq!(log2(x.exp2()), x);
            assert_eq!(exp2(x), x.exp2());
        }
        assert!((f64::from(LOG2_TO_DB) - 20.0 * 2f64.log10()).abs() < 1e-6);
    }
}
