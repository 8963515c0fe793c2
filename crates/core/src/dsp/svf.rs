//! A second-order filter that may be moved while it runs.

use std::f64::consts::PI;

/// The corner and the damping of a [`StateVariable`] filter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Corner {
    damping: f64,
    a1: f64,
    a2: f64,
    a3: f64,
}

impl Corner {
    /// A corner at a frequency with a Q; 0.7071 is Butterworth's. Frequencies are kept under 0.49 of the rate.
    #[must_use]
    pub fn new(freq_hz: f64, q: f64, rate_hz: f64) -> Self {
        let g = (PI * (freq_hz / rate_hz).clamp(1e-6, 0.49)).tan();
        let damping = 1.0 / q.max(1e-3);
        let a1 = 1.0 / (1.0 + g * (g + damping));
        Self { damping, a1, a2: g * a1, a3: g * g * a1 }
    }

    /// Butterworth's second-order corner.
    #[must_use]
    pub fn butterworth(freq_hz: f64, rate_hz: f64) -> Self {
        Self::new(freq_hz, std::f64::consts::FRAC_1_SQRT_2, rate_hz)
    }
}

/// What leaves a [`StateVariable`] filter for one sample.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Parts {
    /// Low-pass, 12 dB per octave.
    pub low: f64,
    /// High-pass, 12 dB per octave.
    pub high: f64,
    /// All-pass with the same poles.
    pub all: f64,
}

/// The analogue state-variable filter with trapezoidal integrators: its poles are those of the bilinear transform,
/// and its states are those of the analogue one, so that moving the corner does not click.
#[derive(Debug, Clone, Copy, Default)]
pub struct StateVariable {
    first: f64,
    second: f64,
}

/// States smaller than this are none: keeps denormal numbers away.
const SMALLEST: f64 = 1e-20;

impl StateVariable {
    /// The next sample.
    #[inline]
    pub fn step(&mut self, corner: &Corner, x: f64) -> Parts {
        let Corner { damping, a1, a2, a3 } = *corner;
        let v3 = x - self.second;
        let band = a1 * self.first + a2 * v3;
        let low = self.second + a2 * self.first + a3 * v3;
        self.first = 2.0 * band - self.first;
        self.second = 2.0 * low - self.second;
        // Both at once: one alone would keep the other from dying away.
        if self.first.abs() < SMALLEST && self.second.abs() < SMALLEST {
            self.reset();
        }
        Parts { low, high: x - damping * band - low, all: x - 2.0 * damping * band }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        *self = Self::default();
    }
}
