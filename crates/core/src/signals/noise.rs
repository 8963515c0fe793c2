//! Repeatable noise.

use super::{LEVEL, SECONDS, SEED, SignalKind};
use crate::cast;
use crate::catalogue::Param;
use crate::level::gain_from_db;
use crate::settings;

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
    purpose: "All frequencies with the same power per hertz: shows what an effect does to the spectrum.",
    params: WhiteNoise::PARAMS,
    make: |values, rate_hz, channels| {
        let s = WhiteNoise::from_values(values);
        // An even spread over [-1, 1) has a mean square of 1/3.
        let gain = gain_from_db(s.level_dbfs) * 3f64.sqrt();
        let streams = [0, 1].into_iter().take(channels);
        streams
            .map(|stream| {
                let mut random = SplitMix64::new(cast::seed(s.seed), stream);
                (0..cast::frames(s.seconds, rate_hz)).map(|_| cast::sample(gain * random.bipolar())).collect()
            })
            .collect()
    },
};
