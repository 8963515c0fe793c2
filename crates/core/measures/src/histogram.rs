//! How much of the time a passage spends at which level.

use serde::{Deserialize, Serialize};

use super::levels::rms_dbfs;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

/// Levels are read over stretches of this length, s.
const STRETCH_S: f64 = 0.01;
/// The lowest level, dBFS; what is quieter counts there.
pub const LOWEST_DBFS: f64 = -80.0;
/// Width of a bin, dB.
pub const BIN_DB: f64 = 1.0;

/// Shares of the time by level: RMS over 10 ms, in bins of 1 dB from -80 dBFS up.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Histogram {
    /// Lower edge of the first bin, dBFS.
    pub lowest_dbfs: f64,
    /// Width of a bin, dB.
    pub bin_db: f64,
    /// Share of the time in each bin, 0 to 1; the first also holds all that is quieter.
    pub shares: Vec<f64>,
}

impl Histogram {
    /// Reads a passage; the last bin ends at +10 dBFS and also holds what is louder.
    #[must_use]
    pub fn of(passage: &Buffer) -> Self {
        let bins = cast::count((10.0 - LOWEST_DBFS) / BIN_DB);
        let stretch = cast::frames(STRETCH_S, passage.rate_hz()).max(1);
        let count = passage.frames() / stretch;
        let mut counts = vec![0usize; bins];
        for k in 0..count {
            let part = passage.channels().iter().map(|c| &c[k * stretch..(k + 1) * stretch]);
            let bin = cast::floor((rms_dbfs(part).max(LOWEST_DBFS) - LOWEST_DBFS) / BIN_DB);
            counts[bin.min(bins - 1)] += 1;
        }
        let all = cast::real(count.max(1));
        Self {
            lowest_dbfs: LOWEST_DBFS,
            bin_db: BIN_DB,
            shares: counts.into_iter().map(|count| cast::real(count) / all).collect(),
        }
    }
}
