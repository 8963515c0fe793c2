//! The wave between its samples: what a true peak is read off.

use std::f64::consts::PI;

use super::larger;
use super::oversample::HalfBand;
use crate::cast;

/// Places at which the wave is read for every sample, as ITU-R BS.1770 Annex 2 asks for.
const PLACES: usize = 4;
/// Half-band lengths are `4 k + 3`; `k` of the two stages that lead there. The first passes what lies under 0.907 of half
/// the rate, 20 kHz at 44.1 kHz, and takes what mirrors it; the other has a wide gap to work in.
const STAGES: [usize; 2] = [26, 6];
/// Places to which each of those is split where it matters: sixteen for every sample in all. What lies between two of
/// them is under 0.04 dB higher, up to 0.907 of half the rate.
const FINER: usize = 4;
/// What lies between two of the four places is at most this much higher: 0.56 dB at 0.907 of half the rate, and a little.
const MOST_HIGHER: f32 = 1.09;
/// Places to each side that a finer one is made of.
const SIDE: usize = 6;

/// By how many places the finer reading is late.
const LATE: usize = (2 * STAGES[0] + 1) * 2 + (2 * STAGES[1] + 1) + SIDE;

/// Reads the wave at four places for every sample, by two half-band stages, and at sixteen where it may be high.
#[derive(Debug, Clone)]
pub struct Between {
    first: HalfBand,
    second: HalfBand,
    twos: Vec<f32>,
    /// The last places, then those of one block.
    fours: Vec<f32>,
    /// Taps for the places between two of the four: a Hann-windowed sinc.
    finer: [[f32; 2 * SIDE]; FINER - 1],
}

impl Between {
    /// Frames by which the places of a frame lag behind it. They lie within one frame to each side.
    pub const LATENCY: usize = LATE / PLACES;

    /// For blocks of at most `max_block`.
    #[must_use]
    pub fn new(max_block: usize) -> Self {
        let mut finer = [[0.0; 2 * SIDE]; FINER - 1];
        for (place, taps) in finer.iter_mut().enumerate() {
            let part = cast::real(place + 1) / cast::real(FINER);
            for (k, tap) in taps.iter_mut().enumerate() {
                // Distance from the place, which lies after tap SIDE - 1.
                let t = cast::real(k) - cast::real(SIDE - 1) - part;
                let window = 0.5 + 0.5 * (PI * t / cast::real(SIDE)).cos();
                *tap = cast::sample(window * (PI * t).sin() / (PI * t));
            }
        }
        Self {
            first: HalfBand::new(STAGES[0], max_block, 1),
            second: HalfBand::new(STAGES[1], 2 * max_block, 1),
            twos: vec![0.0; 2 * max_block],
            fours: vec![0.0; 2 * SIDE + PLACES * max_block],
            finer,
        }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.first.reset();
        self.second.reset();
        self.fours.fill(0.0);
    }

    /// Raises each peak to the largest of the places around a sample, all [`Self::LATENCY`] frames ago. It looks at
    /// sixteen of them where the wave may be over `from`, at four elsewhere.
    pub fn raise(&mut self, block: &[f32], from: f32, peaks: &mut [f32]) {
        let n = block.len();
        let history = 2 * SIDE;
        let twos = &mut self.twos[..2 * n];
        self.first.up(block, twos);
        self.second.up(twos, &mut self.fours[history..history + PLACES * n]);
        // In the middle of what a finer place is made of.
        let high = from / MOST_HIGHER;
        for (i, peak) in peaks.iter_mut().enumerate().take(n) {
            let at = PLACES * i + SIDE;
            let near = &self.fours[at..=at + PLACES];
            let mut largest = near.iter().fold(0.0, |a, x| larger(a, x.abs()));
            if largest > high {
                for place in at..at + PLACES {
                    let around = &self.fours[place + 1 - SIDE..=place + SIDE];
                    for taps in &self.finer {
                        let sum: f32 = taps.iter().zip(around).map(|(tap, x)| tap * x).sum();
                        largest = larger(largest, sum.abs());
                    }
                }
            }
            *peak = larger(*peak, largest);
        }
        self.fours.copy_within(PLACES * n..PLACES * n + history, 0);
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
        x.chunks(100).zip(peaks.chunks_mut(100)).for_each(|(x, peaks)| between.raise(x, 1.0, peaks));
        let (least, most) = peaks[100..].iter().fold((9.0f32, 0.0f32), |(a, b), x| (a.min(*x), b.max(*x)));
        assert!((most - 1.0).abs() < 0.002 && least > 0.7, "{least} to {most}");
    }

    /// A click is seen around its own place.
    #[test]
    fn places_lag_by_the_latency() {
        let mut x = [0.0f32; 200];
        x[100] = 1.0;
        let mut peaks = vec![0.0; 200];
        Between::new(200).raise(&x, 0.5, &mut peaks);
        let highest = (0..200).max_by(|a, b| peaks[*a].total_cmp(&peaks[*b])).unwrap();
        assert!((100 + Between::LATENCY..=101 + Between::LATENCY).contains(&highest), "{highest}");
    }
}
