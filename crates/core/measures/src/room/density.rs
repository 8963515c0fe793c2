//! How dense the echoes of a response are over time (Abel and Huang, "A simple, robust measure of reverberation echo density",
//! AES 121, 2006).

use serde::Serialize;

use super::sides::{first_heard, hann};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::peak;

/// The window over which echoes are counted, s.
const WINDOW_S: f64 = 0.02;
/// How far windows are apart, s.
const HOP_S: f64 = 0.0025;
/// The share of Gaussian noise that lies over its standard deviation, erfc(1 / sqrt 2).
const OF_NOISE: f64 = 0.317_310_507_862_914_15;
/// Peaks within this of the largest of a window count as echoes, linear: 20 dB.
const COUNTED: f32 = 0.1;
/// Windows this far under the loudest hold nothing, as a power: 100 dB.
const NOTHING: f64 = 1e-10;

/// The density at one time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DensityPoint {
    /// Middle of the window, s after the impulse.
    pub at_s: f64,
    /// How much of it lies over its standard deviation, against Gaussian noise: 0 for single echoes, 1 for noise. The mean of
    /// both sides.
    pub density: f64,
    /// Echoes per second: peaks within 20 dB of the largest in the window. Over a third of the rate they can no longer be
    /// told apart.
    pub per_s: f64,
}

/// The density over time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Density {
    /// Points over time.
    pub points: Vec<DensityPoint>,
    /// When it first is that of noise, ms after the first echo; none where it never is.
    pub reaches_noise_ms: Option<f64>,
}

impl Density {
    /// Reads the reverberant part of a response for so many seconds.
    #[must_use]
    pub fn of(sides: &[Vec<f32>; 2], rate_hz: u32, seconds: f64) -> Self {
        let points: Vec<DensityPoint> = points(sides, rate_hz, seconds).collect();
        let reaches_noise_ms = reaches_noise_ms(sides, rate_hz, points.iter().copied());
        Self { points, reaches_noise_ms }
    }

    /// When it first is that of noise within so many seconds, ms after the first echo; none where it never is. Nothing is read after that.
    #[must_use]
    pub fn reaches_noise_ms(sides: &[Vec<f32>; 2], rate_hz: u32, seconds: f64) -> Option<f64> {
        reaches_noise_ms(sides, rate_hz, points(sides, rate_hz, seconds))
    }
}

fn reaches_noise_ms(
    sides: &[Vec<f32>; 2],
    rate_hz: u32,
    mut points: impl Iterator<Item = DensityPoint>,
) -> Option<f64> {
    let begins_s = cast::real(first_heard(sides)) / f64::from(rate_hz);
    let reached = points.find(|point| point.density >= 1.0)?;
    Some((1000.0 * (reached.at_s - begins_s)).max(0.0))
}

/// The points over time, each read when it is asked for.
fn points(sides: &[Vec<f32>; 2], rate_hz: u32, seconds: f64) -> impl Iterator<Item = DensityPoint> {
    let length = cast::frames(WINDOW_S, rate_hz);
    let hop = cast::frames(HOP_S, rate_hz).max(1);
    let weights = hann(length);
    let sum: f64 = weights.iter().sum();
    let first = first_heard(sides);
    let frames = sides[0].len().min(cast::frames(seconds, rate_hz) + first);
    let mut loudest = 0.0;
    (first..frames.saturating_sub(length)).step_by(hop).filter_map(move |from| {
        let each = sides.each_ref().map(|side| of_window(&side[from..from + length], &weights, sum));
        let power = each.iter().map(|(_, power, _)| power).fold(0.0, |a: f64, b| a.max(*b));
        loudest = f64::max(loudest, power);
        let heard: Vec<_> = each.iter().filter(|(_, power, _)| *power > NOTHING * loudest).collect();
        let count = cast::real(heard.len());
        (!heard.is_empty()).then(|| DensityPoint {
            at_s: cast::real(from + length / 2) / f64::from(rate_hz),
            density: heard.iter().map(|(density, ..)| density).sum::<f64>() / count,
            per_s: heard.iter().map(|(.., peaks)| cast::real(*peaks)).sum::<f64>() / count / WINDOW_S,
        })
    })
}

/// Density, power and number of peaks of one side of a window.
fn of_window(part: &[f32], weights: &[f64], sum: f64) -> (f64, f64, usize) {
    let power = part.iter().zip(weights).map(|(x, w)| w * f64::from(*x).powi(2)).sum::<f64>() / sum;
    let deviation = cast::sample(power.sqrt());
    let over: f64 = part.iter().zip(weights).filter(|(x, _)| x.abs() > deviation).map(|(_, w)| w).sum();
    let highest = peak(part);
    let is_peak =
        |w: &&[f32]| w[1].abs() > COUNTED * highest && w[1].abs() >= w[0].abs() && w[1].abs() > w[2].abs();
    (over / sum / OF_NOISE, power, part.windows(3).filter(is_peak).count())
}
