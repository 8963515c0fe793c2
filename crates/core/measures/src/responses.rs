//! Responses that are kept: where each comes from, so that it is found or made again, and what is said of it in lists.

use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::room::RoomResponse;
use crate::sweeps::SweepFound;
use clear_bend_catalogue::document::{check_format, check_version, parse_value};
use clear_bend_signals::design::DESIGNED;
use clear_bend_signals::room::ROOM;
use clear_bend_signals::{LONGEST_RESPONSE_S, Source, SourceDocument, TRACK};
use clear_bend_sound::Buffer;
use clear_bend_sound::refusal::Refusal;

/// The `format` of a kept response.
pub const RESPONSE_FORMAT: &str = "clear-bend-response";
/// The version that is written.
pub const RESPONSE_VERSION: u32 = 1;
/// So many samples at one height, next to full scale, are a wave that was cut off.
const CUT_OFF: usize = 3;
/// Next to full scale, linear.
const FULL: f32 = 0.999;
/// All of it under this is silence, linear: -120 dBFS.
const SILENT: f32 = 1e-6;

/// Where a response comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum ResponseFrom {
    /// A file that somebody has brought.
    Brought,
    /// Made by the program's own recipes.
    Shipped,
    /// Drawn.
    Designed,
    /// A room by its measures.
    OfARoom,
    /// Worked out of the recording of a sweep.
    Recorded,
}

/// What is said of a response in lists.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct ResponseAbout {
    /// Where it comes from.
    pub from: ResponseFrom,
    /// Its length, s.
    pub seconds: f64,
    /// The sample rate at which it was brought or made, Hz.
    pub rate_hz: u32,
    /// Its channels.
    pub channels: usize,
    /// The time in which it falls by 60 dB over all frequencies (T30, or T20 where the range is small), s; none where it does not fall so
    /// far.
    pub decay_s: Option<f64>,
    /// Whether its wave was cut off at full scale.
    pub clipped: bool,
    /// What was found in the recording of a sweep that it was worked out of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub recorded: Option<SweepFound>,
}

/// A kept response; its name is kept beside it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct ResponseDocument {
    /// Always [`RESPONSE_FORMAT`].
    pub format: String,
    /// [`RESPONSE_VERSION`].
    pub version: u32,
    /// Where it is found, or how it is made.
    pub source: SourceDocument,
    /// What is said of it; whoever keeps it measures it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub about: Option<ResponseAbout>,
}

impl ResponseDocument {
    /// A response of which nothing is said yet.
    #[must_use]
    pub fn new(source: SourceDocument) -> Self {
        Self { format: RESPONSE_FORMAT.to_owned(), version: RESPONSE_VERSION, source, about: None }
    }

    /// Reads and checks a response out of a JSON value.
    ///
    /// # Errors
    /// Refuses another format or version, unknown fields, and sources that are none or no response.
    pub fn from_value(value: Value) -> Result<Self, Refusal> {
        let document: Self = parse_value(value)?;
        document.checked().map(|_| document)
    }

    /// Its source, checked.
    ///
    /// # Errors
    /// Refuses another format or version, and sources that are none or no response.
    pub fn checked(&self) -> Result<Source, Refusal> {
        check_format(&self.format, RESPONSE_FORMAT)?;
        check_version(self.version, RESPONSE_VERSION)?;
        Source::from_document(&self.source).and_then(Source::by_itself).map_err(|e| e.within("source"))
    }

    /// As it stands in files.
    ///
    /// # Errors
    /// As [`ResponseDocument::checked`].
    pub fn to_file(&self) -> Result<Self, Refusal> {
        Ok(Self { source: self.checked()?.to_file(), ..self.clone() })
    }
}

impl ResponseAbout {
    /// The same of a response that was worked out of the recording of a sweep.
    #[must_use]
    pub fn recorded(self, found: SweepFound) -> Self {
        Self { from: ResponseFrom::Recorded, recorded: Some(found), ..self }
    }

    /// Accepts a length, s.
    ///
    /// # Errors
    /// Refuses what is longer than a response may be.
    pub fn check_length(seconds: f64) -> Result<(), Refusal> {
        if seconds <= LONGEST_RESPONSE_S {
            return Ok(());
        }
        let accepted = format!("at most {LONGEST_RESPONSE_S} s: cut it before it is kept as a response");
        Err(Refusal::new("response", format!("{seconds:.1} s long"), accepted))
    }

    /// Measures the samples of a response, which were brought or made at a rate.
    ///
    /// # Errors
    /// Refuses what is silent, and what is longer than a response may be.
    pub fn of(source: &SourceDocument, sound: &Buffer, rate_hz: u32) -> Result<Self, Refusal> {
        let highest = sound.channels().iter().flatten().fold(0.0, |most: f32, x| most.max(x.abs()));
        if highest < SILENT {
            return Err(Refusal::new("response", "silent", "a sound over \u{2212}120 dBFS"));
        }
        Self::check_length(sound.seconds())?;
        let times = RoomResponse::of_buffer(sound).decay().times();
        let is_cut = |run: &[f32]| run[0].abs() >= FULL && run.iter().all(|x| *x == run[0]);
        Ok(Self {
            from: match source.kind.as_str() {
                TRACK => ResponseFrom::Brought,
                kind if kind == DESIGNED.id => ResponseFrom::Designed,
                kind if kind == ROOM.id => ResponseFrom::OfARoom,
                _ => ResponseFrom::Shipped,
            },
            seconds: sound.seconds(),
            rate_hz,
            channels: sound.channels().len(),
            decay_s: times.t30.or(times.t20).map(|fit| fit.seconds),
            clipped: sound.channels().iter().any(|side| side.windows(CUT_OFF).any(is_cut)),
            recorded: None,
        })
    }
}
