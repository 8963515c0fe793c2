//! Plans of Fourier transforms, made once for all who need one of a length.

use std::cell::RefCell;
use std::sync::Arc;

use realfft::{ComplexToReal, FftNum, RealFftPlanner, RealToComplex};
use rustfft::num_complex::Complex64;
use rustfft::{Fft, FftPlanner};

use crate::cast;

thread_local! {
    static REAL: RefCell<RealFftPlanner<f64>> = RefCell::new(RealFftPlanner::new());
    static SINGLE: RefCell<RealFftPlanner<f32>> = RefCell::new(RealFftPlanner::new());
    static COMPLEX: RefCell<FftPlanner<f64>> = RefCell::new(FftPlanner::new());
    static SINGLE_COMPLEX: RefCell<FftPlanner<f32>> = RefCell::new(FftPlanner::new());
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

/// A kind of number that spectra are made of.
pub trait Precision: FftNum {
    /// The nearest to a number.
    fn of(value: f64) -> Self;
    /// The nearest to a sample.
    fn of_sample(value: f32) -> Self;
    /// As a sample.
    fn sample(self) -> f32;
    /// With 64 bits.
    fn wide(self) -> f64;
    /// Real samples to their spectrum, and back.
    fn plans(length: usize) -> (Arc<dyn RealToComplex<Self>>, Arc<dyn ComplexToReal<Self>>);
    /// Samples of any kind to their spectrum.
    fn complex_forward(length: usize) -> Arc<dyn Fft<Self>>;
    /// A spectrum of any symmetry to its samples.
    fn complex_backward(length: usize) -> Arc<dyn Fft<Self>>;
}

impl Precision for f64 {
    fn of(value: f64) -> Self {
        value
    }

    fn of_sample(value: f32) -> Self {
        Self::from(value)
    }

    fn sample(self) -> f32 {
        cast::sample(self)
    }

    fn wide(self) -> f64 {
        self
    }

    fn complex_forward(length: usize) -> Arc<dyn Fft<Self>> {
        complex_forward(length)
    }

    fn complex_backward(length: usize) -> Arc<dyn Fft<Self>> {
        complex_backward(length)
    }

    fn plans(length: usize) -> (Arc<dyn RealToComplex<Self>>, Arc<dyn ComplexToReal<Self>>) {
        (forward(length), backward(length))
    }
}

impl Precision for f32 {
    fn of(value: f64) -> Self {
        cast::sample(value)
    }

    fn of_sample(value: f32) -> Self {
        value
    }

    fn sample(self) -> f32 {
        self
    }

    fn wide(self) -> f64 {
        f64::from(self)
    }

    fn complex_forward(length: usize) -> Arc<dyn Fft<Self>> {
        SINGLE_COMPLEX.with_borrow_mut(|planner| planner.plan_fft_forward(length))
    }

    fn complex_backward(length: usize) -> Arc<dyn Fft<Self>> {
        SINGLE_COMPLEX.with_borrow_mut(|planner| planner.plan_fft_inverse(length))
    }

    fn plans(length: usize) -> (Arc<dyn RealToComplex<Self>>, Arc<dyn ComplexToReal<Self>>) {
        SINGLE.with_borrow_mut(|planner| (planner.plan_fft_forward(length), planner.plan_fft_inverse(length)))
    }
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

/// The spectrum of a real sound.
pub fn spectrum_of(mut time: Vec<f64>) -> Vec<Complex64> {
    let forward = forward(time.len());
    let mut spectrum = forward.make_output_vec();
    let done = forward.process(&mut time, &mut spectrum);
    debug_assert!(done.is_ok(), "the lengths fit");
    spectrum
}

/// So many samples of the spectrum of a real sound, times as many.
pub fn sound_of(mut spectrum: Vec<Complex64>, samples: usize) -> Vec<f64> {
    // The ends of the spectrum of a real sound are real.
    spectrum[0].im = 0.0;
    if let Some(last) = spectrum.last_mut() {
        last.im = 0.0;
    }
    let mut time = vec![0.0; samples];
    let done = backward(samples).process(&mut spectrum, &mut time);
    debug_assert!(done.is_ok(), "the lengths fit");
    time
}
