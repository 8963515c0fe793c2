//! A designed response: what is thrown, as it falls, and what is placed; cut, and rounded to its word length.

use super::Design;
use super::curves::ALL_BITS;
use super::octaves::let_fall;
use super::pulses::{GRID, pulses};
use crate::cast;
use crate::dsp::{BUTTERWORTH_4, Corner, StateVariable};
use crate::signals::at_peak;

/// The end fades over so long, s.
const FADE_S: f64 = 0.005;

/// Makes a response with one or two channels.
#[must_use]
pub fn answer(design: &Design, rate_hz: u32, channels: usize) -> Vec<Vec<f32>> {
    made(design, rate_hz, channels).0
}

/// The same, and where the reflections begin that are thrown on the first channel, in samples.
#[must_use]
pub fn made(design: &Design, rate_hz: u32, channels: usize) -> (Vec<Vec<f32>>, Vec<usize>) {
    let all = pulses(design, rate_hz, channels);
    let mut sides = all.thrown;
    let_fall(design, &mut sides, all.places.len(), rate_hz);
    let fade = cast::frames(FADE_S, rate_hz);
    for (side, placed) in sides.iter_mut().zip(&all.placed) {
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
    (sides, all.places)
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
