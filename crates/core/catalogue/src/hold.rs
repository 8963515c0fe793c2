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

/// A band that nobody has placed stands here, Hz.
const USUAL_HZ: f64 = 1000.0;
/// As far as bands that nobody has placed go down and up, Hz.
const EDGES_HZ: (f64, f64) = (40.0, 16_000.0);
/// A band stands in the way of another that is nearer than this, octaves.
const APART: f64 = 1.0 / 3.0;

/// Where a new band stands beside others at some frequencies, Hz: at the usual place, or, where one is near, in the middle of the widest
/// gap between them, in octaves, so that none hides another.
#[must_use]
pub fn free_place_hz(taken: &[f64]) -> f64 {
    if taken.iter().all(|hz| (hz / USUAL_HZ).log2().abs() >= APART) {
        return USUAL_HZ;
    }
    let mut all = vec![EDGES_HZ.0, EDGES_HZ.1];
    all.extend(taken.iter().filter(|hz| (EDGES_HZ.0..=EDGES_HZ.1).contains(*hz)));
    all.sort_by(f64::total_cmp);
    let gaps = all.windows(2).map(|pair| (pair[1] / pair[0], (pair[0] * pair[1]).sqrt()));
    // Of gaps alike, the lowest.
    gaps.fold((0.0, USUAL_HZ), |widest, gap| if gap.0 > widest.0 { gap } else { widest }).1
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::free_place_hz;

    #[test]
    fn a_dozen_new_bands_stand_apart() {
        let mut taken = Vec::new();
        for _ in 0..12 {
            taken.push(free_place_hz(&taken));
        }
        assert_eq!(taken[0], 1000.0);
        taken.sort_by(f64::total_cmp);
        let nearest = taken.windows(2).map(|pair| (pair[1] / pair[0]).log2()).fold(f64::MAX, f64::min);
        assert!(nearest > 0.33, "{nearest} octaves");
    }

    proptest! {
        /// Wherever others stand, a new one is heard and stands off them by half of an even share of the range at least.
        #[test]
        fn a_new_band_stands_where_there_is_room(taken in prop::collection::vec(10f64..24_000.0, 0..23)) {
            let hz = free_place_hz(&taken);
            prop_assert!((40.0..=16_000.0).contains(&hz));
            let range = (16_000f64 / 40.0).log2();
            let nearest = taken.iter().map(|other| (hz / other).log2().abs()).fold(f64::MAX, f64::min);
            prop_assert!(nearest >= 0.333f64.min(0.49 * range / clear_bend_sound::cast::real(taken.len() + 1)), "{nearest} octaves at {hz} Hz");
        }
    }
}
