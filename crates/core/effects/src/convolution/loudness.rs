//! How loud pink noise comes out of a kernel.

use std::f64::consts::{PI, TAU};

use rustfft::num_complex::Complex64;

use clear_bend_sound::cast;

/// Filters that make white noise pink and weigh it as loudness does: the sum of squares of a kernel that has gone through them is
/// the power, so weighed, of pink noise that has gone through the kernel. The weighing is that of ITU-R BS.1770-4, whose two filters
/// are given for 48 kHz; for other rates with the same corners and gains. Pink are poles and zeros half an octave apart from each
/// other (J. O. Smith, "Physical Audio Signal Processing", on spectral tilt; from memory).
///
/// Two channels go side by side, as the machine multiplies two numbers as quickly as one.
#[derive(Debug, Clone)]
pub struct Weighing {
    pink: [Slope; PINK],
    sections: [Section; 2],
    /// The square of the gain that all that make it pink have in common.
    scale: f64,
    slopes: [[f64; 2]; PINK],
    states: [[[f64; 2]; 2]; 2],
}

/// One filter of second order: `b` over `1 + a`.
#[derive(Debug, Clone, Copy)]
struct Section {
    b: [f64; 3],
    a: [f64; 2],
}

/// One of first order, with a zero and a pole.
#[derive(Debug, Clone, Copy)]
struct Slope {
    zero: f64,
    pole: f64,
}

/// The lowest pole of what is pink, Hz, and how many there are, an octave apart.
const LOWEST_HZ: f64 = 12.0;
const PINK: usize = 12;

impl Weighing {
    /// At a sample rate, Hz.
    #[must_use]
    pub fn new(rate_hz: f64) -> Self {
        // Each pole and zero where the analogue one is, also over half the rate: what those do under it counts.
        let at = |hz: f64| (-TAU * hz / rate_hz).exp();
        let pink = std::array::from_fn(|k| {
            let hz = LOWEST_HZ * cast::real(k).exp2();
            Slope { zero: at(std::f64::consts::SQRT_2 * hz), pole: at(hz) }
        });
        let gain: f64 = pink.iter().map(|slope: &Slope| (1.0 - slope.pole) / (1.0 - slope.zero)).product();
        Self {
            pink,
            sections: [shelf(rate_hz), high_pass(rate_hz)],
            scale: gain * gain,
            slopes: [[0.0; 2]; PINK],
            states: [[[0.0; 2]; 2]; 2],
        }
    }

    /// The squares of the next samples.
    pub fn squares(&mut self, x: [f64; 2]) -> [f64; 2] {
        let mut x = x;
        for (slope, state) in self.pink.iter().zip(&mut self.slopes) {
            for (x, state) in x.iter_mut().zip(state) {
                let y = *x + *state;
                *state = slope.pole * y - slope.zero * *x;
                *x = y;
            }
        }
        for (Section { b, a }, [first, second]) in self.sections.iter().zip(&mut self.states) {
            for ((x, first), second) in x.iter_mut().zip(first).zip(second) {
                let y = b[0] * *x + *first;
                *first = b[1] * *x - a[0] * y + *second;
                *second = b[2] * *x - a[1] * y;
                *x = y;
            }
        }
        x.map(|x| self.scale * x * x)
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.slopes = [[0.0; 2]; PINK];
        self.states = [[[0.0; 2]; 2]; 2];
    }

    /// What all squares of a single sample of 1 and what follows it are together.
    #[must_use]
    pub fn of_impulse(&self, rate_hz: f64) -> f64 {
        // The power over frequency, by even steps of its logarithm.
        const STEPS: i32 = 600;
        let (low, high) = (0.5f64.ln(), (0.5 * rate_hz).ln());
        let step = (high - low) / f64::from(STEPS);
        let sum: f64 = (0..STEPS)
            .map(|k| {
                let hz = (low + (f64::from(k) + 0.5) * step).exp();
                let z = Complex64::from_polar(1.0, -TAU * hz / rate_hz);
                let pink = self.pink.iter().map(|slope| slope.gain(z));
                let gain: f64 = pink.chain(self.sections.iter().map(|section| section.gain(z))).product();
                self.scale * gain * hz * step
            })
            .sum();
        2.0 * sum / rate_hz
    }
}

impl Slope {
    /// The square of its gain, for one sample later as a number.
    fn gain(&self, z: Complex64) -> f64 {
        (1.0 - self.zero * z).norm_sqr() / (1.0 - self.pole * z).norm_sqr()
    }
}

impl Section {
    /// The square of its gain, for one sample later as a number.
    fn gain(&self, z: Complex64) -> f64 {
        let above = self.b[0] + (self.b[1] + self.b[2] * z) * z;
        let under = 1.0 + (self.a[0] + self.a[1] * z) * z;
        above.norm_sqr() / under.norm_sqr()
    }
}

/// The first filter of the weighing: highs up by 4 dB.
fn shelf(rate_hz: f64) -> Section {
    let (k, q) = ((PI * 1_681.974_450_955_533 / rate_hz).tan(), 0.707_175_236_955_419_6);
    let high = 10f64.powf(3.999_843_853_973_347 / 20.0);
    let middle = high.powf(0.499_666_774_154_541_6);
    let under = 1.0 + k / q + k * k;
    Section {
        b: [
            (high + middle * k / q + k * k) / under,
            2.0 * (k * k - high) / under,
            (high - middle * k / q + k * k) / under,
        ],
        a: [2.0 * (k * k - 1.0) / under, (1.0 - k / q + k * k) / under],
    }
}

/// The second one: lows away.
fn high_pass(rate_hz: f64) -> Section {
    let (k, q) = ((PI * 38.135_470_876_024_44 / rate_hz).tan(), 0.500_327_037_323_877_3);
    let under = 1.0 + k / q + k * k;
    Section { b: [1.0, -2.0, 1.0], a: [2.0 * (k * k - 1.0) / under, (1.0 - k / q + k * k) / under] }
}
