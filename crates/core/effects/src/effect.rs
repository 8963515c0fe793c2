//! What an effect is to everybody else: its catalogue entry.

use serde::Serialize;

use super::ability::Ability;
use super::processor::{Plan, Processor};
use clear_bend_catalogue::{Diagram, Hold, List, Param, Picture, SoundSlot, StartingPoint, Step, Unit};
use clear_bend_sound::level::{db_from_gain, gain_from_db};

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
