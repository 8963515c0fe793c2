//! What a teacher brings along: an order in which parameters are explained, and settings to start from.

use serde::Serialize;

/// One parameter in the order of explaining, with the settings at which it shows itself and nothing else does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Step {
    /// The parameter.
    pub param: &'static str,
    /// The values that make it plain, by id; all others are at their defaults.
    pub plain: &'static [(&'static str, f64)],
}

/// A named usual setting. Its values are common practice, not a standard.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct StartingPoint {
    /// What it is for, in a word or two.
    pub name: &'static str,
    /// When to take it, and what to listen to.
    pub purpose: &'static str,
    /// Its values by id; all others are at their defaults.
    pub values: &'static [(&'static str, f64)],
    /// Its mix.
    pub mix: f64,
}
