//! What is drawn and placed by hand of a designed response.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::curves::Curves;
use crate::kind::{LONGEST_RESPONSE_S as LONGEST_S, SEED};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;

settings! {
    /// Settings of a designed response beside its curves.
    pub struct Settings {
        /// Length, s.
        length_s: Param {
            label: "Length",
            unit: Unit::FineS,
            min: 0.1,
            max: LONGEST_S,
            default: 2.0,
            scale: Scale::Log,
            what: "How long the response is. What has not fallen by then is cut off.",
            ..Param::BLANK
        },
        /// When reflections begin to be thrown, ms.
        from_ms: Param {
            label: "Random from",
            unit: Unit::FineMs,
            max: 1000.0,
            default: 5.0,
            scale: Scale::SoftLog { knee: 20.0 },
            what: "From when on reflections are thrown at random. Those before are placed by hand.",
            ..Param::BLANK
        },
        /// Which reflections are thrown.
        seed: SEED,
    }
}

/// So many reflections may be placed by hand.
pub const MOST_PLACED: usize = 64;

/// What can be set of a reflection that is placed by hand.
pub const PLACED: [Param; 3] = [
    Param {
        id: "at_ms",
        label: "Time",
        unit: Unit::FineMs,
        max: 1000.0 * LONGEST_S,
        default: 10.0,
        what: "When it comes.",
        ..Param::BLANK
    },
    Param {
        id: "level_db",
        label: "Level",
        unit: Unit::Db,
        min: -60.0,
        max: 20.0,
        default: 0.0,
        what: "How loud it is: at 0 dB as loud as 10 ms of what is thrown at random at 0 dB.",
        ..Param::BLANK
    },
    Param {
        id: "side",
        label: "Side",
        unit: Unit::Signed,
        min: -1.0,
        max: 1.0,
        default: 0.0,
        what: "Where it comes from: -1 is left, 1 is right.",
        ..Param::BLANK
    },
];

/// A reflection that is placed by hand.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Placed {
    /// When it comes, ms.
    pub at_ms: f64,
    /// Its level, dB.
    #[serde(default)]
    pub level_db: f64,
    /// Where it comes from, -1 (left) to 1 (right).
    #[serde(default)]
    pub side: f64,
}

/// What is drawn and placed by hand, as it stands in a file.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct DesignDocument {
    /// Curves by id, each as points of time (s) and value; one that is missing is level at its default.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<BTreeMap<String, Vec<[f64; 2]>>>", optional))]
    pub curves: BTreeMap<String, Vec<[f64; 2]>>,
    /// Reflections that are placed by hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<Vec<Placed>>", optional))]
    pub placed: Vec<Placed>,
}

/// A designed response.
#[derive(Debug, Clone, PartialEq)]
pub struct Design {
    /// Settings in catalogue order.
    pub values: Vec<f64>,
    /// Its curves.
    pub curves: Curves,
    /// Reflections that are placed by hand.
    pub placed: Vec<Placed>,
}

impl Design {
    /// Checks what is drawn and placed, with settings that have been checked.
    ///
    /// # Errors
    /// As [`Curves::checked`]; refuses too many placed reflections, and those out of range.
    pub fn checked(values: Vec<f64>, drawn: Option<&DesignDocument>) -> Result<Self, Refusal> {
        let usual = DesignDocument::default();
        let DesignDocument { curves, placed } = drawn.unwrap_or(&usual);
        if placed.len() > MOST_PLACED {
            return Err(Refusal::new("placed", placed.len(), format!("at most {MOST_PLACED} reflections")));
        }
        for (i, Placed { at_ms, level_db, side }) in placed.iter().enumerate() {
            for (param, value) in PLACED.iter().zip([at_ms, level_db, side]) {
                param.check(*value).map_err(|e| e.within(&format!("placed[{i}]")))?;
            }
        }
        Ok(Self { values, curves: Curves::checked(curves)?, placed: placed.clone() })
    }

    /// What is drawn and placed, as it stands in a file; none where that is nothing.
    #[must_use]
    pub fn written(&self) -> Option<DesignDocument> {
        let written = DesignDocument { curves: self.curves.written(), placed: self.placed.clone() };
        (written != DesignDocument::default()).then_some(written)
    }

    /// Its settings.
    #[must_use]
    pub fn settings(&self) -> Settings {
        Settings::from_values(&self.values)
    }

    pub(super) fn seed(&self) -> u64 {
        cast::seed(self.settings().seed)
    }
}
