//! The effects: one folder each, and one line each in [`ALL`].

mod ability;
mod around;
pub mod autopan;
pub mod chorus;
pub mod compressor;
pub mod convolution;
pub mod deesser;
pub mod dynamics;
pub mod equaliser;
pub mod flanger;
pub mod gain;
pub mod gate;
pub mod limiter;
pub mod modulation;
pub mod multiband;
pub mod phaser;
mod predicted;
pub mod reverb;
pub mod saturation;
pub(crate) mod tone;
pub mod tremolo;
pub mod vibrato;

pub use ability::{Ability, Delays, Part, PartKind};
pub use around::{Around, Beside, SoundBlock};
pub use modulation::Swing;
pub use predicted::{BandCurve, Curves, DrawnAt, LevelStep, ScopeCurve};

use std::sync::Arc;

use serde::Serialize;

use crate::Buffer;
use crate::catalogue::outcomes;
use crate::catalogue::{
    Diagram, Hold, List, Param, Picture, Scale, SoundSlot, StartingPoint, Step, Unit, Usual,
};
use crate::level::{db_from_gain, gain_from_db};
use crate::scope::Scope;

/// All effects, in the order in which they are offered.
pub const ALL: &[&Effect] = &[
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

/// The catalogue entry of an effect.
#[derive(Clone, Copy, Serialize)]
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
    /// Makes a processor.
    #[serde(skip)]
    pub build: fn(&Plan) -> Box<dyn Processor>,
    /// Which form it is built in at a sample rate (Hz): for another one it must be made anew, because it is late by another
    /// time then.
    #[serde(skip)]
    pub form: fn(&[f64], u32) -> usize,
    /// Explains why these values do nothing to a passage, where it has been measured that nothing but a gain is left of them; none if they do
    /// something.
    #[serde(skip)]
    pub idle: fn(&[f64], &Passed) -> Option<String>,
    /// What the settings do by themselves at a sample rate (Hz) that no control shows, with its numbers between
    /// asterisks.
    #[serde(skip)]
    pub remark: fn(&[f64], u32) -> Option<String>,
    /// What it can show or predict.
    #[serde(skip)]
    pub abilities: &'static [Ability],
    /// The sounds that it takes beside the one that runs through it.
    pub sounds: &'static [SoundSlot],
    /// What of it can be taken hold of in pictures and lists.
    pub holds: &'static [Hold],
    /// The parameters in the order in which they are best explained.
    pub order: &'static [Step],
    /// The values with which it is put into a path, by id, so that it is heard at once; all others are at their defaults, which is what is
    /// left out of a file.
    pub begins: &'static [(&'static str, f64)],
    /// Named usual settings.
    pub starting: &'static [StartingPoint],
}

impl std::fmt::Debug for Effect {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "the {}", self.id)
    }
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

    /// The place among its sounds of the one with an identifier.
    #[must_use]
    pub fn slot(&self, id: &str) -> Option<usize> {
        self.sounds.iter().position(|slot| slot.id == id)
    }

    /// The list in which some of its parameters stand in files.
    #[must_use]
    pub fn list(&self) -> Option<List> {
        self.holds.iter().find_map(Hold::list)
    }

    /// Whether a parameter does something as the switches stand that it depends on.
    #[must_use]
    pub fn acts(&self, values: &[f64], param: &Param) -> bool {
        let Some(needs) = param.acts_with else { return true };
        let found = self.params.iter().zip(values).find(|(other, _)| other.id == needs.param);
        found.is_none_or(|(other, value)| (needs.from..=needs.to).contains(value) && self.acts(values, other))
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

/// What a processor is made from.
#[derive(Debug, Clone, Copy)]
pub struct Plan<'a> {
    /// Rate and block.
    pub setup: Setup,
    /// Values in catalogue order.
    pub values: &'a [f64],
    /// The sounds of its whole slots, in the order of its slots; none where they are not at hand, and for those that run
    /// in step with the passage.
    pub sounds: &'a [Option<Arc<Buffer>>],
    /// What part of the signal it works on: of all but stereo it gets one channel.
    pub scope: Scope,
    /// Where it plays for the ear, its place among those that run side by side: what is heavy is then made by
    /// [`Processor::prepare`], and at another time than that of the others. None where it is measured: all is there at once.
    pub turn: Option<usize>,
}

impl<'a> Plan<'a> {
    /// For measuring, without sounds.
    #[must_use]
    pub fn plain(setup: Setup, values: &'a [f64]) -> Self {
        Self { setup, values, sounds: &[], scope: Scope::Stereo, turn: None }
    }
}

/// What has been measured of a stage that changes nothing but the level.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Passed {
    /// Peak of what enters, dBFS.
    pub peak_dbfs: f64,
    /// The gain that all of it comes to, mix and output included, dB.
    pub gain_db: f64,
    /// The least and the largest reduction over the passage, dB, positive; none where it reports none.
    pub reduced_db: Option<(f64, f64)>,
    /// Whether another sound drives it.
    pub keyed: bool,
    /// Share of the processed sound.
    pub mix: f64,
}

/// Reductions and gains that are smaller are none, dB.
const NO_GAIN_DB: f64 = 0.05;

impl Passed {
    /// Whether it reduces something at some time.
    #[must_use]
    pub fn reduces(&self) -> bool {
        self.reduced_db.is_some_and(|(_, largest)| largest >= NO_GAIN_DB)
    }

    /// Whether the gain is what a drive and an output gain (dB) come to at this mix where nothing else is done.
    #[must_use]
    pub fn is_gain_of(&self, drive_db: f64, output_db: f64) -> bool {
        let mixed = self.mix * gain_from_db(drive_db) + 1.0 - self.mix;
        (self.gain_db - db_from_gain(mixed) - output_db).abs() < NO_GAIN_DB
    }

    /// " Only a fixed gain of 3.5 dB is applied.", or nothing.
    #[must_use]
    pub fn only_gain(&self) -> String {
        if self.gain_db.abs() < NO_GAIN_DB {
            return String::new();
        }
        format!(" Only a fixed gain of {} is applied.", Unit::Db.text(self.gain_db))
    }

    /// What keeps under a level (dBFS) that has a name: the loudest peak with what it is driven by (dB), where that does, or what drives it.
    #[must_use]
    pub fn stays_under(&self, name: &str, level_dbfs: f64, drive_db: f64) -> String {
        let level = Unit::Dbfs.text(level_dbfs);
        let driven_dbfs = self.peak_dbfs + drive_db;
        if self.keyed || driven_dbfs > level_dbfs {
            return format!("what drives it stays under the {name} of {level}");
        }
        let with = if drive_db == 0.0 { "" } else { " with the input gain" };
        let peak = Unit::Dbfs.text(driven_dbfs);
        format!("the loudest peak, {peak}{with}, stays under the {name} of {level}")
    }
}

/// What an effect moves over time, and reports for every frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Quantity {
    /// A gain that goes with the level: the reduction, without any fixed gain, dB; 0 or negative.
    GainDb,
    /// A delay, ms.
    DelayMs,
    /// A frequency, Hz.
    FreqHz,
}

impl Quantity {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::GainDb, Self::DelayMs, Self::FreqHz];
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
    fn process(&mut self, io: &mut [&mut [f32]], around: &Around);

    /// Back to the state just after it was made.
    fn reset(&mut self);

    /// Makes a part of what is heavy, in a time that a block can spare; called between blocks, where it plays for the ear.
    /// Says whether there was anything to do.
    fn prepare(&mut self) -> bool {
        false
    }

    /// Whether it can be heard: what it cannot be without is made.
    fn ready(&self) -> bool {
        true
    }

    /// Frames by which the output lags behind the input; the same as long as it lives.
    fn latency(&self) -> usize {
        0
    }

    /// Frames by which its gain may move before the sound does that moves it: its lookahead.
    fn ahead(&self) -> usize {
        0
    }

    /// Frames for which what has entered is heard after it has ended, until it is 60 dB down, as it is set now, or [`ENDLESS`].
    /// Those that are late because they look ahead with a symmetrical filter ring no longer than they are late.
    fn tail(&self) -> usize {
        self.latency()
    }

    /// What lies under the processed signal below full mix: gets the untouched signal of the last block, as late as
    /// the processed one, and changes it in place where something else belongs there.
    fn lay_under(&self, _dry: &mut [&mut [f32]]) {}

    /// What it has moved over the last block, frame by frame: part 0 is that of the whole, 1 and on are those of its bands,
    /// voices or sections, as many as it has.
    fn trace(&self, _quantity: Quantity, _part: usize) -> Option<&[f32]> {
        None
    }
}

/// How long a moved parameter takes to arrive, in seconds: short enough to feel immediate, long enough
/// not to click.
pub const MOVE_S: f64 = 0.02;

/// The tail of what never ends.
pub const ENDLESS: usize = usize::MAX;

/// The choices of a switch.
pub const OFF_ON: &[&str] = &["off", "on"];

/// Identifier of a parameter which the path applies after the mix.
pub const OUTPUT_ID: &str = "output_db";

/// The output gain of a stage, after its mix.
pub const OUTPUT: Param = Param {
    label: "Output gain",
    unit: Unit::Db,
    min: -24.0,
    max: 24.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::OverTime),
    what: "A gain at the very end of the stage, after the mix: it moves the untouched part as well.",
    listen: "Only the loudness moves. With level match on, nothing.",
    look: "The level line moves sideways, peak and loudness by the same step.",
    mistake: "Thinking that it changes the reduction. Nothing behind the detector does.",
    usual: &[Usual { value: 0.0, purpose: "as it comes" }],
    ..Param::BLANK
};

/// The mix of a stage, on which effects lay their own words.
pub const MIX: Param = Param {
    id: "mix",
    label: "Mix",
    group: "Output",
    unit: Unit::Percent,
    default: 1.0,
    scale: Scale::Linear,
    outcome: Some(outcomes::CREST_CHANGE),
    picture: Some(Picture::OverTime),
    ..Param::BLANK
};
