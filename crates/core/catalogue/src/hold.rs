//! What of an effect can be taken hold of otherwise than by its sliders: which parameters a picture or a list may move, by their
//! roles, so that nobody has to know an effect by name.

use serde::Serialize;

use super::List;

/// Parameters by the role that they play.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(tag = "what", rename_all = "kebab-case")]
pub enum Hold {
    /// The level at which it begins to act on the level of the whole sound, and the width of its knee.
    Level {
        /// The level.
        param: &'static str,
        /// The knee, if it has one.
        knee: Option<&'static str>,
    },
    /// Bands that come and go one by one; in every id, # stands for the number of the band.
    Bands {
        /// What the band does; the first choice is that there is none.
        kind: &'static str,
        /// Its switch.
        on: &'static str,
        /// Its frequency.
        freq: &'static str,
        /// Its gain.
        gain: &'static str,
        /// Its Q.
        q: &'static str,
        /// The steepness of a cut.
        slope: &'static str,
        /// The part of a stereo signal that it works on.
        scope: &'static str,
    },
    /// What is heard of it for the ear, and of which band.
    Hear {
        /// What is heard.
        param: &'static str,
        /// The number of the band.
        band: Option<&'static str>,
    },
}

impl Hold {
    /// The list in which the parameters of bands stand in files.
    #[must_use]
    pub fn list(&self) -> Option<List> {
        match self {
            Self::Bands { kind, .. } => Some(List { id: "bands", there: kind.trim_end_matches("_#") }),
            _ => None,
        }
    }
}
