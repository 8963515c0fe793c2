//! The spectrum of a response as it falls.

use serde::Serialize;

use super::record::RoomResponse;
use super::sides::first_heard_ms;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;
use clear_bend_sound::level::db_from_power;

/// Levels are drawn down to this, dB.
pub(super) const FLOOR_DB: f64 = -120.0;

/// The window of a line, s.
const WINDOW_S: f64 = 0.085;
/// Half a third-octave (IEC 61260-1, base ten), as a ratio.
const EDGE: f64 = 1.122_018;

/// One line of a falling spectrum.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct FallingLine {
    /// When its window begins, s after the first reverberant sound.
    pub at_s: f64,
    /// Level in every third-octave, dB against the highest of all.
    pub levels_db: Vec<f64>,
}

/// The spectrum of the reverberant sound over windows that begin at even distances.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Falling {
    /// Middles of the third-octaves, 50 Hz to 16 kHz.
    pub freqs_hz: Vec<f64>,
    /// Over what time the lines are spread, s.
    pub seconds: f64,
    /// The lines.
    pub lines: Vec<FallingLine>,
}

impl Falling {
    /// So many lines over the time in which it falls (s), or over the whole record.
    #[must_use]
    pub fn of(response: &RoomResponse, falls_s: Option<f64>, lines: usize) -> Self {
        let rate_hz = response.rate_hz;
        let sides = response.reverberant();
        let record_s = cast::real(response.frames()) / f64::from(rate_hz);
        let seconds = falls_s.map_or(record_s, |falls_s| falls_s.min(record_s));
        let begins_s = first_heard_ms(&sides, rate_hz).unwrap_or(0.0) / 1000.0;
        let freqs_hz: Vec<f64> = (-13..=12).map(|k| 1000.0 * 10f64.powf(0.1 * f64::from(k))).collect();
        let mut lines: Vec<FallingLine> = (0..lines)
            .map(|k| {
                let at_s = seconds * cast::real(k) / cast::real(lines);
                let from = cast::frames(begins_s + at_s, rate_hz);
                FallingLine { at_s, levels_db: thirds(&sides, from, rate_hz, &freqs_hz) }
            })
            .collect();
        let highest = lines.iter().flat_map(|line| &line.levels_db).copied().fold(f64::MIN, f64::max);
        for level in lines.iter_mut().flat_map(|line| &mut line.levels_db) {
            *level = (*level - highest).max(FLOOR_DB);
        }
        Self { freqs_hz, seconds, lines }
    }
}

/// Level in every third-octave over a window that begins at a frame at once and goes out slowly, dB.
fn thirds(sides: &[Vec<f32>; 2], from: usize, rate_hz: u32, freqs_hz: &[f64]) -> Vec<f64> {
    let length = cast::frames(WINDOW_S, rate_hz);
    let size = (2 * length).next_power_of_two();
    let plan = plans::forward(size);
    let (mut time, mut spectrum) = (plan.make_input_vec(), plan.make_output_vec());
    let mut powers = vec![0.0; freqs_hz.len()];
    for side in sides {
        time.fill(0.0);
        for (i, (slot, x)) in time.iter_mut().zip(side.iter().skip(from)).take(length).enumerate() {
            let window = 0.5 + 0.5 * (std::f64::consts::PI * cast::real(i) / cast::real(length)).cos();
            *slot = window * f64::from(*x);
        }
        // The lengths fit.
        let _ = plan.process(&mut time, &mut spectrum);
        for (power, freq_hz) in powers.iter_mut().zip(freqs_hz) {
            let bin = |hz: f64| cast::count(hz * cast::real(size) / f64::from(rate_hz));
            let (low, high) = (bin(freq_hz / EDGE), bin(freq_hz * EDGE).min(spectrum.len()));
            let part = spectrum.get(low..high.max(low + 1)).unwrap_or_default();
            *power += part.iter().map(|x| x.norm_sqr()).sum::<f64>() / cast::real(part.len().max(1));
        }
    }
    powers.into_iter().map(db_from_power).collect()
}
