//! What a kind of signal is: its catalogue entry, and the settings that many have.

use serde::Serialize;

use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::Refusal;

/// The families of signals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Family {
    /// The demo scenario of Pellow Slip.
    Slip,
    /// Test signals.
    Test,
    /// Responses of places and devices to an impulse.
    Response,
}

/// What the single sounds of a source are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Material {
    /// Of drums and of whatever is struck.
    Hits,
    /// Of an instrument that plays pitches.
    Notes,
    /// Impulses.
    Clicks,
    /// Of anything else, and of tracks, of which nothing is known.
    #[default]
    Sounds,
}

impl Material {
    /// What one of them is called.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Hits => "hit",
            Self::Notes => "note",
            Self::Clicks => "click",
            Self::Sounds => "sound",
        }
    }

    /// Whether sibilants may be among them: only a voice has some.
    #[must_use]
    pub fn may_be_voice(self) -> bool {
        self == Self::Sounds
    }
}

/// The catalogue entry of a kind of signal.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SignalKind {
    /// Identifier in files and on the command line.
    pub id: &'static str,
    /// The name on the screen.
    pub label: &'static str,
    /// Where it belongs.
    pub family: Family,
    /// What its single sounds are.
    pub material: Material,
    /// What it makes audible, in a sentence.
    pub purpose: &'static str,
    /// Its settings.
    pub params: &'static [Param],
    /// The parameter that decides what is the highest frequency that must be there, and that frequency, Hz; none for
    /// signals that end where half the rate does.
    #[serde(skip)]
    pub highest: fn(values: &[f64]) -> Option<(&'static str, f64)>,
    /// Accepts settings that fit each other, each of which is within its range already.
    #[serde(skip)]
    pub fits: fn(values: &[f64]) -> Result<(), Refusal>,
    /// Makes the samples: one vector per channel. Those of the demo scenario are asked for at one rate only.
    #[serde(skip)]
    pub make: fn(values: &[f64], rate_hz: u32, channels: usize) -> Vec<Vec<f32>>,
}

/// The rate at which the sounds of the demo scenario and responses are made, Hz; at others they are the same sounds, read between
/// their samples.
pub const SLIP_RATE_HZ: u32 = 48_000;

/// The longest response, s.
pub const LONGEST_RESPONSE_S: f64 = 10.0;

impl PartialEq for SignalKind {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

/// Length of a signal.
pub(super) const SECONDS: Param = Param {
    label: "Length",
    unit: Unit::S,
    min: 0.1,
    max: clear_bend_sound::audio::LONGEST_S,
    default: 8.0,
    scale: Scale::Log,
    what: "How long the signal lasts.",
    ..Param::BLANK
};

/// Peak level of a signal.
pub(super) const LEVEL: Param = Param {
    label: "Level",
    unit: Unit::Dbfs,
    min: -100.0,
    max: 0.0,
    default: -20.0,
    what: "Peak level. A sine with a peak of 0 dBFS has an RMS level of \u{2212}3.0 dBFS.",
    ..Param::BLANK
};

/// Frequency of a tone.
pub(super) const FREQUENCY: Param = Param {
    label: "Frequency",
    unit: Unit::Hz,
    min: 10.0,
    max: 20_000.0,
    default: 997.0,
    scale: Scale::Log,
    what: "Frequency of the tone. 997 Hz instead of 1 kHz, so that its samples fall on ever new places of the wave.",
    ..Param::BLANK
};

/// Seed of a random pattern.
pub(super) const SEED: Param = Param {
    label: "Seed",
    max: 9999.0,
    default: 1.0,
    step: 1.0,
    what: "Which of the random patterns is used. The same seed always gives the same samples.",
    ..Param::BLANK
};
