//! Stems that play together, as the page describes them.

use clear_bend_playing::mix::{Send, SendsAs, Strip};
use clear_bend_playing::path::PathDocument;
use clear_bend_signals::SourceDocument;
use clear_bend_sound::region::Region;
use serde::Deserialize;

/// A stem with the path that it plays through now.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PlayedStem {
    /// What it plays.
    pub source: SourceDocument,
    /// Its path.
    pub path: PathDocument,
    /// How it sits among the others.
    pub strip: Strip,
    /// What it sends to shared paths.
    pub sends: Vec<Send>,
}

/// Everything that plays together, without the samples.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PlayedDesk {
    /// All stems.
    pub stems: Vec<PlayedStem>,
    /// The place of the one at work.
    pub work: usize,
    /// What of the source is played.
    pub region: Option<Region>,
    /// How what is sent is heard.
    pub sends_as: SendsAs,
}
