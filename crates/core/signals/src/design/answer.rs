//! A designed response: what is thrown, as it falls, and what is placed; cut, and rounded to its word length.

use super::Design;
use super::curves::{ALL_BITS, Curve, OCTAVES_HZ};
use super::falls::Falls;
use super::octaves::Thrown;
use super::pulses::{GRID, placed, thrown};
use crate::at_peak;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{BUTTERWORTH_4, Corner, StateVariable};

/// The end fades over so long, s.
const FADE_S: f64 = 0.005;

/// Makes a response with one or two channels.
#[must_use]
pub fn answer(design: &Design, rate_hz: u32, channels: usize) -> Vec<Vec<f32>> {
    Maker::default().made(design, rate_hz, channels).sides
}

/// A response that has been made.
pub struct Made {
    /// Its samples, by channel.
    pub sides: Vec<Vec<f32>>,
    /// Where the reflections begin that are thrown on the first channel, in samples.
    pub places: Vec<usize>,
    /// The decay times by octave that follow from the curves, s (T30); none where an octave has not fallen far enough when the response
    /// ends.
    pub drawn_t30s: [Option<f64>; OCTAVES_HZ.len()],
}

/// Makes responses one after the other, as a hand changes them: what is thrown is kept for as long as only the way it falls is changed.
#[derive(Default)]
pub struct Maker {
    kept: Option<Kept>,
}

struct Kept {
    thrown_by: ThrownBy,
    thrown: Thrown,
    places: Vec<usize>,
}

/// All on which it depends what is thrown.
#[derive(PartialEq)]
struct ThrownBy {
    values: Vec<f64>,
    curves: [Curve; 3],
    rate_hz: u32,
    channels: usize,
}

impl Maker {
    /// Makes a response with one or two channels.
    pub fn made(&mut self, design: &Design, rate_hz: u32, channels: usize) -> Made {
        let falls = Falls::of(design, rate_hz);
        let drawn_t30s = falls.drawn_t30s();
        let thrown_by =
            ThrownBy { values: design.values.clone(), curves: design.curves.throwing(), rate_hz, channels };
        let kept = self.kept.take().filter(|kept| kept.thrown_by == thrown_by);
        let kept = self.kept.insert(kept.unwrap_or_else(|| {
            let (sides, places) = thrown(design, rate_hz, channels);
            Kept { thrown_by, thrown: Thrown::new(&sides, places.len(), rate_hz), places }
        }));
        let mut sides = kept.thrown.fallen(&falls, &drawn_t30s);
        let fade = cast::frames(FADE_S, rate_hz);
        for (side, placed) in sides.iter_mut().zip(placed(design, rate_hz, channels)) {
            side.iter_mut().zip(placed).for_each(|(y, x)| *y += x);
            if design.curves.cuts() {
                cut(design, side, f64::from(rate_hz));
            }
            side.iter_mut()
                .rev()
                .take(fade)
                .enumerate()
                .for_each(|(n, y)| *y *= cast::real(n) / cast::real(fade));
        }
        let mut sides = at_peak(sides);
        sides.iter_mut().for_each(|side| round(design, side, f64::from(rate_hz)));
        Made { sides, places: kept.places.clone(), drawn_t30s }
    }
}

/// Cuts what lies over the bandwidth.
fn cut(design: &Design, side: &mut [f64], rate: f64) {
    let mut filters = [StateVariable::default(); 2];
    for (piece, samples) in side.chunks_mut(GRID).enumerate() {
        let freq_hz = design.curves.bandwidth_hz(cast::real(piece * GRID) / rate);
        let corners = BUTTERWORTH_4.map(|q| Corner::new(freq_hz, q, rate));
        for x in samples {
            *x = filters.iter_mut().zip(&corners).fold(*x, |x, (filter, corner)| filter.step(corner, x).low);
        }
    }
}

/// Rounds to the word length.
fn round(design: &Design, side: &mut [f32], rate: f64) {
    for (piece, samples) in side.chunks_mut(GRID).enumerate() {
        let bits = design.curves.word_bits(cast::real(piece * GRID) / rate);
        if bits < ALL_BITS {
            let steps = (bits - 1.0).exp2();
            samples.iter_mut().for_each(|x| *x = cast::sample((f64::from(*x) * steps).round() / steps));
        }
    }
}
