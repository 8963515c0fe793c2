//! Sources: how they are named in documents, checked, and made into samples.

use serde::{Deserialize, Serialize};

use super::design::{DESIGNED, Design, DesignDocument, Maker};
use super::find;
use super::kind::{Family, SLIP_RATE_HZ, SignalKind};
use clear_bend_catalogue::{Number, Param, Values};
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::dsp::Resampler;

/// The most stems of a bench.
pub const MOST_STEMS: usize = 16;

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
