//! Repeatable noise.

use std::f64::consts::{PI, SQRT_2};

use super::{Family, LEVEL, Material, SECONDS, SEED, SignalKind};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

/// The SplitMix64 generator (Steele, Lea, Flood, "Fast splittable pseudorandom number generators",
/// OOPSLA 2014): small, fast, and the same on every machine.
#[derive(Debug, Clone)]
pub struct SplitMix64(u64);

impl SplitMix64 {
    /// A generator for a seed; `stream` tells apart several from the same seed.
    #[must_use]
    pub fn new(seed: u64, stream: u64) -> Self {
        let mut generator = Self(seed.wrapping_add(stream.wrapping_mul(0xD1B5_4A32_D192_ED03)));
        generator.next_word();
        generator
    }

    /// The next 64 random bits.
    pub fn next_word(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// The next number, evenly spread over [-1, 1).
    pub fn bipolar(&mut self) -> f64 {
        2.0 * cast::unit_interval(self.next_word()) - 1.0
    }
}

settings! {
    /// Settings of white noise.
    pub struct WhiteNoise {
        /// RMS level, dBFS.
        level_dbfs: Param {
            max: -5.0,
            what: "RMS level. The peaks of this noise lie 4.8 dB above it.",
            ..LEVEL
        },
        /// Seed.
        seed: SEED,
        /// Length, s.
        seconds: SECONDS,
    }
}

/// Noise with the same power in every hertz, different on each channel.
pub const WHITE_NOISE: SignalKind = SignalKind {
    id: "white-noise",
    label: "White noise",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "All frequencies with the same power per hertz: shows what an effect does to the spectrum.",
    params: WhiteNoise::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = WhiteNoise::from_values(values);
        let frames = cast::frames(s.seconds, rate_hz);
        white(s.level_dbfs, s.seed, frames, channels, cast::sample)
    },
};

/// White noise of an RMS level on every channel, each from a stream of its own.
fn white<T>(
    level_dbfs: f64,
    seed: f64,
    frames: usize,
    channels: usize,
    form: impl Fn(f64) -> T,
) -> Vec<Vec<T>> {
    // An even spread over [-1, 1) has a mean square of 1/3.
    let gain = gain_from_db(level_dbfs) * 3f64.sqrt();
    let streams = [0, 1].into_iter().take(channels);
    streams
        .map(|stream| {
            let mut random = SplitMix64::new(cast::seed(seed), stream);
            (0..frames).map(|_| form(gain * random.bipolar())).collect()
        })
        .collect()
}

settings! {
    /// Settings of pink noise.
    pub struct PinkNoise {
        /// RMS level, dBFS.
        level_dbfs: Param { max: -13.0, what: "RMS level of each channel, exact over the whole length.", ..LEVEL },
        /// Seed.
        seed: SEED,
        /// Length, s.
        seconds: SECONDS,
    }
}

/// Noise with the same power in every octave.
///
/// White noise through a chain of first-order sections whose poles and zeros alternate at even ratios, which falls
/// by 3 dB per octave (J. O. Smith and H. F. Smith, "Closed Form Fractional Integration and Differentiation via
/// Real Exponentially Spaced Pole-Zero Pairs", 2016).
pub const PINK_NOISE: SignalKind = SignalKind {
    id: "pink-noise",
    label: "Pink noise",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "The same power in every octave: close to how music spreads its power.",
    params: PinkNoise::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = PinkNoise::from_values(values);
        let frames = cast::frames(s.seconds, rate_hz);
        let mut noise = white(0.0, s.seed, frames, channels, |x| x);
        for channel in &mut noise {
            let rate = f64::from(rate_hz);
            let mut pole_hz = PINK_HIGHEST * rate / SQRT_2;
            while pole_hz > PINK_LOWEST_HZ {
                falling_section(channel, pole_hz, pole_hz * SQRT_2, rate);
                pole_hz /= 2.0;
            }
            bend_the_top(channel);
            let square = channel.iter().map(|x| x * x).sum::<f64>() / cast::real(frames.max(1));
            let gain = gain_from_db(s.level_dbfs) / square.sqrt().max(1e-12);
            channel.iter_mut().for_each(|x| *x *= gain);
        }
        noise.into_iter().map(|channel| channel.into_iter().map(cast::sample).collect()).collect()
    },
};

/// A pole every octave down to here, each with its zero half an octave above.
const PINK_LOWEST_HZ: f64 = 3.0;
/// The last zero lies at this share of the rate, whatever the rate is, so that what is missing over it always is the same.
const PINK_HIGHEST: f64 = 0.241_35;

/// Lets the slope go on to half the rate, within 0.15 dB, where the sections end: a second-order filter, found as the one
/// with the least squares of the errors in dB.
fn bend_the_top(samples: &mut [f64]) {
    let [b1, b2, a1, a2] = [1.446_200_82, -0.619_174_47, 0.173_979_07, -0.174_336_37];
    let (mut x1, mut x2, mut y1, mut y2) = (0.0, 0.0, 0.0, 0.0);
    for x in samples {
        let y = *x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
        (x2, x1, y2, y1) = (x1, *x, y1, y);
        *x = y;
    }
}

/// (s + zero) / (s + pole) by the bilinear transform, with both frequencies warped to their place.
fn falling_section(samples: &mut [f64], pole_hz: f64, zero_hz: f64, rate: f64) {
    let warped = |hz: f64| (PI * hz / rate).tan();
    let (pole, zero) = (warped(pole_hz), warped(zero_hz));
    let (b0, b1, a1) =
        ((1.0 + zero) / (1.0 + pole), (zero - 1.0) / (1.0 + pole), (pole - 1.0) / (1.0 + pole));
    let (mut x1, mut y1) = (0.0, 0.0);
    for x in samples {
        y1 = b0 * *x + b1 * x1 - a1 * y1;
        x1 = *x;
        *x = y1;
    }
}

settings! {
    /// Settings of a noise burst.
    pub struct NoiseBurst {
        /// RMS level within the burst, dBFS.
        level_dbfs: Param { max: -5.0, default: -12.0, what: "RMS level within the burst.", ..LEVEL },
        /// Silence before, s.
        lead_s: Param { label: "Time before", min: 0.0, max: 10.0, default: 0.25, scale: Scale::Linear, what: "Silence before the burst.", ..SECONDS },
        /// Length of the burst, ms.
        burst_ms: Param { label: "Burst", unit: Unit::Ms, min: 1.0, max: 5000.0, default: 200.0, scale: Scale::Log, what: "How long the burst lasts.", ..Param::BLANK },
        /// Silence after, s.
        tail_s: Param { label: "Time after", min: 0.1, max: 20.0, default: 1.5, what: "Silence after the burst.", ..SECONDS },
        /// Seed.
        seed: SEED,
    }
}

/// White noise that begins and ends at once.
pub const NOISE_BURST: SignalKind = SignalKind {
    id: "noise-burst",
    label: "Noise burst",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "Noise that begins and ends at once, silence around it: shows what an effect leaves behind.",
    params: NoiseBurst::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = NoiseBurst::from_values(values);
        let [lead, burst, tail] =
            [s.lead_s, s.burst_ms / 1000.0, s.tail_s].map(|seconds| cast::frames(seconds, rate_hz));
        let mut noise = white(s.level_dbfs, s.seed, burst, channels, cast::sample);
        for channel in &mut noise {
            channel.splice(0..0, std::iter::repeat_n(0.0, lead));
            channel.extend(std::iter::repeat_n(0.0, tail));
        }
        noise
    },
};
