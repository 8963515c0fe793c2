//! Sources made by the core: test signals, exact at any rate, and the demo scenario.

pub mod design;
mod noise;
mod responses;
pub mod room;
mod slip;
mod tones;
mod waves;

use serde::{Deserialize, Serialize};

use crate::catalogue::{Number, Param, Scale, Unit, Values};
use crate::dsp::Resampler;
use crate::{Buffer, Refusal};

use design::{DESIGNED, Design, DesignDocument, Maker};
use responses::at_peak;

pub use noise::SplitMix64;
pub use slip::LOW_WATER;
pub use waves::{SWEEP, Sweep};

/// All kinds of signal, in the order in which they are offered.
pub const ALL: &[&SignalKind] = &[
    &slip::LOOP,
    &slip::HITS,
    &slip::CHORDS,
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
    &SWEEP,
    &waves::STACK,
    &waves::SQUARE,
    &waves::SAW,
    &waves::TRIANGLE,
    &tones::IMPULSE,
    &tones::CLICKS,
    &noise::WHITE_NOISE,
    &noise::PINK_NOISE,
    &noise::NOISE_BURST,
    &responses::CHART_ROOM,
    &responses::NET_LOFT,
    &responses::SAIL_LOFT,
    &responses::TIDE_HALL,
    &responses::BRIGHT_PLATE,
    &responses::DAMPED_PLATE,
    &responses::SPRING,
    &responses::HULL,
    &responses::TANK,
    &responses::SMALL_CABINET,
    &responses::CLOSED_CABINET,
    &responses::TALL_CABINET,
    &responses::BASS_CABINET,
    &room::ROOM,
    &design::DESIGNED,
];

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
pub(crate) const SLIP_RATE_HZ: u32 = 48_000;

/// The longest response, s.
pub const LONGEST_RESPONSE_S: f64 = 10.0;

impl PartialEq for SignalKind {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

/// The `kind` of a source that is a kept track.
pub const TRACK: &str = "track";

/// The `kind` of a source that is another stem of the bench: a sound of a stage may be one.
pub const STEM: &str = "stem";

/// The `kind` of the source of a shared path: what the stems of the bench send to it.
pub const SENT: &str = "sent";

/// A source as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SourceDocument {
    /// Identifier of the kind of signal, or [`TRACK`], [`STEM`] or [`SENT`].
    pub kind: String,
    /// For a kept track: the SHA-256 of the file it came from, in hexadecimal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub track: Option<String>,
    /// For a kept track: what it is called where it is kept, so that it can be asked for where it is not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub name: Option<String>,
    /// For a stem: its place on the bench, from 0.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub stem: Option<usize>,
    /// For a stem: whether it is heard after its path, and not before it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<bool>", optional))]
    pub after: bool,
    /// Settings; one that is missing takes its default.
    #[serde(default, skip_serializing_if = "Values::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<Values>", optional))]
    pub params: Values,
    /// For a designed response: what is drawn and placed by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub design: Option<DesignDocument>,
}

impl SourceDocument {
    /// A kept track.
    #[must_use]
    pub fn of_track(hash: &str) -> Self {
        Self { track: Some(hash.to_owned()), ..Self::of_kind(TRACK, Values::default()) }
    }

    /// A kind of signal with some of its settings.
    #[must_use]
    pub fn of_kind(kind: &str, params: Values) -> Self {
        Self {
            kind: kind.to_owned(),
            track: None,
            name: None,
            stem: None,
            after: false,
            params,
            design: None,
        }
    }
}

/// A source that has been checked.
#[derive(Debug, Clone, PartialEq)]
pub enum Source {
    /// A kind of signal and its settings in catalogue order.
    Made(&'static SignalKind, Vec<f64>),
    /// A designed response.
    Designed(Box<Design>),
    /// A track that the server keeps.
    Track {
        /// The SHA-256 of the file it came from, in hexadecimal.
        hash: String,
        /// What it is called there.
        name: Option<String>,
    },
    /// A stem of the bench.
    Stem {
        /// Its place.
        place: usize,
        /// Whether it is heard after its path.
        after: bool,
    },
    /// What the stems of the bench send.
    Sent,
}

impl Source {
    /// Checks a source from a file.
    ///
    /// # Errors
    /// Refuses unknown kinds, unknown settings, values out of range, tracks without a proper hash and stems without a
    /// place, naming the field.
    pub fn from_document(document: &SourceDocument) -> Result<Self, Refusal> {
        let SourceDocument { kind, track, name, stem, after, params, design } = document;
        let only = |field: &str, kind: &str| {
            Refusal::new(field, "given", format!("nothing, unless the kind is \u{201c}{kind}\u{201d}"))
        };
        if track.is_some() && kind != TRACK {
            return Err(only(TRACK, TRACK));
        }
        if name.is_some() && kind != TRACK {
            return Err(only("name", TRACK));
        }
        if stem.is_some() && kind != STEM {
            return Err(only(STEM, STEM));
        }
        if *after && kind != STEM {
            return Err(only("after", STEM));
        }
        if design.is_some() && kind != DESIGNED.id {
            return Err(only("design", DESIGNED.id));
        }
        match kind.as_str() {
            TRACK => {
                let hash = track.as_ref().ok_or_else(|| Refusal::new(TRACK, "missing", HASH))?;
                check_hash(hash)?;
                check_name(name.as_deref())?;
                Ok(Self::Track { hash: hash.clone(), name: name.clone() })
            }
            STEM => stem
                .map(|place| Self::Stem { place, after: *after })
                .ok_or_else(|| Refusal::new(STEM, "missing", "the place of a stem, from 0")),
            SENT if params.is_empty() => Ok(Self::Sent),
            SENT => Err(Refusal::new("params", "given", "nothing: what is sent has no settings of its own")),
            kind => {
                let kind = find(kind)?;
                let values = params.checked(kind.params, None).map_err(|e| e.within("params"))?;
                (kind.fits)(&values).map_err(|e| e.within("params"))?;
                if *kind == DESIGNED {
                    let design = Design::checked(values, design.as_ref()).map_err(|e| e.within("design"))?;
                    return Ok(Self::Designed(Box::new(design)));
                }
                Ok(Self::Made(kind, values))
            }
        }
    }

    /// The document of this source, with the settings that differ from their defaults.
    #[must_use]
    pub fn to_document(&self) -> SourceDocument {
        self.document(Values::plain)
    }

    /// The same as people read it: choices by their words.
    #[must_use]
    pub fn to_file(&self) -> SourceDocument {
        self.document(|params, values| Values::worded(params, None, values))
    }

    fn document(&self, write: fn(&[Param], &[f64]) -> Values) -> SourceDocument {
        match self {
            Self::Made(kind, values) => SourceDocument::of_kind(kind.id, write(kind.params, values)),
            Self::Designed(design) => SourceDocument {
                design: design.written(),
                ..SourceDocument::of_kind(DESIGNED.id, write(DESIGNED.params, &design.values))
            },
            Self::Track { hash, name } => {
                SourceDocument { name: name.clone(), ..SourceDocument::of_track(hash) }
            }
            Self::Stem { place, after } => SourceDocument {
                stem: Some(*place),
                after: *after,
                ..SourceDocument::of_kind(STEM, Values::default())
            },
            Self::Sent => SourceDocument::of_kind(SENT, Values::default()),
        }
    }

    /// The samples of a signal.
    ///
    /// # Errors
    /// Refuses a rate or a number of channels that [`Buffer::new`] refuses, tones over half the rate, and tracks, whose
    /// samples are not here.
    pub fn render(&self, rate_hz: u32, channels: usize) -> Result<Buffer, Refusal> {
        self.render_by(&mut Maker::default(), rate_hz, channels)
    }

    /// The same by somebody who has made designed responses before.
    ///
    /// # Errors
    /// As [`Source::render`].
    pub fn render_by(&self, maker: &mut Maker, rate_hz: u32, channels: usize) -> Result<Buffer, Refusal> {
        Buffer::new(rate_hz, vec![vec![]; channels])?;
        match self {
            Self::Made(kind, values) => {
                let half = f64::from(rate_hz) / 2.0;
                if let Some((param, freq_hz)) = (kind.highest)(values).filter(|(_, hz)| *hz >= half) {
                    let accepted = format!("under {half} Hz, half the sample rate");
                    return Err(Refusal::new(param, Number(freq_hz), accepted));
                }
                if kind.family == Family::Test {
                    return Buffer::new(rate_hz, (kind.make)(values, rate_hz, channels));
                }
                at_rate(rate_hz, (kind.make)(values, SLIP_RATE_HZ, channels))
            }
            Self::Designed(design) => at_rate(rate_hz, maker.made(design, SLIP_RATE_HZ, channels).sides),
            Self::Track { hash, .. } => Err(Refusal::new(TRACK, hash, "a signal that the core can make")),
            Self::Stem { place, .. } => Err(Refusal::new(STEM, place, "a signal that the core can make")),
            Self::Sent => Err(Refusal::new("kind", SENT, "a signal that the core can make")),
        }
    }

    /// The same source, if it is played by itself, which a stem of a bench and what is sent to a shared path are not.
    ///
    /// # Errors
    /// Refuses those two.
    pub fn by_itself(self) -> Result<Self, Refusal> {
        let kind = match self {
            Self::Stem { .. } => STEM,
            Self::Sent => SENT,
            source => return Ok(source),
        };
        Err(Refusal::new("kind", format!("\u{201c}{kind}\u{201d}"), "a signal or a track"))
    }
}

/// What has been made at the one rate, at another.
fn at_rate(rate_hz: u32, made: Vec<Vec<f32>>) -> Result<Buffer, Refusal> {
    if rate_hz == SLIP_RATE_HZ {
        return Buffer::new(rate_hz, made);
    }
    let resampler = Resampler::new(SLIP_RATE_HZ, rate_hz);
    Buffer::new(rate_hz, made.iter().map(|channel| resampler.round(channel)).collect())
}

const HASH: &str = "64 hexadecimal digits";

/// Accepts a SHA-256 in lower-case hexadecimal.
///
/// # Errors
/// Refuses anything else.
pub fn check_hash(hash: &str) -> Result<(), Refusal> {
    let proper = hash.len() == 64 && hash.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'));
    if proper { Ok(()) } else { Err(Refusal::new(TRACK, format!("\u{201c}{hash}\u{201d}"), HASH)) }
}

/// Longest name of a track, in characters.
const LONGEST_NAME: usize = 255;

/// Accepts what a track is called: a line of letters.
fn check_name(name: Option<&str>) -> Result<(), Refusal> {
    let Some(name) = name else { return Ok(()) };
    if name.is_empty() || name.chars().count() > LONGEST_NAME || name.chars().any(char::is_control) {
        let found = format!("{} characters long, or not on one line", name.chars().count());
        return Err(Refusal::new("name", found, format!("1 to {LONGEST_NAME} characters on one line")));
    }
    Ok(())
}

/// The responses that are made by recipes of this project and have nothing to draw.
pub fn shipped_responses() -> impl Iterator<Item = &'static SignalKind> {
    let drawn = [room::ROOM.id, DESIGNED.id];
    ALL.iter().copied().filter(move |kind| kind.family == Family::Response && !drawn.contains(&kind.id))
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
