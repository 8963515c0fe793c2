//! Plans of Fourier transforms, made once for all who need one of a length.

use std::cell::RefCell;
use std::sync::Arc;

use realfft::{ComplexToReal, RealFftPlanner, RealToComplex};
use rustfft::{Fft, FftPlanner};

thread_local! {
    static REAL: RefCell<RealFftPlanner<f64>> = RefCell::new(RealFftPlanner::new());
    static COMPLEX: RefCell<FftPlanner<f64>> = RefCell::new(FftPlanner::new());
}

/// The next length whose transform is quick: an eighth of a power of two times 8, 9, 10, 12 or 15. There are few enough of them that
/// their plans can be kept.
#[must_use]
pub fn quick_length(least: usize) -> usize {
    let eighth = least.div_ceil(15).next_power_of_two().max(2);
    // A power of two may be under a fifteenth of it by half.
    [eighth / 2, eighth]
        .into_iter()
        .flat_map(|eighth| [8, 9, 10, 12, 15].map(|n| n * eighth))
        .find(|length| *length >= least)
        .unwrap_or(16 * eighth)
}

/// Real samples to their spectrum.
#[must_use]
pub fn forward(length: usize) -> Arc<dyn RealToComplex<f64>> {
    REAL.with_borrow_mut(|planner| planner.plan_fft_forward(length))
}

/// A spectrum to its real samples.
#[must_use]
pub fn backward(length: usize) -> Arc<dyn ComplexToReal<f64>> {
    REAL.with_borrow_mut(|planner| planner.plan_fft_inverse(length))
}

/// Samples of any kind to their spectrum.
#[must_use]
pub fn complex_forward(length: usize) -> Arc<dyn Fft<f64>> {
    COMPLEX.with_borrow_mut(|planner| planner.plan_fft_forward(length))
}

/// A spectrum of any symmetry to its samples.
#[must_use]
pub fn complex_backward(length: usize) -> Arc<dyn Fft<f64>> {
    COMPLEX.with_borrow_mut(|planner| planner.plan_fft_inverse(length))
}
