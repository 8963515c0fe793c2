//! Levels over time and frequency.

use serde::Serialize;

use super::spectrum::{Resolution, Transform, Window, channel_samples, columns_dbfs, parts};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

/// What moves is looked at at least so often in a cycle, and under a window that is no longer than one look.
const LOOKS: f64 = 8.0;
/// The shortest window, samples.
const SHORTEST: usize = 256;

/// How much of a sound a spectrogram shows, and how closely.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Closeness {
    /// The length of the window, samples.
    pub frames: usize,
    /// The same, s.
    pub window_s: f64,
    /// How much of the sound is shown, from its beginning, s.
    pub seconds: f64,
}

impl Closeness {
    /// For a sound of so many seconds at a rate, in so many columns. Where something moves (Hz), columns and window are short enough
    /// that the movement is seen as it is, and only as much is shown as has room then.
    #[must_use]
    pub fn of(
        resolution: Resolution,
        (seconds, rate_hz): (f64, u32),
        columns: usize,
        moves_hz: Option<f64>,
    ) -> Self {
        let rate = f64::from(rate_hz);
        let (mut frames, mut shown_s) = (resolution.frames(rate_hz), seconds);
        if let Some(looks_hz) = moves_hz.map(|hz| LOOKS * hz) {
            let longest = cast::floor(rate / looks_hz).max(SHORTEST);
            while frames > longest {
                frames /= 2;
            }
            shown_s = shown_s.min(cast::real(columns) / looks_hz);
        }
        Self { frames, window_s: cast::real(frames) / rate, seconds: shown_s }
    }
}

/// Levels over time and frequency, dBFS: `columns` times, each with `rows` frequencies at equal ratios from the lowest
/// to the highest, one column after the other. A tone reads its level.
#[must_use]
pub fn spectrogram(
    sound: &Buffer,
    scope: Scope,
    closeness: Closeness,
    (columns, rows): (usize, usize),
    (from_hz, to_hz): (f64, f64),
) -> Vec<f32> {
    let mut transform = Transform::new(Window::FlatTop, closeness.frames);
    let frames = transform.frames();
    let parts = parts(sound, scope);
    let scale = transform.square_of_tone() / cast::real(parts.len());
    let mut squares = vec![0.0; transform.bins()];
    let mut levels = Vec::with_capacity(columns * rows);
    for column in 0..columns {
        // The window lies around the middle of the column; before the start there is silence.
        let middle = closeness.seconds * f64::from(sound.rate_hz()) * (cast::real(column) + 0.5)
            / cast::real(columns.max(1));
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
