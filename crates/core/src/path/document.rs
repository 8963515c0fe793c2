//! Paths as they stand in files, and the reading of any document of ours.

use std::collections::BTreeMap;

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use super::Scope;
use crate::catalogue::{Number, Param};
use crate::refusal::Refusal;
use crate::signals::SourceDocument;

/// The `format` of a path file.
pub const PATH_FORMAT: &str = "clear-bend-path";

/// The version of path files that this core writes and reads.
pub(crate) const VERSION: u32 = 1;

/// A path as it stands in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct PathDocument {
    /// Always [`PATH_FORMAT`].
    pub format: String,
    /// Always 1 so far.
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

/// Checks values by parameter id and puts them in catalogue order; missing ones take their default.
///
/// # Errors
/// Refuses unknown parameters and values out of range, as `params.<id>`.
pub fn values_from_document(params: &[Param], given: &BTreeMap<String, Number>) -> Result<Vec<f64>, Refusal> {
    if let Some(unknown) = given.keys().find(|id| params.iter().all(|p| p.id != **id)) {
        let known: Vec<_> = params.iter().map(|p| p.id).collect();
        return Err(Refusal::new(
            "params",
            format!("an object with the unknown name \u{201c}{unknown}\u{201d}"),
            known.join(", "),
        ));
    }
    let value = |p: &Param| given.get(p.id).map_or(p.default, |number| number.0);
    params.iter().map(|p| p.check(value(p)).map_err(|e| e.within("params"))).collect()
}

/// Values in catalogue order as they stand in a file.
#[must_use]
pub fn values_to_document(params: &[Param], values: &[f64]) -> BTreeMap<String, Number> {
    params.iter().zip(values).map(|(p, &v)| (p.id.to_owned(), Number(v))).collect()
}

/// Refuses a document of another format.
pub(crate) fn check_format(found: &str, format: &str) -> Result<(), Refusal> {
    if found != format {
        return Err(Refusal::new(
            "format",
            format!("\u{201c}{found}\u{201d}"),
            format!("\u{201c}{format}\u{201d}"),
        ));
    }
    Ok(())
}

/// Refuses a document of another version.
pub(crate) fn check_version(found: u32, version: u32) -> Result<(), Refusal> {
    if found == version { Ok(()) } else { Err(Refusal::new("version", found, version.to_string())) }
}

/// Reads a document, and says where and why when it does not fit.
///
/// # Errors
/// Refuses what is not JSON and what does not have the shape of `T`, with the path to the field.
pub fn parse_json<T: DeserializeOwned>(text: &str) -> Result<T, Refusal> {
    let mut deserializer = serde_json::Deserializer::from_str(text);
    let parsed = serde_path_to_error::deserialize(&mut deserializer).map_err(refusal_at)?;
    deserializer.end().map_err(|error| refusal_from_serde("document".to_owned(), &error))?;
    Ok(parsed)
}

/// Reads a document out of a JSON value, as [`parse_json`] reads it out of text.
///
/// # Errors
/// Refuses what does not have the shape of `T`, with the path to the field.
pub fn parse_value<T: DeserializeOwned>(value: serde_json::Value) -> Result<T, Refusal> {
    serde_path_to_error::deserialize(value).map_err(refusal_at)
}

/// Where and why a document does not fit.
fn refusal_at(error: serde_path_to_error::Error<serde_json::Error>) -> Refusal {
    let path = error.path().to_string();
    let field = if path == "." || path == "?" { "document".to_owned() } else { path };
    refusal_from_serde(field, &error.into_inner())
}

fn refusal_from_serde(field: String, error: &serde_json::Error) -> Refusal {
    let message = error.to_string();
    if error.is_syntax() || error.is_eof() {
        return Refusal::new(field, format!("not valid JSON ({message})"), "valid JSON");
    }
    // serde says "invalid type: string \"a\", expected f64 at line 1 column 9".
    let message = message.split(" at line ").next().unwrap_or(&message);
    match message.split_once(", expected ") {
        Some((found, accepted)) => Refusal::new(field, found, accepted.replace("f64", "a number")),
        None => Refusal::new(field, message, "a document as described in docs/architecture.md"),
    }
}
