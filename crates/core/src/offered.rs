//! Everything that is offered, as the screen, the command line and the files read it.

use serde::Serialize;

use crate::ear_maps::{self, EAR_MAP_SPAN_HZ, EarMap, EarMapDocument};
use crate::effects::{self, Effect};
use crate::signals::{self, SignalKind};

/// Everything there is: read by the screen, the command line and the files.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Catalogue {
    /// All effects.
    pub effects: &'static [&'static Effect],
    /// All signals and demo sources.
    pub signals: &'static [&'static SignalKind],
    /// The ear maps that are shipped.
    pub ear_maps: Vec<EarMap>,
    /// An own ear map that has no regions yet.
    pub own_ear_map: EarMapDocument,
    /// Where the regions of ear maps lie, Hz.
    pub ear_map_span_hz: [f64; 2],
    /// The parameter of any effect that is the gain of its stage after the mix.
    pub output_param: &'static str,
}

/// The catalogue.
#[must_use]
pub fn catalogue() -> Catalogue {
    Catalogue {
        effects: effects::ALL,
        signals: signals::ALL,
        ear_maps: ear_maps::shipped(),
        own_ear_map: EarMapDocument::new(Vec::new()),
        ear_map_span_hz: EAR_MAP_SPAN_HZ,
        output_param: effects::OUTPUT_ID,
    }
}
