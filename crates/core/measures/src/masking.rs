//! Where one of two parts hides the other.

use serde::Serialize;

use super::bands::third_octaves;
use super::spectrum::{Transform, Window, channel_samples, parts};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

/// How much of two parts is hidden by the other in one octave.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct MaskedOctave {
    /// Middle of the octave, Hz.
    pub freq_hz: f64,
    /// Share of what the first part has there that the second hides; none where it has nothing.
    pub first: Option<f64>,
    /// Share of what the second part has there that the first hides.
    pub second: Option<f64>,
}

/// Where two parts hide each other.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Masking {
    /// By octave.
    pub octaves: Vec<MaskedOctave>,
    /// Share of all of the first part that the second hides; none where it is silent.
    pub first: Option<f64>,
    /// Share of all of the second part that the first hides.
    pub second: Option<f64>,
}

/// Two parts as they sound together.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Parts {
    /// The spectrum of this part after its path, in columns, dBFS.
    pub this_dbfs: Vec<f32>,
    /// The spectrum of the other after its path.
    pub other_dbfs: Vec<f32>,
    /// Where they hide each other with both paths empty.
    pub before: Masking,
    /// Where they hide each other through their paths.
    pub after: Masking,
}

/// A sound is hidden by another that is stronger by this in the same third of an octave, about a critical band: noise
/// hides a tone that lies 4 dB under it (E. Zwicker and H. Fastl, "Psychoacoustics", from memory).
pub const HIDDEN_DB: f64 = 4.0;
/// What is so far under the loudest third of an octave of its own part is not counted, dB.
const FAINT_DB: f64 = 50.0;
/// Length of a stretch, s.
const STRETCH_S: f64 = 0.085;

/// Compares two parts as they sound together: in every stretch of 85 ms and every third of an octave.
#[must_use]
pub fn masking(first: &Buffer, second: &Buffer) -> Masking {
    let [a, b] = [first, second].map(cells);
    let loudest = |cells: &[Vec<f64>]| cells.iter().flatten().fold(0.0f64, |x, y| x.max(*y));
    let floor = [&a, &b].map(|cells| loudest(cells) * 10f64.powf(-0.1 * FAINT_DB));
    let over = 10f64.powf(0.1 * HIDDEN_DB);
    let thirds = third_octaves(first.rate_hz());
    // Of both parts, by octave: cells that count, and those of them that are hidden.
    let mut counts = vec![[[0usize; 2]; 2]; thirds.len().div_ceil(3)];
    for (a, b) in a.iter().zip(&b) {
        for (band, (a, b)) in a.iter().zip(b).enumerate() {
            for (part, (own, other)) in [(a, b), (b, a)].into_iter().enumerate() {
                if *own > floor[part].max(1e-14) {
                    counts[band / 3][part][0] += 1;
                    counts[band / 3][part][1] += usize::from(*other > over * own);
                }
            }
        }
    }
    let share = |[all, hidden]: [usize; 2]| (all > 0).then(|| cast::real(hidden) / cast::real(all));
    let whole = |part: usize| {
        share(counts.iter().fold([0, 0], |[all, hidden], c| [all + c[part][0], hidden + c[part][1]]))
    };
    let octaves = counts.iter().enumerate().map(|(i, count)| MaskedOctave {
        freq_hz: thirds[(3 * i + 1).min(thirds.len() - 1)].0,
        first: share(count[0]),
        second: share(count[1]),
    });
    Masking { octaves: octaves.collect(), first: whole(0), second: whole(1) }
}

/// The power in every third of an octave, stretch by stretch.
fn cells(sound: &Buffer) -> Vec<Vec<f64>> {
    let rate_hz = sound.rate_hz();
    let mut transform = Transform::new(Window::Hann, cast::frames(STRETCH_S, rate_hz).next_power_of_two());
    let per_hz = cast::real(transform.frames()) / f64::from(rate_hz);
    let thirds = third_octaves(rate_hz);
    let mut powers = vec![0.0; transform.bins()];
    (0..sound.frames())
        .step_by(transform.frames() / 2)
        .map(|start| {
            powers.fill(0.0);
            for part in parts(sound, Scope::Stereo) {
                transform.add_powers(channel_samples(sound, *part, start), 1.0, &mut powers);
            }
            let within = |(middle, half): &(f64, f64)| {
                let (from, to) = (middle / half * per_hz, middle * half * per_hz);
                let last = cast::floor(to).max(cast::floor(from) + 1).min(powers.len() - 1);
                powers[cast::floor(from)..=last].iter().sum()
            };
            thirds.iter().map(within).collect()
        })
        .collect()
}
