//! What an effect can show or predict. Reports, sentences and pictures ask for abilities, and never for an effect by name.

use rustfft::num_complex::Complex64;

use super::modulation::{Moment, Sway, Swing};
use super::predicted::{Curves, LevelStep};

/// Something that an effect can show or predict, from its values.
#[derive(Debug, Clone, Copy)]
pub enum Ability {
    /// The level (dBFS) that its detector asks for, before mix and output gain, for a steady level (dBFS) that enters; none
    /// where something else is heard.
    StaticCurve(fn(&[f64], f64) -> Option<f64>),
    /// The gain over frequency at a sample rate (Hz), at frequencies (Hz): a filter.
    Response(fn(&[f64], u32, &[f64]) -> Curves),
    /// The frequencies (Hz), rising, at which the bands meet or end that it splits the sound into.
    Bands(fn(&[f64]) -> Vec<f64>),
    /// The step with which its times are shown, where it is not the usual one.
    Step(fn(&[f64]) -> LevelStep),
    /// It works on sibilants, which are counted before and after it.
    Sibilants,
    /// The time (s) that its sound takes to fall by 60 dB at a frequency (Hz), infinite where it never ends: it is a room.
    Decay(fn(&[f64], f64) -> f64),
    /// Its sound rings on, for a time that no setting says: it is a room.
    Rings,
    /// How often a second the delays of a room move, Hz; 0 where they stand still.
    DelaysMove(fn(&[f64]) -> f64),
    /// Parts of its sound that can be heard alone.
    Parts(&'static [Part]),
    /// How its oscillator swings: it moves.
    Swings(fn(&[f64]) -> Swing),
    /// What it makes of steady tones (Hz) at one moment of its cycle, before the mix.
    AtMoment(fn(&[f64], &Moment, &[f64]) -> Vec<Complex64>),
    /// Its delays sway.
    Delays(Delays),
}

/// Delays that sway.
#[derive(Debug, Clone, Copy)]
pub struct Delays {
    /// How.
    pub sway: fn(&[f64]) -> Sway,
    /// The values with which its first voice is alone, in the middle, and nothing goes in again.
    pub first_alone: &'static [(&'static str, f64)],
}

/// Which part of a room's sound it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum PartKind {
    /// The dry sound, later.
    Predelayed,
    /// The first reflections.
    Early,
    /// The late reverb.
    Late,
}

/// A part of what an effect gives.
#[derive(Debug, Clone, Copy)]
pub struct Part {
    /// Which it is.
    pub kind: PartKind,
    /// The values with which it is heard alone; none where it is silent.
    pub alone: fn(&[f64]) -> Option<Vec<f64>>,
}
