//! What a stage adds to a low tone: harmonics.

use std::f64::consts::TAU;

use serde::Serialize;

use super::partial;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::level::{db_from_gain, gain_from_db};

/// The tone that is sent through.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LowTone {
    /// Frequency, Hz.
    pub freq_hz: f64,
    /// Peak level, dBFS.
    pub level_dbfs: f64,
}

impl LowTone {
    /// 100 Hz at -6 dBFS: a low note of a bass.
    pub const USUAL: Self = Self { freq_hz: 100.0, level_dbfs: -6.0 };
}

/// The highest harmonic that is read.
pub const MOST_HARMONIC: usize = 20;
/// Total harmonic distortion takes harmonics 2 to this.
const THD_UNTIL: usize = 10;

/// A tone after a stage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Distortion {
    /// Frequency of the tone, Hz: a whole number of waves in the time over which it is read.
    pub freq_hz: f64,
    /// Level of the fundamental after the stage, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub fundamental_dbfs: f64,
    /// Root of the summed squares of harmonics 2 to 10 over the fundamental.
    pub thd: f64,
    /// Levels of harmonics 2 to 20 (as far as they lie under half the rate) against the fundamental, dB.
    #[cfg_attr(feature = "typescript", ts(type = "(number | null)[]"))]
    pub harmonics_db: Vec<f64>,
}

/// Time for the stage to settle, s.
const SETTLE_S: f64 = 1.0;
/// Waves over which the tone is read.
const WAVES: f64 = 30.0;

/// Sends a low tone through one stage, switched on and at its mix, and reads its harmonics off the last thirty waves.
#[must_use]
pub fn measure_distortion(stage: &Stage, rate_hz: u32, tone: &LowTone) -> Distortion {
    let stage = stage.alone();
    let rate = f64::from(rate_hz);
    let window = cast::count(WAVES * rate / tone.freq_hz).max(1);
    let freq_hz = WAVES * rate / cast::real(window);
    let frames = cast::frames(SETTLE_S, rate_hz) + window;
    let gain = gain_from_db(tone.level_dbfs);
    let wave = (0..frames).map(|i| cast::sample(gain * (TAU * freq_hz / rate * cast::real(i)).sin()));
    let Ok(wave) = Buffer::from_mono(rate_hz, wave.collect(), 1) else {
        return Distortion {
            freq_hz,
            fundamental_dbfs: f64::NEG_INFINITY,
            thd: 0.0,
            harmonics_db: Vec::new(),
        };
    };
    let after = render(&Path { stages: vec![stage] }, &wave).after;
    harmonics_of(&after.channels()[0][frames - window..], freq_hz, rate)
}

/// Reads the harmonics of a tone that has a whole number of waves in the samples.
#[must_use]
pub fn harmonics_of(samples: &[f32], freq_hz: f64, rate_hz: f64) -> Distortion {
    let amplitude = |harmonic: usize| {
        let turn = TAU * freq_hz * cast::real(harmonic) / rate_hz;
        partial::amplitude(samples.iter().map(|x| f64::from(*x)), turn)
    };
    let fundamental = amplitude(1);
    let audible = (2..=MOST_HARMONIC).take_while(|h| freq_hz * cast::real(*h) < rate_hz / 2.0);
    let harmonics: Vec<f64> = audible.map(amplitude).collect();
    let sum: f64 = harmonics.iter().take(THD_UNTIL - 1).map(|a| a * a).sum();
    Distortion {
        freq_hz,
        fundamental_dbfs: db_from_gain(fundamental),
        thd: if fundamental > 0.0 { sum.sqrt() / fundamental } else { 0.0 },
        harmonics_db: harmonics.iter().map(|a| db_from_gain(a / fundamental)).collect(),
    }
}
