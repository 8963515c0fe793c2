//! The spectra before and after of what is playing.

use serde::{Deserialize, Serialize};

use super::spectrum::{Resolution, Transform, Window, columns_dbfs, smoothed};
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

/// How spectra of what is playing are taken.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Analysing {
    /// What of the stereo signal is looked at.
    pub scope: Scope,
    /// How finely frequencies are told apart.
    pub resolution: Resolution,
    /// How fast a level falls when the sound has gone, dB per second; nothing falls at 0.
    pub fall_db_s: f64,
    /// Whether all that has been seen since it was switched on is averaged instead.
    pub averages: bool,
    /// Over how much of an octave powers are averaged, 0 to 1: what shows the course of noise. The line of a tone gets lower by as
    /// much as it gets wider.
    pub smooth_octaves: f64,
}

impl Default for Analysing {
    fn default() -> Self {
        Self {
            scope: Scope::Stereo,
            resolution: Resolution::Medium,
            fall_db_s: 40.0,
            averages: false,
            smooth_octaves: 1.0 / 12.0,
        }
    }
}

/// Which spectrum.
const SIDES: usize = 2;

/// Takes in what is playing, before and after, and reads its spectra.
pub struct Analyser {
    rate_hz: u32,
    how: Analysing,
    transform: Transform,
    /// The latest samples: left and right before, left and right after.
    rings: [Vec<f32>; 2 * SIDES],
    at: usize,
    /// Frames since the last reading.
    fresh: usize,
    /// Squared amplitudes by bin.
    shown: [Vec<f64>; SIDES],
    held: [Vec<f64>; SIDES],
    /// Readings so far.
    count: usize,
    squares: Vec<f64>,
}

impl Analyser {
    /// An analyser that has seen nothing.
    #[must_use]
    pub fn new(rate_hz: u32, how: Analysing) -> Self {
        let frames = how.resolution.frames(rate_hz);
        let transform = Transform::new(Window::FlatTop, frames);
        let bins = || [(); SIDES].map(|()| vec![0.0; transform.bins()]);
        Self {
            rate_hz,
            how,
            rings: [(); 2 * SIDES].map(|()| vec![0.0; frames]),
            at: 0,
            fresh: 0,
            shown: bins(),
            held: bins(),
            count: 0,
            squares: vec![0.0; transform.bins()],
            transform,
        }
    }

    /// Takes in the next samples: all of left before, then right before, left after and right after.
    pub fn push(&mut self, samples: &[f32]) {
        let frames = samples.len() / self.rings.len();
        let length = self.rings[0].len();
        for (ring, samples) in self.rings.iter_mut().zip(samples.chunks(frames.max(1))) {
            for (i, x) in samples.iter().enumerate() {
                ring[(self.at + i) % length] = *x;
            }
        }
        self.at = (self.at + frames) % length;
        self.fresh += frames;
    }

    /// Reads the spectra anew, levels having fallen for the time since the last reading. Without new samples,
    /// everything stays as it is.
    pub fn read(&mut self) {
        if self.fresh == 0 {
            return;
        }
        let seconds = cast::real(self.fresh) / f64::from(self.rate_hz);
        self.fresh = 0;
        let fallen =
            if self.how.fall_db_s > 0.0 { 10f64.powf(-0.1 * self.how.fall_db_s * seconds) } else { 1.0 };
        let parts = self.how.scope.parts();
        let scale = self.transform.square_of_tone() / cast::real(parts.len());
        self.count += 1;
        for side in 0..SIDES {
            self.squares.fill(0.0);
            let [left, right] = [2 * side, 2 * side + 1].map(|channel| {
                let (early, late) = self.rings[channel].split_at(self.at);
                late.iter().chain(early)
            });
            for part in parts {
                let samples = left.clone().zip(right.clone()).map(|(l, r)| part.of(*l, *r));
                self.transform.add_powers(samples, scale, &mut self.squares);
            }
            let count = cast::real(self.count);
            let kept = self.shown[side].iter_mut().zip(&mut self.held[side]);
            for ((shown, held), square) in kept.zip(&self.squares) {
                *shown = if self.how.averages {
                    *shown + (square - *shown) / count
                } else {
                    square.max(*shown * fallen)
                };
                *held = held.max(*square);
            }
        }
    }

    /// The levels before (0) or after (1) in columns at equal ratios between two frequencies, dBFS.
    #[must_use]
    pub fn columns_dbfs(&self, side: usize, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        self.columns(&self.shown[side % SIDES], from_hz, to_hz, columns)
    }

    /// The highest levels since it was made.
    #[must_use]
    pub fn held_dbfs(&self, side: usize, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        self.columns(&self.held[side % SIDES], from_hz, to_hz, columns)
    }

    fn columns(&self, squares: &[f64], from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        columns_dbfs(&smoothed(squares, self.how.smooth_octaves), self.rate_hz, from_hz, to_hz, columns)
    }
}
