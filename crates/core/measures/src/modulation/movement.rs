//! All that is measured of a movement, so that it is measured once.

use super::notches::{Notches, lowest_notches};
use super::tone::{Sway, tone_sway};
use clear_bend_catalogue::Picture;
use clear_bend_playing::path::Stage;

/// Places of a cycle at which the lowest notch is looked for.
const PLACES: usize = 16;

/// What a movement does to a held tone and to the notches.
#[derive(Debug, Clone, PartialEq)]
pub struct Movement {
    /// How a held tone sways.
    pub sway: Sway,
    /// The notches in the middle of the cycle, or where it is held; none where the effect shows none.
    pub notches: Option<Notches>,
    /// The lowest notch through the cycle, Hz; nothing where the effect shows none.
    pub lowest_hz: Vec<Option<f64>>,
}

impl Movement {
    /// Measures a stage; none where it does not move.
    #[must_use]
    pub fn of(stage: &Stage, rate_hz: u32) -> Option<Self> {
        let sway = tone_sway(stage, rate_hz)?;
        let shows = stage.effect.pictures.contains(&Picture::Notches);
        Some(Self {
            sway,
            notches: shows.then(|| notches_now(stage, rate_hz)).flatten(),
            lowest_hz: if shows { lowest_through_cycle(stage, rate_hz) } else { Vec::new() },
        })
    }
}

/// The notches in the middle of the cycle, or where it is held; none where the stage does not move.
#[must_use]
pub fn notches_now(stage: &Stage, rate_hz: u32) -> Option<Notches> {
    Notches::of(stage, stage.effect.swing(&stage.values)?.held.unwrap_or(0.0), rate_hz)
}

/// The lowest notch at evenly spread places of the cycle, Hz.
#[must_use]
pub fn lowest_through_cycle(stage: &Stage, rate_hz: u32) -> Vec<Option<f64>> {
    lowest_notches(stage, PLACES, rate_hz)
}
