//! Paths as they stand in files.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::Scope;
use crate::catalogue::Number;
use crate::signals::SourceDocument;

/// The `format` of a path file.
pub const PATH_FORMAT: &str = "clear-bend-path";

/// The version of path files that this core writes and reads.
pub const PATH_VERSION: u32 = 2;

/// A path as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct PathDocument {
    /// Always [`PATH_FORMAT`].
    pub format: String,
    /// 2; files of version 1 are read as they were meant.
    pub version: u32,
    /// The stages in signal-flow order.
    pub stages: Vec<StageDocument>,
}

/// A stage as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct StageDocument {
    /// Identifier of the effect.
    pub effect: String,
    /// Whether it is switched on.
    #[serde(default = "yes")]
    pub on: bool,
    /// What part of the signal it works on.
    #[serde(default)]
    pub scope: Scope,
    /// Share of the processed signal, 0 to 1.
    #[serde(default = "whole")]
    pub mix: f64,
    /// Values by parameter id; one that is missing takes its default.
    #[serde(default)]
    pub params: BTreeMap<String, Number>,
    /// What drives its detector; the signal itself where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "typescript", ts(optional))]
    pub key: Option<SourceDocument>,
}

fn yes() -> bool {
    true
}

fn whole() -> f64 {
    1.0
}
