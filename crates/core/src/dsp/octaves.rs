//! A response in octaves.

use rustfft::num_complex::Complex;

use super::plans::{self, Precision};
use crate::cast;

/// Nominal middles of the octaves in which decays are read, Hz (IEC 61260-1).
pub const OCTAVES_HZ: [f64; 10] = [31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16_000.0];

/// What lies of a response in one octave: both sides at once, the left one as real, the right one as imaginary part.
#[derive(Debug, Clone)]
pub struct Octave<F = f64> {
    /// Nominal middle, Hz.
    pub freq_hz: f64,
    /// Samples, fewer per second for lower octaves.
    pub samples: Vec<Complex<F>>,
    /// How many there are per second.
    pub rate_hz: f64,
}

/// Takes octaves with these nominal middles (Hz) out of both sides of a response, by filters with the magnitude of third-order Butterworth band-passes and no
/// phase, which smear as far before a sound as after it. Octaves whose upper edge lies over half the rate are left out. With numbers of 32
/// bits it is twice as quick, and what lies 120 dB under the loudest is lost.
#[must_use]
pub fn octaves<F: Precision>(sides: &[Vec<f32>; 2], rate_hz: u32, freqs_hz: &[f64]) -> Vec<Octave<F>> {
    let whole = InOctaves::of(sides, rate_hz);
    let within = |freq_hz: &f64| exact_middle(*freq_hz) * EDGE < 0.5 * f64::from(rate_hz);
    freqs_hz.iter().copied().filter(within).map(|freq_hz| whole.octave(freq_hz, |_| 1.0)).collect()
}

/// The spectrum of both sides, out of which octaves are taken.
pub struct InOctaves<F = f64> {
    spectrum: Vec<Complex<F>>,
    bin_hz: f64,
    frames: usize,
}

impl<F: Precision> InOctaves<F> {
    /// The spectrum.
    #[must_use]
    pub fn of(sides: &[Vec<f32>; 2], rate_hz: u32) -> Self {
        let frames = sides[0].len();
        // Room behind the end, so that nothing comes round to the beginning.
        let length = plans::quick_length(frames + frames / 4 + 1024);
        let both = sides[0].iter().zip(&sides[1]);
        let both = both.map(|(l, r)| Complex::new(F::of_sample(*l), F::of_sample(*r)));
        let mut spectrum: Vec<Complex<F>> = both.collect();
        spectrum.resize(length, Complex::new(F::zero(), F::zero()));
        F::complex_forward(length).process(&mut spectrum);
        Self { spectrum, bin_hz: f64::from(rate_hz) / cast::real(length), frames }
    }

    /// The octave with a nominal middle (Hz), of what is there times a share of each frequency (Hz).
    #[must_use]
    pub fn octave(&self, nominal_hz: f64, share: impl Fn(f64) -> f64) -> Octave<F> {
        let middle = exact_middle(nominal_hz);
        let whole = self.spectrum.len();
        // What lies over four times the middle is 36 dB down twice over, and left out: fewer samples do.
        let needed = plans::quick_length(cast::count(8.0 * middle / self.bin_hz)).min(whole);
        let mut samples = vec![Complex::new(F::zero(), F::zero()); needed];
        let scale = 1.0 / cast::real(whole);
        for bin in 1..needed / 2 {
            let freq_hz = cast::real(bin) * self.bin_hz;
            let share = share(freq_hz);
            if share > 0.0 {
                let weight = F::of(scale * share * weight(freq_hz / middle));
                samples[bin] = self.spectrum[bin] * weight;
                samples[needed - bin] = self.spectrum[whole - bin] * weight;
            }
        }
        F::complex_backward(needed).process(&mut samples);
        samples.truncate(cast::count(cast::real(self.frames) * cast::real(needed) / cast::real(whole)));
        Octave { freq_hz: nominal_hz, samples, rate_hz: self.bin_hz * cast::real(needed) }
    }
}

/// The magnitude of the filter of an octave at a frequency over its middle.
fn weight(x: f64) -> f64 {
    let detuned = (x - 1.0 / x) / (EDGE - 1.0 / EDGE);
    1.0 / (1.0 + detuned.powi(6)).sqrt()
}

/// Half an octave as a ratio, in base ten (IEC 61260-1).
const EDGE: f64 = 1.412_537_544_622_754_4;

/// The exact middle of a nominal octave.
#[must_use]
pub fn exact_middle(freq_hz: f64) -> f64 {
    let octave = (freq_hz / 1000.0).log2().round();
    1000.0 * 10f64.powf(0.3 * octave)
}
