//! Levels over time and frequency.

use super::spectrum::{Resolution, Transform, Window, channel_samples, columns_dbfs, parts};
use crate::Buffer;
use crate::cast;
use crate::scope::Scope;

/// Levels over time and frequency, dBFS: `columns` times, each with `rows` frequencies at equal ratios from the lowest
/// to the highest, one column after the other. A tone reads its level.
#[must_use]
pub fn spectrogram(
    sound: &Buffer,
    scope: Scope,
    resolution: Resolution,
    (columns, rows): (usize, usize),
    (from_hz, to_hz): (f64, f64),
) -> Vec<f32> {
    let mut transform = Transform::new(Window::FlatTop, resolution.frames(sound.rate_hz()));
    let frames = transform.frames();
    let parts = parts(sound, scope);
    let scale = transform.square_of_tone() / cast::real(parts.len());
    let mut squares = vec![0.0; transform.bins()];
    let mut levels = Vec::with_capacity(columns * rows);
    for column in 0..columns {
        // The window lies around the middle of the column; before the start there is silence.
        let middle = cast::real(sound.frames()) * (cast::real(column) + 0.5) / cast::real(columns.max(1));
        let (lead, start) = (
            cast::floor((cast::real(frames / 2) - middle).max(0.0)),
            cast::floor((middle - cast::real(frames / 2)).max(0.0)),
        );
        squares.fill(0.0);
        for part in parts {
            let samples = std::iter::repeat_n(0.0, lead).chain(channel_samples(sound, *part, start));
            transform.add_powers(samples, scale, &mut squares);
        }
        levels.extend(columns_dbfs(&squares, sound.rate_hz(), from_hz, to_hz, rows));
    }
    levels
}
