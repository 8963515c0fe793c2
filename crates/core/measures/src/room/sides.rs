//! What is asked of both sides of a response together.

use clear_bend_sound::cast;
use clear_bend_sound::dsp::peak;

/// The largest sample of both sides.
#[must_use]
pub fn highest(sides: &[Vec<f32>; 2]) -> f32 {
    sides.iter().map(|side| peak(side)).fold(0.0, f32::max)
}

/// The energy of both sides at every frame from a place on.
pub fn energies(sides: &[Vec<f32>; 2], from: usize) -> impl Iterator<Item = f64> + '_ {
    let frames = sides[0].iter().zip(&sides[1]).skip(from);
    frames.map(|(l, r)| f64::from(*l).powi(2) + f64::from(*r).powi(2))
}

/// The first frame that is heard at all: over -60 dB of the highest.
#[must_use]
pub fn first_heard(sides: &[Vec<f32>; 2]) -> usize {
    let highest = highest(sides);
    let over = |side: &Vec<f32>| side.iter().position(|x| x.abs() > 1e-3 * highest);
    if highest > 0.0 { sides.iter().filter_map(over).min().unwrap_or(0) } else { 0 }
}

/// When that is, ms; none in silence.
#[must_use]
pub fn first_heard_ms(sides: &[Vec<f32>; 2], rate_hz: u32) -> Option<f64> {
    (highest(sides) > 0.0).then(|| 1000.0 * cast::real(first_heard(sides)) / f64::from(rate_hz))
}

/// A Hann window whose ends lie half a sample outside of it.
#[must_use]
pub fn hann(length: usize) -> Vec<f64> {
    let turn = |i: usize| std::f64::consts::TAU * (cast::real(i) + 0.5) / cast::real(length);
    (0..length).map(|i| 0.5 - 0.5 * turn(i).cos()).collect()
}
