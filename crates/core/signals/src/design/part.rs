//! The part of the spectrum that an octave has.

use std::f64::consts::FRAC_PI_2;

use super::curves::OCTAVES_HZ;
use super::falls::COUNT;
use clear_bend_sound::dsp::exact_middle;

/// Neighbours go over into each other within so much of an octave.
const OVER: f64 = 0.25;

/// The part of the spectrum that an octave has; the lowest and the highest have all that lies beyond.
pub struct Part {
    /// Where it begins to be heard, where all of it is, where less is, and where nothing is left, Hz.
    pub edges_hz: [f64; 4],
}

impl Part {
    /// That of an octave.
    #[must_use]
    pub fn of(octave: usize) -> Self {
        let middle = exact_middle(OCTAVES_HZ[octave]);
        let edge = |octaves: f64| middle * 10f64.powf(0.3 * octaves);
        let lows = if octave == 0 { [-1.0; 2] } else { [edge(-0.5 - 0.5 * OVER), edge(-0.5 + 0.5 * OVER)] };
        let highs = if octave + 1 == COUNT {
            [f64::INFINITY; 2]
        } else {
            [edge(0.5 - 0.5 * OVER), edge(0.5 + 0.5 * OVER)]
        };
        Self { edges_hz: [lows[0], lows[1], highs[0], highs[1]] }
    }

    /// Its share of a frequency.
    #[must_use]
    pub fn share(&self, freq_hz: f64) -> f64 {
        let [from, whole, less, to] = self.edges_hz;
        // From 0 to 1 over an edge, as its logarithm grows.
        let over =
            |low: f64, high: f64| (FRAC_PI_2 * ((freq_hz / low).ln() / (high / low).ln())).sin().powi(2);
        if freq_hz <= from || freq_hz >= to {
            0.0
        } else if freq_hz < whole {
            over(from, whole)
        } else if freq_hz > less {
            1.0 - over(less, to)
        } else {
            1.0
        }
    }
}
