//! Levels in octave and third-octave bands.

use serde::Serialize;

use super::spectrum::{Resolution, Transform, Window, channel_samples, decibels, parts};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

/// What lies in one band of a sound.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct BandLevel {
    /// Nominal middle of the band, Hz.
    pub freq_hz: f64,
    /// RMS level of what lies in it on the channel that is looked at, dBFS.
    pub level_dbfs: f64,
    /// Side over mid, dB; none in mono and where mid is silent.
    pub width_db: Option<f64>,
    /// Correlation of left and right; none in mono and where one of them is silent.
    pub correlation: Option<f64>,
}

/// The mean square of what lies in every bin of a sound on a scope, and how many bins there are per Hz. The sound is
/// taken round, as a loop: windows begin a third of their length apart or less, evenly, and go on from its start; their
/// squares then add up evenly (those of Hann have no part that turns three times), so that all of the sound counts alike.
fn band_squares(sound: &Buffer, scope: Scope) -> (Vec<f64>, f64) {
    let all = sound.frames();
    let longest = Resolution::Fine.frames(sound.rate_hz());
    let frames = longest.min((all / 2 + 1).next_power_of_two()).max(SHORTEST);
    let mut transform = Transform::new(Window::Hann, frames);
    let channels = parts(sound, scope);
    let mut squares = vec![0.0; transform.bins()];
    let windows = if all == 0 { 0 } else { (WINDOWS * all).div_ceil(frames) };
    for from in (0..windows).map(|i| i * all / windows) {
        for scope in channels {
            let round = || channel_samples(sound, *scope, 0);
            let from_there = channel_samples(sound, *scope, from).chain((0..).flat_map(|_| round()));
            transform.add_powers(from_there, 1.0, &mut squares);
        }
    }
    let scale = transform.square_of_noise() / cast::real((windows * channels.len()).max(1));
    squares.iter_mut().for_each(|square| *square *= scale);
    (squares, cast::real(frames) / f64::from(sound.rate_hz()))
}

/// The shortest window for bands, frames.
const SHORTEST: usize = 1024;

/// Windows over every sample.
const WINDOWS: usize = 3;

/// Octave bands (`per_octave` 1) or third-octave bands (3) with the base-ten mid-bands of IEC 61260-1: RMS level of a
/// channel, and width and correlation of both in each. Bands that lie over half the rate are left out.
#[must_use]
pub fn band_levels(sound: &Buffer, scope: Scope, per_octave: usize) -> Vec<BandLevel> {
    let (own, per_hz) = band_squares(sound, scope);
    let stereo = (sound.channels().len() == 2).then(|| {
        [Scope::Left, Scope::Right, Scope::Mid, Scope::Side].map(|scope| band_squares(sound, scope).0)
    });
    octaves(cast::real(per_octave.max(1)), sound.rate_hz())
        .map(|(freq_hz, half)| {
            let sum = |squares: &Vec<f64>| band_power(squares, per_hz, freq_hz, half);
            let (width_db, correlation) = match &stereo {
                Some(each) => width_and_correlation(each.each_ref().map(sum)),
                None => (None, None),
            };
            BandLevel { freq_hz, level_dbfs: decibels(sum(&own)), width_db, correlation }
        })
        .collect()
}

/// Powers under this say nothing of a width, -120 dBFS.
const NOTHING: f64 = 1e-12;

/// Side over mid in dB, and the correlation of left and right, from the powers of left, right, mid and side. What is on
/// one side only is as much side as mid, and has nothing to be correlated with.
fn width_and_correlation([left, right, mid, side]: [f64; 4]) -> (Option<f64>, Option<f64>) {
    // Half the sum and half the difference: their powers tell the product of left and right.
    let product = mid - side;
    let heard = left.min(right) > NOTHING;
    let correlation = heard.then(|| (product / (left * right).sqrt()).clamp(-1.0, 1.0));
    ((mid > NOTHING).then(|| decibels(side / mid)), correlation)
}

/// Middle (Hz) and RMS level (dBFS, the mean of both channels) of every octave.
#[must_use]
pub fn octave_levels(sound: &Buffer) -> Vec<(f64, f64)> {
    let (squares, per_hz) = band_squares(sound, Scope::Stereo);
    let level = |middle, half| decibels(band_power(&squares, per_hz, middle, half));
    octaves(1.0, sound.rate_hz()).map(|(middle, half)| (middle, level(middle, half))).collect()
}

/// The thirds of all octaves, the three of an octave after each other: middle (Hz) and half width (as a ratio).
pub(super) fn third_octaves(rate_hz: u32) -> Vec<(f64, f64)> {
    let third = 10f64.powf(0.1);
    let thirds = |(middle, _)| [middle / third, middle, middle * third];
    octaves(1.0, rate_hz).flat_map(thirds).map(|middle| (middle, third.sqrt())).collect()
}

/// Middles and half widths (as a ratio) of bands with so many per octave, from 31.6 Hz to under half the rate.
fn octaves(per_octave: f64, rate_hz: u32) -> impl Iterator<Item = (f64, f64)> {
    let count = 9 * cast::count(per_octave) + 1;
    let half = 10f64.powf(0.15 / per_octave);
    // Bands are counted from the one at 1 kHz.
    let middle = move |i: usize| 1000.0 * 10f64.powf(0.3 * (cast::real(i) / per_octave - 5.0));
    (0..count)
        .map(move |i| (middle(i), half))
        .filter(move |(middle, half)| middle * half < f64::from(rate_hz) / 2.0)
}

/// The mean square of what lies in a band, of its middle (Hz) and half its width (as a ratio), from that of every bin, of
/// which there are so many per Hz; a bin at an edge counts for the share that lies inside.
fn band_power(squares: &[f64], per_hz: f64, middle: f64, half: f64) -> f64 {
    let (from, to) = (middle / half * per_hz, middle * half * per_hz);
    let share = |i: usize| {
        let place = cast::real(i);
        ((place + 0.5).min(to) - (place - 0.5).max(from)).clamp(0.0, 1.0)
    };
    let (first, last) = (cast::floor(from), (cast::floor(to) + 2).min(squares.len()));
    (first.min(last)..last).map(|i| squares[i] * share(i)).sum()
}
