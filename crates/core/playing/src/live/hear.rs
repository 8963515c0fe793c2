//! What is heard of a bench.

use serde::{Deserialize, Serialize};

/// What is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Hear {
    /// The source untouched.
    Before,
    /// The source through the path, matched in level if that is on.
    #[default]
    After,
    /// After (as matched) minus before.
    Difference,
    /// The reference track, as loud as before.
    Reference,
}

impl Hear {
    /// All that can be heard, in the order by which the audio thread is told.
    pub const ALL: [Self; 4] = [Self::Before, Self::After, Self::Difference, Self::Reference];
}
