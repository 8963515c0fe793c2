//! Sources made by the core: test signals, exact at any rate, and the demo scenario.

mod noise;
mod slip;
mod tones;
mod waves;

use serde::{Deserialize, Serialize};

use crate::catalogue::{Number, Param, Scale, Unit};
use crate::path::values_from_document;
use crate::{Buffer, Refusal};

pub use noise::SplitMix64;

/// All kinds of signal, in the order in which they are offered.
pub const ALL: &[&SignalKind] = &[
    &slip::LOOP,
    &slip::HITS,
    &slip::LOW_DRUM,
    &slip::BASS,
    &slip::WIRES_ONE,
    &slip::WIRES_TWO,
    &slip::DRIVEN,
    &slip::KEYS,
    &slip::PAD,
    &slip::HORN,
    &slip::HUM,
    &slip::RUMBLE,
    &tones::SINE,
    &waves::TWO_TONES,
    &tones::STAIRCASE,
    &tones::BURST,
    &waves::SWEEP,
    &waves::STACK,
    &waves::SQUARE,
    &waves::SAW,
    &waves::TRIANGLE,
    &tones::IMPULSE,
    &tones::CLICKS,
    &noise::WHITE_NOISE,
    &noise::PINK_NOISE,
    &noise::NOISE_BURST,
];

/// The two families of signals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Family {
    /// The demo scenario of Pellow Slip.
    Slip,
    /// Test signals.
    Test,
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
    /// What it makes audible, in a sentence.
    pub purpose: &'static str,
    /// Its settings.
    pub params: &'static [Param],
    /// Makes the samples: one vector per channel.
    #[serde(skip)]
    pub make: fn(values: &[f64], rate_hz: u32, channels: usize) -> Vec<Vec<f32>>,
}

impl PartialEq for SignalKind {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

/// A source as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SourceDocument {
    /// Identifier of the kind of signal.
    pub kind: String,
    /// Settings that differ from their defaults, or all of them.
    #[serde(default)]
    pub params: std::collections::BTreeMap<String, Number>,
}

/// A source that has been checked: a kind of signal and its settings.
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// The kind of signal.
    pub kind: &'static SignalKind,
    /// Values in catalogue order.
    pub values: Vec<f64>,
}

impl Source {
    /// Checks a source from a file.
    ///
    /// # Errors
    /// Refuses unknown kinds, unknown settings and values out of range, naming the field.
    pub fn from_document(document: &SourceDocument) -> Result<Self, Refusal> {
        let kind = find(&document.kind)?;
        let values = values_from_document(kind.params, &document.params)?;
        Ok(Self { kind, values })
    }

    /// The samples.
    ///
    /// # Errors
    /// Refuses a rate or a number of channels that [`Buffer::new`] refuses.
    pub fn render(&self, rate_hz: u32, channels: usize) -> Result<Buffer, Refusal> {
        Buffer::new(rate_hz, vec![vec![]; channels])?;
        Buffer::new(rate_hz, (self.kind.make)(&self.values, rate_hz, channels))
    }
}

/// Finds a kind of signal by its identifier.
///
/// # Errors
/// Refuses an unknown one, naming those that are known.
pub fn find(id: &str) -> Result<&'static SignalKind, Refusal> {
    ALL.iter().copied().find(|kind| kind.id == id).ok_or_else(|| {
        let known: Vec<_> = ALL.iter().map(|kind| kind.id).collect();
        Refusal::new("kind", format!("\u{201c}{id}\u{201d}"), known.join(", "))
    })
}

/// Length of a signal.
const SECONDS: Param = Param {
    label: "Length",
    unit: Unit::S,
    min: 0.1,
    max: crate::audio::LONGEST_S,
    default: 8.0,
    scale: Scale::Log,
    what: "How long the signal lasts.",
    ..Param::BLANK
};

/// Peak level of a signal.
const LEVEL: Param = Param {
    label: "Level",
    unit: Unit::Dbfs,
    min: -100.0,
    max: 0.0,
    default: -20.0,
    what: "Peak level. A sine with a peak of 0 dBFS has an RMS level of \u{2212}3.0 dBFS.",
    ..Param::BLANK
};

/// Frequency of a tone.
const FREQUENCY: Param = Param {
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
const SEED: Param = Param {
    label: "Seed",
    max: 9999.0,
    default: 1.0,
    what: "Which of the random patterns is used. The same seed always gives the same samples.",
    ..Param::BLANK
};
