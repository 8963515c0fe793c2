//! A second-order filter that may be moved while it runs.

use std::f64::consts::PI;

/// Q of the two second-order parts of a fourth-order Butterworth filter.
pub const BUTTERWORTH_4: [f64; 2] = [0.541_196_1, 1.306_563];

/// The corner and the damping of a [`StateVariable`] filter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Corner {
    damping: f64,
    g: f64,
    a: f64,
}

impl Corner {
    /// A corner at a frequency with a Q; 0.7071 is Butterworth's. Frequencies are kept under 0.49 of the rate.
    #[must_use]
    pub fn new(freq_hz: f64, q: f64, rate_hz: f64) -> Self {
        let g = (PI * (freq_hz / rate_hz).clamp(1e-6, 0.49)).tan();
        let damping = 1.0 / q.max(1e-3);
        Self { damping, g, a: twice_share(g, damping) }
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

/// What a filter with a warped corner `g`, tan(pi f / rate), and a damping works with beside: 2 / (1 + g (g + damping)).
#[inline]
#[must_use]
pub fn twice_share(g: f64, damping: f64) -> f64 {
    2.0 / (1.0 + g * (g + damping))
}

/// One sample through the two integrators; gives twice the band and twice the low part.
#[inline(always)]
pub fn advance((first, second): (&mut f64, &mut f64), g: f64, a: f64, x: f64) -> (f64, f64) {
    let twice_band = a * (g * (x - *second) + *first);
    *first = twice_band - *first;
    let next = *second + g * twice_band;
    let twice_low = *second + next;
    *second = next;
    (twice_band, twice_low)
}

/// States smaller than this are none: keeps denormal numbers away.
const SMALLEST: f64 = 1e-20;

impl StateVariable {
    /// The next sample.
    #[inline]
    pub fn step(&mut self, corner: &Corner, x: f64) -> Parts {
        let Corner { damping, g, a } = *corner;
        let (twice_band, twice_low) = advance((&mut self.first, &mut self.second), g, a, x);
        let (band, low) = (0.5 * twice_band, 0.5 * twice_low);
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
