//! The loop region: any part of a source, cut so that it closes without a click.

use serde::{Deserialize, Serialize};

use crate::audio::Buffer;
use crate::cast;
use crate::refusal::Refusal;

/// The longest region that runs through a path at once, s. Longer sources are worked on region by region.
pub const LONGEST_REGION_S: f64 = 60.0;
/// The shortest region, s.
pub const SHORTEST_REGION_S: f64 = 0.1;
/// Over this time the end of a region fades into what leads to its start, s.
const SEAM_S: f64 = 0.005;
/// A boundary snaps to an onset within this distance, as a share of what is on show.
const SNAP_SHARE: f64 = 0.02;
/// A region that snaps begins this much before its onset, s, so that the onset is whole.
const BEFORE_ONSET_S: f64 = 0.001;

/// A part of a source.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Region {
    /// Where it begins, s.
    pub from_s: f64,
    /// Where it ends, s.
    pub to_s: f64,
}

impl Region {
    /// Accepts a region of a usual length.
    ///
    /// # Errors
    /// Refuses negative times, times beyond ten minutes, and lengths under 0.1 or over 60 s.
    pub fn check(self) -> Result<Self, Refusal> {
        if !(0.0..=crate::audio::LONGEST_S).contains(&self.from_s) {
            return Err(Refusal::new("from_s", self.from_s, "0 to 600 s"));
        }
        let length = self.to_s - self.from_s;
        // A boundary that was moved by a pixel more or less is no mistake.
        if !(SHORTEST_REGION_S - 1e-6..=LONGEST_REGION_S + 1e-6).contains(&length) {
            return Err(Refusal::new("to_s", self.to_s, "0.1 to 60 s after from_s"));
        }
        Ok(self)
    }

    /// The region between two places, in either order, brought to an accepted length within a source.
    #[must_use]
    pub fn between(a_s: f64, b_s: f64, source_s: f64) -> Self {
        let source_s = source_s.max(SHORTEST_REGION_S);
        let from_s = a_s.min(b_s).clamp(0.0, source_s - SHORTEST_REGION_S);
        let to_s = a_s.max(b_s).clamp(from_s + SHORTEST_REGION_S, from_s + LONGEST_REGION_S);
        Self { from_s, to_s: to_s.min(source_s) }
    }

    /// What is worked on where no region is chosen: all of a source, or its first minute.
    #[must_use]
    pub fn usual(source_s: f64) -> Self {
        Self { from_s: 0.0, to_s: source_s.min(LONGEST_REGION_S) }
    }
}

/// Where a region begins and ends in a source, frames; one that lies beyond the source counts as none.
#[must_use]
pub fn frames_of(source: &Buffer, region: Option<Region>) -> std::ops::Range<usize> {
    let usual = Region::usual(source.seconds());
    let Region { from_s, to_s } = region.filter(|r| r.from_s < source.seconds()).unwrap_or(usual);
    let frame = |seconds| cast::frames(seconds, source.rate_hz()).min(source.frames());
    frame(from_s)..frame(to_s)
}

/// The samples of a region. The whole of a source is left as it is; of a part, the end fades into what leads to
/// its start, so that it repeats without a click.
#[must_use]
pub fn cut(source: &Buffer, region: Option<Region>) -> Buffer {
    let range = frames_of(source, region);
    let mut part = source.slice(range.clone());
    let frames = part.frames();
    if frames == source.frames() {
        return part;
    }
    let seam = cast::frames(SEAM_S, source.rate_hz()).min(frames / 2);
    for (out, whole) in part.channels_mut().iter_mut().zip(source.channels()) {
        for i in 0..seam {
            let share = cast::sample(cast::real(i + 1) / cast::real(seam));
            // Before the very start of a source there is silence.
            let lead = (range.start + i).checked_sub(seam).map_or(0.0, |at| whole[at]);
            let x = &mut out[frames - seam + i];
            *x = (1.0 - share) * *x + share * lead;
        }
    }
    part
}

/// A place, moved to just before the nearest onset if one is near; `shown_s` is the length that is on show.
#[must_use]
pub fn snapped(at_s: f64, onsets_s: &[f64], shown_s: f64) -> f64 {
    let starts = onsets_s.iter().map(|onset| (onset - BEFORE_ONSET_S).max(0.0));
    let nearest = starts.min_by(|a, b| (a - at_s).abs().total_cmp(&(b - at_s).abs()));
    nearest.filter(|start| (start - at_s).abs() <= SNAP_SHARE * shown_s).unwrap_or(at_s)
}
