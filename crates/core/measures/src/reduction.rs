//! What a gain over time amounts to.

use serde::Serialize;

use clear_bend_playing::render::Rendered;
use clear_bend_sound::cast;

/// Reductions smaller than this do not count as reduction, dB.
const NOTICED_DB: f32 = 0.1;

/// Summary of the gain reduction of a stage over a passage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Reduction {
    /// Mean of the reduction in dB over the whole passage (positive).
    pub mean_db: f64,
    /// Largest reduction, dB (positive).
    pub largest_db: f64,
    /// Share of the time with more than 0.1 dB of reduction, 0 to 1.
    pub share_of_time: f64,
    /// Mean reduction left where each onset but the first begins to act, dB (positive); none without onsets.
    pub left_at_next_onset_db: Option<f64>,
}

/// An onset is found at most this long after its sound begins, in frames of a rate.
pub(super) fn found_late(rate_hz: u32) -> usize {
    cast::frames(0.002, rate_hz)
}

impl Reduction {
    /// That of a stage that reduces nothing, such as one that is switched off.
    pub const NONE: Self =
        Self { mean_db: 0.0, largest_db: 0.0, share_of_time: 0.0, left_at_next_onset_db: None };

    /// Summarises a gain in dB per frame (0 or negative), which may move up to `ahead` frames before the sound that
    /// moves it. What is left at an onset is the least reduction of that time before it: from there on, the gain goes
    /// by the onset itself.
    #[must_use]
    pub fn of(gain_db: &[f32], onsets: &[usize], ahead: usize, rate_hz: u32) -> Self {
        let frames = cast::real(gain_db.len().max(1));
        let reduced = gain_db.iter().filter(|gain| **gain < -NOTICED_DB).count();
        let left: Vec<f64> = onsets
            .iter()
            .skip(1)
            .filter_map(|&onset| gain_db.get(onset.saturating_sub(ahead + found_late(rate_hz) + 1)..onset))
            .filter_map(|part| part.iter().copied().reduce(f32::max))
            .map(|gain| f64::from(-gain))
            .collect();
        Self {
            mean_db: positive(-gain_db.iter().map(|g| f64::from(*g)).sum::<f64>() / frames),
            largest_db: positive(f64::from(-gain_db.iter().copied().fold(0.0, f32::min))),
            share_of_time: cast::real(reduced) / frames,
            left_at_next_onset_db: (!left.is_empty())
                .then(|| positive(left.iter().sum::<f64>() / cast::real(left.len()))),
        }
    }

    /// That of a stage; none where it reports none.
    #[must_use]
    pub fn of_stage(rendered: &Rendered, stage: usize, onsets: &[usize]) -> Option<Self> {
        let gain = rendered.gain_db(stage)?;
        Some(Self::of(gain, onsets, rendered.ahead[stage], rendered.after.rate_hz()))
    }

    /// That of one band of a stage.
    #[must_use]
    pub fn of_band(rendered: &Rendered, stage: usize, band: usize, onsets: &[usize]) -> Option<Self> {
        let gain = rendered.band_gains_db(stage).nth(band)?;
        Some(Self::of(gain, onsets, rendered.ahead[stage], rendered.after.rate_hz()))
    }
}

/// The tiny gain that keeps a smoother away from denormal numbers is none.
fn positive(x: f64) -> f64 {
    if x < 1e-9 { 0.0 } else { x }
}
