//! Paths as they stand in files and cross to the page. A reader takes every form of a value; of the two writers, one writes
//! plain numbers for the page, the other what people read: words for choices, and lists of bands.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use clear_bend_catalogue::Values;
use clear_bend_signals::SourceDocument;
use clear_bend_sound::scope::Scope;

/// The most stages that a path may have.
pub const MOST_STAGES: usize = 64;

/// The `format` of a path file.
pub const PATH_FORMAT: &str = "clear-bend-path";

/// The version of path files that is written; 1 and 2 are read too.
pub const PATH_VERSION: u32 = 3;

/// A path file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PathFile {
    /// Always [`PATH_FORMAT`].
    pub format: String,
    /// [`PATH_VERSION`].
    pub version: u32,
    /// The stages in signal-flow order.
    #[cfg_attr(feature = "schema", schemars(length(max = MOST_STAGES)))]
    pub stages: Vec<StageDocument>,
}

/// A path, in a file or on the page.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PathDocument {
    /// The stages in signal-flow order.
    pub stages: Vec<StageDocument>,
}

/// A stage, in a file or on the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct StageDocument {
    /// Identifier of the effect.
    pub effect: String,
    /// Whether it is switched on, which it is if nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(as = "bool", optional = false))]
    pub on: Option<bool>,
    /// What part of the signal it works on: all of it if nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(as = "Scope", optional = false))]
    pub scope: Option<Scope>,
    /// Share of the processed signal, 0 to 1; all of it if nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(as = "f64", optional = false))]
    pub mix: Option<f64>,
    /// Values by parameter id; one that is missing takes its default.
    #[serde(default, skip_serializing_if = "Values::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<Values>", optional))]
    pub params: Values,
    /// The sounds that it takes, by the id of their slot.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<BTreeMap<String, SourceDocument>>", optional))]
    pub sounds: BTreeMap<String, SourceDocument>,
}
