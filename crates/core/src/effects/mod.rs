//! The effects: one folder each, and one line each in [`ALL`].

pub mod compressor;
pub mod gain;
mod outcomes;

use serde::Serialize;

use crate::catalogue::{Diagram, Param, Picture, Scale, Unit};

/// All effects, in the order in which they are offered.
pub const ALL: &[&Effect] = &[&compressor::EFFECT, &gain::EFFECT];

/// The catalogue entry of an effect.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Effect {
    /// Identifier in files.
    pub id: &'static str,
    /// The name on the screen.
    pub label: &'static str,
    /// What it is for, in a sentence.
    pub purpose: &'static str,
    /// The parameters, in the order in which values are listed.
    pub params: &'static [Param],
    /// The share of the processed signal, which every stage has, in the words that suit this effect.
    pub mix: Param,
    /// The pictures that show it, the most telling first.
    pub pictures: &'static [Picture],
    /// How the signal runs through it.
    pub diagram: Diagram,
    /// Makes a processor with the given values.
    #[serde(skip)]
    pub build: fn(Setup, &[f64]) -> Box<dyn Processor>,
    /// Predicts the level that leaves for a steady level that enters, both in dBFS; none for effects whose
    /// gain does not depend on the level.
    #[serde(skip)]
    pub static_curve: Option<fn(&[f64], f64) -> f64>,
    /// Explains why these values do nothing to a passage with this peak (dBFS); none if they do something.
    #[serde(skip)]
    pub idle: fn(&[f64], f64) -> Option<String>,
}

impl PartialEq for Effect {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

impl Effect {
    /// Its own parameters, then the mix.
    pub fn all_params(&self) -> impl Iterator<Item = &Param> {
        self.params.iter().chain([&self.mix])
    }
}

/// Finds an effect by its identifier.
#[must_use]
pub fn find(id: &str) -> Option<&'static Effect> {
    ALL.iter().copied().find(|e| e.id == id)
}

/// What a processor is prepared for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Setup {
    /// Sample rate, Hz.
    pub rate_hz: u32,
    /// The largest number of frames in one call of [`Processor::process`].
    pub max_block: usize,
}

/// The moving part of an effect.
///
/// The result does not depend on how the signal is cut into blocks, and nothing allocates, locks or
/// calls the system in `process`.
pub trait Processor: Send {
    /// Moves to new values, smoothly.
    fn set(&mut self, values: &[f64]);

    /// Processes one block of one or two channels in place; every channel has the same length, at most
    /// the prepared maximum.
    fn process(&mut self, io: &mut [&mut [f32]]);

    /// Back to the state just after it was made.
    fn reset(&mut self);

    /// Frames by which the output lags behind the input; the same as long as it lives.
    fn latency(&self) -> usize {
        0
    }

    /// For effects that change the gain with the level: the gain reduction applied to each frame of the
    /// last block, in dB (0 or negative), without any fixed gain.
    fn gain_db(&self) -> Option<&[f32]> {
        None
    }
}

/// How long a moved parameter takes to arrive, in seconds: short enough to feel immediate, long enough
/// not to click.
pub const MOVE_S: f64 = 0.02;

/// The mix of a stage, on which effects lay their own words.
pub const MIX: Param = Param {
    id: "mix",
    label: "Mix",
    unit: Unit::Percent,
    default: 1.0,
    scale: Scale::Linear,
    outcome: Some(outcomes::CREST_CHANGE),
    picture: Some(Picture::OverTime),
    ..Param::BLANK
};
