//! What a compressor takes from a steady level.

use super::super::dynamics::StaticCurve;
use super::settings::Settings;

impl From<&Settings> for StaticCurve {
    fn from(settings: &Settings) -> Self {
        Self {
            threshold_db: settings.threshold_db,
            knee_db: settings.knee_db,
            slope: 1.0 / settings.ratio - 1.0,
        }
    }
}

/// The gain of a steady level, dB, with what the detector reads of it and what is driven into it.
#[must_use]
pub fn curve_gain_db(settings: &Settings, input_dbfs: f64) -> f64 {
    // An RMS detector reads a tone 3.01 dB under its peak.
    let read = if settings.detector == 0.0 { 0.0 } else { -10.0 * 2f64.log10() };
    StaticCurve::from(settings).gain_db(input_dbfs + settings.drive_db + read).max(-settings.range_db)
}

/// All make-up gain, dB: by hand, and, where it is automatic, what the curve takes from a steady level of 0 dBFS.
#[must_use]
pub fn makeup_db(settings: &Settings) -> f64 {
    settings.makeup_db + if settings.auto_makeup == 0.0 { 0.0 } else { -curve_gain_db(settings, 0.0) }
}
