//! The effects: one folder each, and one line each in [`ALL`]. What an effect is stands in [`effect`] and [`processor`].

mod ability;
mod around;
mod asked;
pub mod autopan;
pub mod chorus;
pub mod compressor;
pub mod convolution;
pub mod deesser;
pub mod dynamics;
pub mod effect;
pub mod equaliser;
pub mod flanger;
pub mod gain;
pub mod gate;
pub mod limiter;
pub mod modulation;
pub mod multiband;
pub mod offered;
pub mod phaser;
mod predicted;
pub mod processor;
pub mod reverb;
pub mod saturation;
mod shared;
pub(crate) mod tone;
pub mod tremolo;
pub mod vibrato;

pub use ability::{Ability, Delays, Part, PartKind};
pub use around::{Around, Beside, SoundBlock};
pub use effect::{Effect, Passed};
pub use modulation::Swing;
pub use predicted::{BandCurve, Curves, DrawnAt, LevelStep, ScopeCurve};
pub use processor::{ENDLESS, MOVE_S, Plan, Processor, Quantity, Setup};
pub use shared::{MIX, OFF_ON, OUTPUT, OUTPUT_ID};

/// All effects, in the order in which they are offered. In one place of memory, whoever asks for them.
pub static ALL: &[&Effect] = &[
    &compressor::EFFECT,
    &limiter::EFFECT,
    &gate::EFFECT,
    &deesser::EFFECT,
    &multiband::EFFECT,
    &equaliser::EFFECT,
    &reverb::EFFECT,
    &convolution::EFFECT,
    &chorus::EFFECT,
    &flanger::EFFECT,
    &phaser::EFFECT,
    &vibrato::EFFECT,
    &tremolo::EFFECT,
    &autopan::EFFECT,
    &saturation::EFFECT,
    &gain::EFFECT,
];

/// Finds an effect by its identifier.
#[must_use]
pub fn find(id: &str) -> Option<&'static Effect> {
    ALL.iter().copied().find(|e| e.id == id)
}
