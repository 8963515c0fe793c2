//! What effects say of themselves by their formulas, without a sound: curves over frequency, and the step that shows their
//! times.

use serde::Serialize;

use crate::scope::Scope;

/// The predicted curve of one band.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct BandCurve {
    /// Its number, from 1.
    pub number: usize,
    /// Its gain at every frequency, dB.
    pub gains_db: Vec<f64>,
}

/// The predicted curve of all bands on one scope.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ScopeCurve {
    /// The scope.
    pub scope: Scope,
    /// The gain at every frequency, dB.
    pub gains_db: Vec<f64>,
    /// The phase at every frequency, degrees, without jumps from 0 Hz on.
    pub phases_deg: Vec<f64>,
}

/// The curves of a filter by its formulas.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Curves {
    /// Every band that is switched on.
    pub bands: Vec<BandCurve>,
    /// All bands together, for every scope that has a curve of its own.
    pub sums: Vec<ScopeCurve>,
}

/// The tone steps from quiet to loud and back, dBFS (peak levels).
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelStep {
    /// Level before and after, dBFS.
    pub quiet_dbfs: f64,
    /// Level between, dBFS.
    pub loud_dbfs: f64,
}

impl LevelStep {
    /// The step of IEC 60118-2 and ANSI S3.22 (from memory), 25 dB, placed at -35 and -10 dBFS.
    pub const USUAL: Self = Self { quiet_dbfs: -35.0, loud_dbfs: -10.0 };
}
