//! The wave between its samples: what a true peak is read off.

use std::f64::consts::PI;

use super::{lanes, larger};
use crate::cast;

/// Places at which the wave is read for every sample, as ITU-R BS.1770 Annex 2 asks for.
const PLACES: usize = 4;
/// Samples to each side that a place is made of.
const SIDE: usize = 6;

/// Reads the wave at a quarter, half and three quarters of the way from each sample to the next: a Hann-windowed sinc
/// of 48 samples at four times the rate, a filter of the kind that Annex 2 describes. Others of that kind read
/// the same within some hundredths of a decibel.
#[derive(Debug, Clone)]
pub struct Between {
    /// Taps of each place, the latest sample first.
    taps: [[f32; 2 * SIDE]; PLACES - 1],
    past: Vec<f32>,
}

impl Between {
    /// Frames by which the places of a frame lag behind it.
    pub const LATENCY: usize = SIDE;

    /// For blocks of at most `max_block`.
    #[must_use]
    pub fn new(max_block: usize) -> Self {
        let mut taps = [[0.0; 2 * SIDE]; PLACES - 1];
        for (place, taps) in taps.iter_mut().enumerate() {
            let part = cast::real(place + 1) / cast::real(PLACES);
            for (k, tap) in taps.iter_mut().enumerate() {
                // Distance from the place to the sample, in samples.
                let t = cast::real(SIDE) - part - cast::real(k);
                let window = 0.5 + 0.5 * (PI * t / cast::real(SIDE)).cos();
                *tap = cast::sample(window * (PI * t).sin() / (PI * t));
            }
        }
        Self { taps, past: vec![0.0; 2 * SIDE - 1 + max_block] }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.past.fill(0.0);
    }

    /// Raises each peak to the largest of a sample and the three places after it, all [`Self::LATENCY`] frames ago.
    pub fn raise(&mut self, block: &[f32], peaks: &mut [f32]) {
        let (n, history) = (block.len(), 2 * SIDE - 1);
        self.past[history..history + n].copy_from_slice(block);
        let past = &self.past[..history + n];
        for (peak, x) in peaks.iter_mut().zip(&past[history - SIDE..]) {
            *peak = larger(*peak, x.abs());
        }
        for taps in &self.taps {
            for (start, peaks) in peaks.chunks_mut(lanes::WIDE).enumerate() {
                let start = start * lanes::WIDE;
                let mut sums = [0.0f32; lanes::WIDE];
                for (k, tap) in taps.iter().enumerate() {
                    let from = start + history - k;
                    let x = &past[from..(from + lanes::WIDE).min(past.len())];
                    sums.iter_mut().zip(x).for_each(|(sum, x)| *sum += tap * x);
                }
                peaks.iter_mut().zip(&sums).for_each(|(peak, sum)| *peak = larger(*peak, sum.abs()));
            }
        }
        self.past.copy_within(n..n + history, 0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// BS.1770's example: a sine at a quarter of the rate, 45 degrees off, peaks 3.01 dB over its samples.
    #[test]
    fn a_peak_between_samples_is_found() {
        let x: Vec<f32> =
            (0..400).map(|i| cast::sample((PI / 2.0 * cast::real(i) + PI / 4.0).sin())).collect();
        let mut peaks = vec![0.0; 400];
        let mut between = Between::new(100);
        x.chunks(100).zip(peaks.chunks_mut(100)).for_each(|(x, peaks)| between.raise(x, peaks));
        let (least, most) = peaks[50..].iter().fold((9.0f32, 0.0f32), |(a, b), x| (a.min(*x), b.max(*x)));
        assert!((most - 1.0).abs() < 0.01 && least > 0.7, "{least} to {most}");
    }
}
