//! Everything that is offered, as the screen, the command line and the files read it.

use serde::Serialize;

use crate::{self as effects, Effect};
use clear_bend_catalogue::Param;
use clear_bend_catalogue::ear_maps::{self, EarMap, EarMapDocument, LONGEST_REGION_NAME};
use clear_bend_signals::design::{CURVES, MOST_PLACED, MOST_POINTS, PLACED};
use clear_bend_signals::{self as signals, LONGEST_RESPONSE_S, SignalKind};

/// Everything there is: read by the screen, the command line and the files.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Catalogue {
    /// All effects.
    pub effects: &'static [&'static Effect],
    /// All signals and demo sources.
    pub signals: &'static [&'static SignalKind],
    /// The curves of a designed response, and what can be set of a reflection that is placed by hand in it.
    pub curves: &'static [Param],
    /// See `curves`.
    pub placed: [Param; 3],
    /// The longest designed response, s, how many points a curve of it may have, and how many reflections may be placed by hand.
    pub longest_design_s: f64,
    /// See `longest_design_s`.
    pub most_points: usize,
    /// See `longest_design_s`.
    pub most_placed: usize,
    /// The ear maps that are shipped.
    pub ear_maps: Vec<EarMap>,
    /// An own ear map that has no regions yet.
    pub own_ear_map: EarMapDocument,
    /// The rules of own ear maps, in a sentence.
    pub ear_map_rules: String,
    /// The longest name of a region of one, in characters.
    pub longest_region_name: usize,
    /// The parameter of any effect that is the gain of its stage after the mix.
    pub output_param: &'static str,
}

/// The catalogue.
#[must_use]
pub fn catalogue() -> Catalogue {
    Catalogue {
        effects: effects::ALL,
        signals: signals::ALL,
        curves: CURVES,
        placed: PLACED,
        longest_design_s: LONGEST_RESPONSE_S,
        most_points: MOST_POINTS,
        most_placed: MOST_PLACED,
        ear_maps: ear_maps::shipped(),
        own_ear_map: EarMapDocument::new(Vec::new()),
        ear_map_rules: ear_maps::rules(),
        longest_region_name: LONGEST_REGION_NAME,
        output_param: effects::OUTPUT_ID,
    }
}
