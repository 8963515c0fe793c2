//! How much of one frequency is in a row of values.

use clear_bend_sound::cast;

/// Amplitude of what turns by so many radians from one value to the next: the values against a cosine and a sine, by a
/// phasor that turns. Exact where the row holds a whole number of turns.
pub(super) fn amplitude(values: impl ExactSizeIterator<Item = f64>, turn: f64) -> f64 {
    let count = cast::real(values.len().max(1));
    let (sin, cos) = turn.sin_cos();
    let (mut re, mut im) = (1.0, 0.0);
    let (mut sum_re, mut sum_im) = (0.0, 0.0);
    for value in values {
        sum_re += value * re;
        sum_im += value * im;
        (re, im) = (re * cos - im * sin, re * sin + im * cos);
    }
    2.0 * f64::hypot(sum_re, sum_im) / count
}
