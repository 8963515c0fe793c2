//! Bands of an equaliser: their kinds by number, and stages of them.

use clear_bend_effects::equaliser::EFFECT;
use clear_bend_playing::path::Stage;

/// A low cut.
pub const LOW_CUT: f64 = 1.0;
/// A high cut.
pub const HIGH_CUT: f64 = 2.0;
/// An all-pass.
pub const ALL_PASS: f64 = 3.0;
/// A band-pass.
pub const BAND_PASS: f64 = 4.0;
/// A notch.
pub const NOTCH: f64 = 5.0;
/// A bell.
pub const BELL: f64 = 6.0;
/// A flat bell.
pub const FLAT_BELL: f64 = 7.0;
/// A low shelf.
pub const LOW_SHELF: f64 = 8.0;
/// A high shelf.
pub const HIGH_SHELF: f64 = 9.0;

/// An equaliser with some of its values.
pub fn stage(params: &[(&str, f64)]) -> Stage {
    Stage::new(&EFFECT, params).unwrap()
}

/// The values of its first band.
pub fn band(kind: f64, freq_hz: f64, gain_db: f64, q: f64) -> Vec<(&'static str, f64)> {
    vec![("kind_1", kind), ("freq_1_hz", freq_hz), ("gain_1_db", gain_db), ("q_1", q)]
}

/// An equaliser with values whose names are made.
pub fn stage_of(params: &[(String, f64)]) -> Stage {
    let params: Vec<(&str, f64)> = params.iter().map(|(id, value)| (id.as_str(), *value)).collect();
    Stage::new(&EFFECT, &params).unwrap()
}
