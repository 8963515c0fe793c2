//! The few conversions between number types that audio code needs, each with its range stated.
//! The rest of the crate denies lossy casts.
#![allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]

/// A count as a real number. Exact up to 2^53, far beyond any passage.
#[inline]
#[must_use]
pub const fn real(count: usize) -> f64 {
    count as f64
}

/// A real number as a sample, rounded to the nearest `f32`.
#[inline]
#[must_use]
pub const fn sample(value: f64) -> f32 {
    value as f32
}

/// The whole number nearest to `value`; negative and NaN become 0.
#[inline]
#[must_use]
pub fn count(value: f64) -> usize {
    value.round() as usize
}

/// The largest whole number not above `value`; negative and NaN become 0.
#[inline]
#[must_use]
pub fn floor(value: f64) -> usize {
    // The conversion leaves out what is behind the point.
    value as usize
}

/// Where a part begins of a whole that is cut into so many equal ones: `whole * part / parts`, rounded down, without a product that
/// would not fit into the 32 bits of the browser (six million samples in 700 columns do not).
#[inline]
#[must_use]
pub const fn part_of(whole: usize, part: usize, parts: usize) -> usize {
    part * (whole / parts) + part * (whole % parts) / parts
}

/// A count as `u32`, saturating.
#[inline]
#[must_use]
pub fn small(count: usize) -> u32 {
    u32::try_from(count).unwrap_or(u32::MAX)
}

/// A whole number of frames for a time in seconds at a rate.
#[inline]
#[must_use]
pub fn frames(seconds: f64, rate_hz: u32) -> usize {
    count(seconds * f64::from(rate_hz))
}

/// A rounded real number as a whole one of either sign.
#[inline]
#[must_use]
pub const fn whole(value: f64) -> i64 {
    value as i64
}

/// The largest whole number not above `value`, of either sign, without the call of a library that `f64::floor` is where the
/// processor has no instruction for it; up to 2^63.
#[inline]
#[must_use]
pub fn down(value: f64) -> f64 {
    let toward_zero = value as i64 as f64;
    if toward_zero > value { toward_zero - 1.0 } else { toward_zero }
}

/// A whole number of either sign as a real one.
#[inline]
#[must_use]
pub const fn signed(value: i64) -> f64 {
    value as f64
}

/// How far a whole number is over 0.
#[inline]
#[must_use]
pub fn after(value: i64) -> usize {
    usize::try_from(value).unwrap_or(0)
}

/// How far a whole number is under 0.
#[inline]
#[must_use]
pub fn before(value: i64) -> usize {
    after(value.saturating_neg())
}

/// A seed given as a real number (catalogue values are real numbers).
#[inline]
#[must_use]
pub const fn seed(value: f64) -> u64 {
    value as u64
}

/// The upper 53 bits of a random word as a number in [0, 1).
#[inline]
#[must_use]
pub const fn unit_interval(word: u64) -> f64 {
    (word >> 11) as f64 / (1u64 << 53) as f64
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Equal to the product over all numbers, with nothing on the way that is more than 32 bits: ten minutes and more in any
        /// number of columns that a screen has.
        #[test]
        fn parts_begin_where_the_whole_product_says(whole in 0usize..1 << 31, parts in 1usize..8000, share in 0.0f64..=1.0) {
            let part = floor(share * real(parts));
            let exact = whole as u128 * part as u128 / parts as u128;
            prop_assert_eq!(part_of(whole, part, parts) as u128, exact);
            prop_assert!(part * (whole / parts) < 1 << 32 && part * (whole % parts) < 1 << 32);
        }
    }
}
