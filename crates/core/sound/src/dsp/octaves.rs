//! A response in octaves.

use std::ops::Range;

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
    let within = freqs_hz.iter().copied().filter(|freq_hz| has_octave(*freq_hz, rate_hz));
    within.map(|freq_hz| whole.octave(freq_hz)).collect()
}

/// Whether all of an octave with a nominal middle (Hz) lies under half a rate.
#[must_use]
pub fn has_octave(freq_hz: f64, rate_hz: u32) -> bool {
    exact_middle(freq_hz) * EDGE < 0.5 * f64::from(rate_hz)
}

/// The spectrum of both sides, out of which octaves are taken.
pub struct InOctaves<F = f64> {
    spectrum: Vec<Complex<F>>,
    bin_hz: f64,
    frames: usize,
}

impl<F: Precision> InOctaves<F> {
    /// The spectrum, with room behind the end, so that nothing comes round to the beginning.
    #[must_use]
    pub fn of(sides: &[Vec<f32>; 2], rate_hz: u32) -> Self {
        Self::with_room(sides, rate_hz, sides[0].len() / 4 + 1024)
    }

    /// The spectrum, with room behind the end for so many samples at least.
    #[must_use]
    pub fn with_room(sides: &[Vec<f32>; 2], rate_hz: u32, room: usize) -> Self {
        let frames = sides[0].len();
        let length = plans::quick_length(frames + room);
        let both = sides[0].iter().zip(&sides[1]);
        let both = both.map(|(l, r)| Complex::new(F::of_sample(*l), F::of_sample(*r)));
        let mut spectrum: Vec<Complex<F>> = both.collect();
        spectrum.resize(length, Complex::new(F::zero(), F::zero()));
        F::complex_forward(length).process(&mut spectrum);
        Self { spectrum, bin_hz: f64::from(rate_hz) / cast::real(length), frames }
    }

    /// The octave with a nominal middle (Hz).
    #[must_use]
    pub fn octave(&self, nominal_hz: f64) -> Octave<F> {
        self.weighed(nominal_hz, octave_weight)
    }

    /// The same by a filter of sixth order, which hears less of the octaves beside it.
    #[must_use]
    pub fn steep_octave(&self, nominal_hz: f64) -> Octave<F> {
        self.weighed(nominal_hz, steep_weight)
    }

    fn weighed(&self, nominal_hz: f64, weight: fn(f64) -> f64) -> Octave<F> {
        let middle = exact_middle(nominal_hz);
        // What lies over four times the middle is 36 dB down twice over, and left out: fewer samples do.
        let needed = self.length_for(cast::count(8.0 * middle / self.bin_hz));
        let mut samples = self.taken(1..needed / 2, 0, needed, |hz| weight(hz / middle));
        samples.truncate(cast::count(cast::real(self.frames) * cast::real(needed) / self.whole()));
        Octave { freq_hz: nominal_hz, samples, rate_hz: self.bin_hz * cast::real(needed) }
    }

    /// What lies between two frequencies (Hz), with a weight for each, at so much lower a rate that it is a whole number of times in
    /// the first one, with the room behind it.
    #[must_use]
    pub fn at_lower_rate(&self, every: usize, weight: impl Fn(f64) -> f64) -> Vec<Complex<F>> {
        let needed = self.spectrum.len() / every;
        self.taken(0..needed / 2 + 1, 0, needed, weight)
    }

    /// The envelope of what lies between two frequencies (Hz), with a weight for each: moved down to where few samples hold it, both
    /// sides apart. Its power is that of the band but for what goes at twice the band's frequencies.
    #[must_use]
    pub fn envelope(&self, from_hz: f64, to_hz: f64, weight: impl Fn(f64) -> f64) -> Octave<F> {
        let bin = |hz: f64| cast::floor(hz / self.bin_hz).min(self.spectrum.len() / 2);
        let (first, end) = (bin(from_hz).max(1), bin(to_hz).max(2));
        // Apart from the negative frequencies by as much as lets them go fast against each other.
        let apart = bin(LEFT_APART_HZ + LEFT_APART * (to_hz - from_hz));
        let down = first.saturating_sub(apart);
        let needed = self.length_for(2 * (end - down));
        let mut samples = self.taken(first..end, down, needed, weight);
        samples.truncate(cast::count(cast::real(self.frames) * cast::real(needed) / self.whole()));
        Octave { freq_hz: 0.5 * (from_hz + to_hz), samples, rate_hz: self.bin_hz * cast::real(needed) }
    }

    fn whole(&self) -> f64 {
        cast::real(self.spectrum.len())
    }

    fn length_for(&self, least: usize) -> usize {
        plans::quick_length(least).min(self.spectrum.len())
    }

    /// So many samples of some bins and of their negative ones, with a weight for each frequency (Hz), moved down by some bins.
    fn taken(
        &self,
        bins: Range<usize>,
        down: usize,
        needed: usize,
        weight: impl Fn(f64) -> f64,
    ) -> Vec<Complex<F>> {
        let whole = self.spectrum.len();
        let mut samples = vec![Complex::new(F::zero(), F::zero()); needed];
        let scale = 1.0 / cast::real(whole);
        for bin in bins {
            let weight = weight(cast::real(bin) * self.bin_hz);
            if weight > 0.0 {
                let weight = F::of(scale * weight);
                samples[bin - down] = self.spectrum[bin] * weight;
                // At 0 Hz and at half the rate, positive and negative frequencies are one.
                samples[(needed - (bin - down)) % needed] = self.spectrum[(whole - bin) % whole] * weight;
            }
        }
        F::complex_backward(needed).process(&mut samples);
        samples
    }
}

/// Positive and negative frequencies of an envelope are so far apart, Hz and as a share of its width.
const LEFT_APART_HZ: f64 = 20.0;
const LEFT_APART: f64 = 0.05;

/// The magnitude of the filter of an octave at a frequency over its middle.
#[must_use]
pub fn octave_weight(x: f64) -> f64 {
    // With a single division: (x - 1 / x) / (EDGE - 1 / EDGE) is how far it is detuned, and x cubed is on both sides of the fraction.
    let (square, detuned) = (x * x, (x * x - 1.0) * BY_WIDTH);
    let cube = square * x;
    cube / (cube * cube + detuned.powi(6)).sqrt()
}

/// The same of sixth order.
fn steep_weight(x: f64) -> f64 {
    let detuned = (x - 1.0 / x) * BY_WIDTH;
    1.0 / (1.0 + detuned.powi(12)).sqrt()
}

/// Half an octave as a ratio, in base ten (IEC 61260-1).
const EDGE: f64 = 1.412_537_544_622_754_4;
/// One over the width of an octave, by which a filter is detuned.
const BY_WIDTH: f64 = 1.0 / (EDGE - 1.0 / EDGE);

/// The exact middle of a nominal octave.
#[must_use]
pub fn exact_middle(freq_hz: f64) -> f64 {
    let octave = (freq_hz / 1000.0).log2().round();
    1000.0 * 10f64.powf(0.3 * octave)
}
