//! The level match of a path before it has been measured: by its curves and by how much of the time the passage is how loud.

use super::Histogram;
use clear_bend_playing::path::Path;
use clear_bend_sound::cast;
use clear_bend_sound::level::{db_from_gain, gain_from_db};

/// The match gain (dB) for a path on a passage with these levels, from another path whose match on it is known. It goes down at once
/// where the path is louder, and up only when that has been measured: what is heard meanwhile is too quiet rather than too loud. By
/// curves alone, filters, rooms and what moves are as loud as before. A gain that comes back slowly takes more than its curve, so that
/// the gain is not over what the new path's curve by itself asks for by more than a step; what gets through before an attack has begun
/// may still be louder than that.
#[must_use]
pub fn predicted_match_db((known, gain_db): (&Path, f64), path: &Path, levels: &Histogram) -> f64 {
    let change = change_db(path, levels);
    gain_db + (change_db(known, levels) - change).min(STEP_DB - change - gain_db).min(0.0)
}

/// The gain is at most so much over what a path's curve by itself asks for, dB.
const STEP_DB: f64 = 2.0;

/// How far the peaks of a steady tone lie over its RMS level, dB.
const CREST_DB: f64 = 3.0103;

/// By how much a path changes the level of a passage, at steady levels, dB.
fn change_db(path: &Path, levels: &Histogram) -> f64 {
    let (mut before, mut after) = (0.0, 0.0);
    for (bin, share) in levels.shares.iter().enumerate() {
        // Curves go by the peaks of a steady tone, which are 3 dB over its RMS level.
        let level_dbfs = levels.lowest_dbfs + (cast::real(bin) + 0.5) * levels.bin_db + CREST_DB;
        before += share * gain_from_db(level_dbfs).powi(2);
        after += share * through(path, gain_from_db(level_dbfs)).powi(2);
    }
    if before > 0.0 { db_from_gain((after / before).sqrt()) } else { 0.0 }
}

/// A steady level, linear, through the curves of a path.
fn through(path: &Path, level: f64) -> f64 {
    path.stages.iter().fold(level, |level, stage| {
        let asked = stage.effect.asked_dbfs(&stage.values, db_from_gain(level));
        let processed = asked.map_or(level, gain_from_db);
        let wet = stage.wet();
        (wet * processed + (1.0 - wet) * level) * stage.output_gain()
    })
}
