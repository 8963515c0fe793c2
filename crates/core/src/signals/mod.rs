//! Sources made by the core: test signals, exact at any rate, and the demo scenario.

mod noise;
mod slip;
mod tones;
mod waves;

use serde::{Deserialize, Serialize};

use crate::catalogue::{Number, Param, Scale, Unit};
use crate::document::{values_from_document, values_to_document};
use crate::dsp::Resampler;
use crate::{Buffer, Refusal};

pub use noise::SplitMix64;
pub use slip::LOW_WATER;

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
    /// The parameter that decides what is the highest frequency that must be there, and that frequency, Hz; none for
    /// signals that end where half the rate does.
    #[serde(skip)]
    pub highest: fn(values: &[f64]) -> Option<(&'static str, f64)>,
    /// Makes the samples: one vector per channel. Those of the demo scenario are asked for at one rate only.
    #[serde(skip)]
    pub make: fn(values: &[f64], rate_hz: u32, channels: usize) -> Vec<Vec<f32>>,
}

/// The rate at which the sounds of the demo scenario are made, Hz; at others they are the same sounds, read between
/// their samples.
pub(crate) const SLIP_RATE_HZ: u32 = 48_000;

impl PartialEq for SignalKind {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

/// The `kind` of a source that is a kept track.
pub const TRACK: &str = "track";

/// A source as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SourceDocument {
    /// Identifier of the kind of signal, or [`TRACK`].
    pub kind: String,
    /// For a kept track: the SHA-256 of the file it came from, in hexadecimal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub track: Option<String>,
    /// Settings that differ from their defaults, or all of them.
    #[serde(default)]
    pub params: std::collections::BTreeMap<String, Number>,
}

impl SourceDocument {
    /// A kept track.
    #[must_use]
    pub fn of_track(hash: &str) -> Self {
        Self { kind: TRACK.to_owned(), track: Some(hash.to_owned()), params: Default::default() }
    }

    /// A kind of signal with some of its settings.
    pub fn of_kind(kind: &str, params: impl IntoIterator<Item = (String, Number)>) -> Self {
        Self { kind: kind.to_owned(), track: None, params: params.into_iter().collect() }
    }
}

/// A source that has been checked.
#[derive(Debug, Clone, PartialEq)]
pub enum Source {
    /// A kind of signal and its settings in catalogue order.
    Made(&'static SignalKind, Vec<f64>),
    /// A track that the server keeps, by its hash.
    Track(String),
}

impl Source {
    /// Checks a source from a file.
    ///
    /// # Errors
    /// Refuses unknown kinds, unknown settings, values out of range, and tracks without a proper hash, naming the
    /// field.
    pub fn from_document(document: &SourceDocument) -> Result<Self, Refusal> {
        match (document.kind.as_str(), &document.track) {
            (TRACK, Some(hash)) => check_hash(hash).map(|()| Self::Track(hash.clone())),
            (TRACK, None) => Err(Refusal::new("track", "missing", HASH)),
            (_, Some(_)) => {
                Err(Refusal::new("track", "given", "nothing, unless the kind is \u{201c}track\u{201d}"))
            }
            (kind, None) => {
                let kind = find(kind)?;
                Ok(Self::Made(kind, values_from_document(kind.params, &document.params)?))
            }
        }
    }

    /// The document of this source, with every setting written out.
    #[must_use]
    pub fn to_document(&self) -> SourceDocument {
        match self {
            Self::Made(kind, values) => {
                SourceDocument::of_kind(kind.id, values_to_document(kind.params, values))
            }
            Self::Track(hash) => SourceDocument::of_track(hash),
        }
    }

    /// The samples of a signal.
    ///
    /// # Errors
    /// Refuses a rate or a number of channels that [`Buffer::new`] refuses, tones over half the rate, and tracks, whose
    /// samples are not here.
    pub fn render(&self, rate_hz: u32, channels: usize) -> Result<Buffer, Refusal> {
        Buffer::new(rate_hz, vec![vec![]; channels])?;
        match self {
            Self::Made(kind, values) => {
                let half = f64::from(rate_hz) / 2.0;
                if let Some((param, freq_hz)) = (kind.highest)(values).filter(|(_, hz)| *hz >= half) {
                    let accepted = format!("under {half} Hz, half the sample rate");
                    return Err(Refusal::new(param, Number(freq_hz), accepted));
                }
                if kind.family == Family::Slip && rate_hz != SLIP_RATE_HZ {
                    let made = (kind.make)(values, SLIP_RATE_HZ, channels);
                    let resampler = Resampler::new(SLIP_RATE_HZ, rate_hz);
                    return Buffer::new(
                        rate_hz,
                        made.iter().map(|channel| resampler.round(channel)).collect(),
                    );
                }
                Buffer::new(rate_hz, (kind.make)(values, rate_hz, channels))
            }
            Self::Track(hash) => Err(Refusal::new("track", hash, "a signal that the core can make")),
        }
    }
}

const HASH: &str = "64 hexadecimal digits";

/// Accepts a SHA-256 in lower-case hexadecimal.
///
/// # Errors
/// Refuses anything else.
pub fn check_hash(hash: &str) -> Result<(), Refusal> {
    let proper = hash.len() == 64 && hash.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'));
    if proper { Ok(()) } else { Err(Refusal::new("track", format!("\u{201c}{hash}\u{201d}"), HASH)) }
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
    step: 1.0,
    what: "Which of the random patterns is used. The same seed always gives the same samples.",
    ..Param::BLANK
};
