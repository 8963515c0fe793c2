//! The window after Kaiser, for filters with a wanted stop-band.

use crate::cast;

/// A Kaiser window for a stop-band attenuation (J. F. Kaiser, 1974; Oppenheim and Schafer, "Discrete-Time Signal
/// Processing", section 7.5; from memory).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Kaiser {
    beta: f64,
}

impl Kaiser {
    /// The window for an attenuation of at least 21 dB.
    #[must_use]
    pub fn new(stop_db: f64) -> Self {
        let beta = if stop_db > 50.0 {
            0.1102 * (stop_db - 8.7)
        } else {
            0.5842 * (stop_db - 21.0).powf(0.4) + 0.078_86 * (stop_db - 21.0)
        };
        Self { beta }
    }

    /// Its value from -1, one end, over 0, the middle, where it is 1, to 1.
    #[must_use]
    pub fn at(&self, place: f64) -> f64 {
        bessel_i0(self.beta * (1.0 - place.powi(2)).sqrt()) / bessel_i0(self.beta)
    }
}

/// The modified Bessel function of order 0, by its series (Abramowitz and Stegun 9.6.12).
fn bessel_i0(x: f64) -> f64 {
    let (mut term, mut sum) = (1.0, 1.0);
    for n in 1..60 {
        term *= (x / (2.0 * cast::real(n))).powi(2);
        sum += term;
    }
    sum
}
