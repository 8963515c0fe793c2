//! From one rate to another.

use std::f64::consts::PI;

use super::Kaiser;
use crate::cast;

/// Zero crossings of the kernel to each side, at the lower of both rates.
const CROSSINGS: f64 = 64.0;
/// Stop-band attenuation of its window, dB.
const STOP_DB: f64 = 80.0;
/// The kernel passes up to this share of half the lower rate.
const PASSED: f64 = 0.96;

/// Reads sounds between their samples (Kaiser-windowed sinc; J. O. Smith and P. Gossett, "A Flexible Sampling-Rate
/// Conversion Method", ICASSP 1984, from memory).
pub struct Resampler {
    /// Samples that come out for each `down` that go in.
    up: usize,
    down: usize,
    /// Samples to each side that one is read from.
    side: usize,
    /// A row of taps for every place between two samples.
    taps: Vec<f32>,
}

impl Resampler {
    /// From a rate to another one, Hz.
    #[must_use]
    pub fn new(from_hz: u32, to_hz: u32) -> Self {
        let common = greatest_common_divisor(from_hz, to_hz).max(1);
        let (up, down) = (to_hz / common, from_hz / common);
        // Where the rate falls, what would not fit any more is left out.
        let cut = PASSED * (f64::from(to_hz) / f64::from(from_hz)).min(1.0);
        let side = cast::count((CROSSINGS / cut).ceil());
        let window = Kaiser::new(STOP_DB);
        let mut taps = Vec::new();
        for place in 0..up {
            let part = f64::from(place) / f64::from(up);
            for k in 0..2 * side {
                let t = cast::real(k) - cast::real(side - 1) - part;
                let sinc = if t == 0.0 { cut } else { (PI * cut * t).sin() / (PI * t) };
                taps.push(cast::sample(sinc * window.at((t / cast::real(side)).clamp(-1.0, 1.0))));
            }
        }
        Self { up: cast::count(f64::from(up)), down: cast::count(f64::from(down)), side, taps }
    }

    /// A sound that goes round, at the other rate.
    #[must_use]
    pub fn round(&self, sound: &[f32]) -> Vec<f32> {
        let frames = sound.len();
        if frames == 0 {
            return Vec::new();
        }
        let wanted = (frames * self.up + self.down / 2) / self.down;
        let read = |n: usize| {
            let place = n * self.down;
            let (at, part) = (place / self.up, place % self.up);
            let taps = &self.taps[2 * self.side * part..2 * self.side * (part + 1)];
            // From `side - 1` samples before to `side` after.
            let first = (at + frames * self.side + 1 - self.side) % frames;
            let sum = |sum: f32, (tap, k): (&f32, usize)| sum + tap * sound[(first + k) % frames];
            taps.iter().zip(0..).fold(0.0, sum)
        };
        (0..wanted).map(read).collect()
    }
}

fn greatest_common_divisor(a: u32, b: u32) -> u32 {
    if b == 0 { a } else { greatest_common_divisor(b, a % b) }
}
