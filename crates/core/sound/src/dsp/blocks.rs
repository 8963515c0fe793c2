//! Sums over a block of samples, in sixteen lanes: exact enough, and free of one long chain of additions.

use super::lanes::larger;

const LANES: usize = 16;

/// Largest absolute sample; NaN counts as nothing.
#[must_use]
pub fn peak(samples: &[f32]) -> f32 {
    let mut peaks = [0.0f32; LANES];
    for chunk in samples.chunks(LANES) {
        peaks.iter_mut().zip(chunk).for_each(|(peak, x)| *peak = larger(*peak, x.abs()));
    }
    peaks.into_iter().fold(0.0, larger)
}

/// Sum of the squares.
#[must_use]
pub fn energy(samples: &[f32]) -> f64 {
    let mut sums = [0.0f64; LANES];
    for chunk in samples.chunks(LANES) {
        sums.iter_mut().zip(chunk).for_each(|(sum, x)| *sum += f64::from(*x) * f64::from(*x));
    }
    sums.iter().sum()
}
