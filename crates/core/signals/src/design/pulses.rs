//! Reflections thrown at random: one in every stretch of time in which the growth curve lets one come, somewhere in it.

use std::f64::consts::{FRAC_PI_4, PI, SQRT_2};

use super::Design;
use crate::SplitMix64;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

/// So many reflections in a second have an amplitude of 1; where there are more, each is weaker, so that the power stays.
const UNIT_PER_S: f64 = 100.0;
/// Curves are read every so many samples.
pub const GRID: usize = 32;
/// A smeared reflection has one pulse for so many samples of it, so many at least and at most.
const SAMPLES_PER_PULSE: f64 = 3.0;
const PULSES: (f64, f64) = (8.0, 400.0);
/// Reflections that overlap so often need no more than the least.
const OVERLAPPING: f64 = 4.0;
/// Streams of random numbers: one for each reflection that is placed, then one for each that is thrown.
const STREAM: u64 = 1000;

/// Throws all reflections, by channel, before anything falls; and says where those begin that are thrown on the first channel, in samples.
#[must_use]
pub fn thrown(design: &Design, rate_hz: u32, channels: usize) -> (Vec<Vec<f64>>, Vec<usize>) {
    let frames = cast::frames(design.settings().length_s, rate_hz);
    let mut places = Vec::new();
    let thrown = (0..channels).map(|channel| {
        let mut out = vec![0.0; frames];
        throw(design, rate_hz, channel, |at, pulse| {
            if channel == 0 {
                places.push(at);
            }
            pulse.add_to(&mut out, at, 1.0);
        });
        out
    });
    (thrown.collect(), places)
}

/// One reflection.
struct Pulse {
    amplitude: f64,
    /// Samples over which it is smeared; one for a click.
    length: usize,
    /// How many pulses a smeared one is made of.
    count: usize,
    random: SplitMix64,
}

impl Pulse {
    fn new(design: &Design, seconds: f64, rate: f64, per_s: f64, amplitude: f64, random: SplitMix64) -> Self {
        let smear_s = design.curves.smear_ms(seconds) / 1000.0;
        let length = cast::count(smear_s * rate).max(1);
        let overlapping = (smear_s * per_s / OVERLAPPING).max(1.0);
        let count = (cast::real(length) / SAMPLES_PER_PULSE / overlapping).clamp(PULSES.0, PULSES.1);
        Self { amplitude, length, count: cast::count(count), random }
    }

    /// Adds it from a sample on. A smeared one has the energy of a click.
    fn add_to(&self, out: &mut [f64], at: usize, gain: f64) {
        let amplitude = gain * self.amplitude;
        if self.length == 1 {
            if let Some(y) = out.get_mut(at) {
                *y += amplitude;
            }
            return;
        }
        let mut random = self.random.clone();
        let (share, length) = (1.0 / cast::real(self.count), cast::real(self.length));
        let mut energy = 0.0;
        let pulse = |k: usize| {
            let (throw, negative) = (cast::unit_interval(random.next_word()), random.bipolar() < 0.0);
            let way = (cast::real(k) + throw) * share;
            let x = swell(way);
            energy += x * x;
            (at + cast::floor(way * length), if negative { -x } else { x })
        };
        let pulses: Vec<(usize, f64)> = (0..self.count).map(pulse).collect();
        let amplitude = amplitude / energy.sqrt();
        for (place, x) in pulses {
            if let Some(y) = out.get_mut(place) {
                *y += amplitude * x;
            }
        }
    }
}

/// The amplitude on the way from 0 to 1 through a swell, whose power is a Hann window: the cosine of half a turn, by its series, within
/// 1e-8.
fn swell(way: f64) -> f64 {
    const FACTORIALS: [f64; 6] = [2.0, 24.0, 720.0, 40_320.0, 3_628_800.0, 479_001_600.0];
    let square = -(PI * (way - 0.5)).powi(2);
    1.0 + FACTORIALS.iter().rev().fold(0.0, |sum, factorial| square * (1.0 / factorial + sum))
}

/// Throws the reflections of a channel.
fn throw(design: &Design, rate_hz: u32, channel: usize, mut each: impl FnMut(usize, Pulse)) {
    let settings = design.settings();
    let (rate, curves) = (f64::from(rate_hz), &design.curves);
    let frames = cast::frames(settings.length_s, rate_hz);
    let from = cast::frames(settings.from_ms / 1000.0, rate_hz);
    // How many should have come by now, and how many have been thought of.
    let (mut due, mut begun) = (0.0, 0usize);
    let mut coming: Option<(f64, f64, SplitMix64)> = None;
    let mut per_s = 0.0;
    for n in from..frames {
        let seconds = cast::real(n) / rate;
        if (n - from).is_multiple_of(GRID) {
            per_s = curves.density_per_s(seconds);
        }
        if due >= cast::real(begun) {
            let stream = STREAM + u64::try_from(begun).unwrap_or(0);
            coming =
                Some(one_thrown(design.seed(), stream, curves.width(seconds), cast::real(begun), channel));
            begun += 1;
        }
        due += per_s / rate;
        if let Some((_, sign, random)) = coming.take_if(|(at, ..)| *at < due) {
            let amplitude = sign * (UNIT_PER_S / per_s).sqrt();
            each(n, Pulse::new(design, seconds, rate, per_s, amplitude, random));
        }
    }
}

/// When a reflection comes, as a count, its sign, and what it is smeared by: the same on all channels, or one of its own on each, as
/// the width has it.
fn one_thrown(seed: u64, stream: u64, width: f64, begun: f64, channel: usize) -> (f64, f64, SplitMix64) {
    let mut random = SplitMix64::new(seed, stream);
    let apart = cast::unit_interval(random.next_word()) < width;
    let mut reflection = || {
        let at = begun + cast::unit_interval(random.next_word());
        let sign = random.bipolar().signum();
        (at, sign, SplitMix64::new(random.next_word(), 0))
    };
    let (first, second) = (reflection(), reflection());
    if apart && channel > 0 { second } else { first }
}

/// The reflections that are placed by hand, by channel.
#[must_use]
pub fn placed(design: &Design, rate_hz: u32, channels: usize) -> Vec<Vec<f64>> {
    let rate = f64::from(rate_hz);
    let frames = cast::frames(design.settings().length_s, rate_hz);
    let mut sides = vec![vec![0.0; frames]; channels];
    for (k, placed) in (0u64..).zip(&design.placed) {
        let seconds = placed.at_ms / 1000.0;
        let random = SplitMix64::new(design.seed(), k);
        let pulse = Pulse::new(design, seconds, rate, 0.0, gain_from_db(placed.level_db), random);
        let angle = FRAC_PI_4 * (1.0 + placed.side);
        // As loud from everywhere; in the middle each side has all of it, and so has a single one.
        let gains = if channels == 1 { [1.0, 1.0] } else { [SQRT_2 * angle.cos(), SQRT_2 * angle.sin()] };
        for (side, gain) in sides.iter_mut().zip(gains) {
            pulse.add_to(side, cast::count(seconds * rate), gain);
        }
    }
    sides
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_swell_is_the_cosine_of_half_a_turn() {
        for k in 0..=1000 {
            let way = f64::from(k) / 1000.0;
            assert!((swell(way) - (PI * (way - 0.5)).cos()).abs() < 1e-8, "{way}");
        }
    }
}
