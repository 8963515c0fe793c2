//! How much single modes ring out of a reverb.

use rustfft::num_complex::Complex64;

use super::sides::{energies, first_heard, hann};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;

/// The part of a response that is looked at begins so long after its first sound, s, and is at most so long, s.
const FROM_S: f64 = 0.1;
const LONGEST_S: f64 = 1.5;
/// The range in which modes are looked for, Hz.
const RANGE_HZ: (f64, f64) = (100.0, 5000.0);
/// It ends where this much of its energy is left: 40 dB down.
const LEFT: f64 = 1e-4;

/// By how much the highest mode of the late part stands over its surroundings, dB: the largest ratio, from 100 Hz to 5 kHz, of the
/// power at one frequency to the mean power in the third of an octave around it, over the part from 100 ms after the first sound
/// until it is 40 dB down, at most 1.5 s. The part is weighted by a Hann window. In noise the largest of some thousand frequencies
/// stands about 9 dB over the mean; a room in which single modes ring is over that. The mean of both sides; none where that part is
/// shorter than 50 ms.
#[must_use]
pub fn ringing_db(sides: &[Vec<f32>; 2], rate_hz: u32) -> Option<f64> {
    let from = first_heard(sides) + cast::frames(FROM_S, rate_hz);
    let all: f64 = energies(sides, from).sum();
    let mut left = all;
    let sounds = |energy: &f64| {
        let is_over = left > LEFT * all;
        left -= energy;
        is_over
    };
    let length = energies(sides, from).take(cast::frames(LONGEST_S, rate_hz)).take_while(sounds).count();
    if length < cast::frames(0.05, rate_hz) || all <= 0.0 {
        return None;
    }
    let found = sides.each_ref().map(|side| highest_db(&side[from..from + length], rate_hz));
    Some(0.5 * (found[0]? + found[1]?))
}

fn highest_db(part: &[f32], rate_hz: u32) -> Option<f64> {
    let size = part.len().next_power_of_two();
    let mut spectrum = vec![Complex64::default(); size];
    for ((slot, x), window) in spectrum.iter_mut().zip(part).zip(hann(part.len())) {
        slot.re = window * f64::from(*x);
    }
    plans::complex_forward(size).process(&mut spectrum);
    let bin_hz = f64::from(rate_hz) / cast::real(size);
    let top = size / 2;
    // Sums up to every bin, for means over any range.
    let mut sums = Vec::with_capacity(top + 1);
    sums.push(0.0);
    for x in &spectrum[..top] {
        sums.push(sums[sums.len() - 1] + x.norm_sqr());
    }
    let half = 2f64.powf(1.0 / 6.0);
    let bins = cast::count(RANGE_HZ.0 / bin_hz)..cast::count(RANGE_HZ.1 / bin_hz).min(top - 1);
    let over = bins.filter_map(|bin| {
        let (low, high) =
            (cast::floor(cast::real(bin) / half), (cast::floor(cast::real(bin) * half) + 1).min(top));
        let mean = (sums[high] - sums[low]) / cast::real(high - low);
        (mean > 0.0 && high - low > 4).then(|| spectrum[bin].norm_sqr() / mean)
    });
    over.reduce(f64::max).map(|ratio| 10.0 * ratio.log10())
}
