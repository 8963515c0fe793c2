//! How a gain moves with the music, and how even that leaves it: evenness, pumping, ducking.

use serde::Serialize;

use super::partial;
use super::reduction::found_late;
use crate::cast;

/// Phrases quieter than this do not count, LUFS: the absolute gate of EBU R 128.
const GATE_LUFS: f64 = -70.0;
/// Phrases this far under the mean of the others do not count, LU: the relative gate of EBU Tech 3342.
const RELATIVE_GATE_LU: f64 = 20.0;
/// How often loudness is read for phrases, s.
pub(super) const HOP_S: f64 = 0.1;
/// Hops of a phrase: 3 s.
const PHRASE_HOPS: usize = 30;
/// Fewer phrases say nothing.
const LEAST_PHRASES: usize = 10;

/// Standard deviation of the loudness of phrases (3 s, 100 ms apart, gated), LU, from the loudness of every 100 ms,
/// LUFS; none where there are fewer than ten of them.
pub(super) fn evenness_lu(hops_lufs: &[f64]) -> Option<f64> {
    let powers: Vec<f64> = hops_lufs.iter().map(|l| 10f64.powf(l / 10.0)).collect();
    let mean = |powers: &[f64]| powers.iter().sum::<f64>() / cast::real(powers.len().max(1));
    let mut phrases: Vec<f64> = powers.windows(PHRASE_HOPS).map(mean).collect();
    phrases.retain(|power| *power > 10f64.powf(GATE_LUFS / 10.0));
    let gate = mean(&phrases) * 10f64.powf(-RELATIVE_GATE_LU / 10.0);
    phrases.retain(|power| *power >= gate);
    if phrases.len() < LEAST_PHRASES {
        return None;
    }
    let levels: Vec<f64> = phrases.iter().map(|power| 10.0 * power.log10()).collect();
    let middle = levels.iter().sum::<f64>() / cast::real(levels.len());
    let square = levels.iter().map(|l| (l - middle).powi(2)).sum::<f64>() / cast::real(levels.len());
    Some(square.sqrt())
}

/// How much a gain moves at the rate of the onsets.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Pumping {
    /// Onsets per second.
    pub rate_hz: f64,
    /// Part of the gain in dB that moves at that rate, peak to peak.
    pub depth_db: f64,
}

impl Pumping {
    /// Reads a gain in dB per frame; none with fewer than three onsets.
    #[must_use]
    pub fn of(gain_db: &[f32], onsets: &[usize], rate_hz: u32) -> Option<Self> {
        let [first, .., last] = onsets else { return None };
        if onsets.len() < 3 || gain_db.len() < *last {
            return None;
        }
        // From onset to onset there is a whole number of turns.
        let turns = cast::real(onsets.len() - 1);
        let part = &gain_db[*first..*last];
        let mean = part.iter().map(|g| f64::from(*g)).sum::<f64>() / cast::real(part.len());
        let turn = std::f64::consts::TAU * turns / cast::real(part.len());
        let amplitude = partial::amplitude(part.iter().map(|g| f64::from(*g) - mean), turn);
        Some(Self { rate_hz: turns * f64::from(rate_hz) / cast::real(part.len()), depth_db: 2.0 * amplitude })
    }
}

/// What one onset of a key does to the gain.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Duck {
    /// When the onset is, s.
    pub at_s: f64,
    /// Largest reduction until the next onset, dB (positive).
    pub depth_db: f64,
    /// Time from there until 63.2 % of it is back, ms; none where the next onset comes first.
    pub recovery_ms: Option<f64>,
}

/// The ducking of a gain in dB per frame by a key with these onsets, frames; the gain may move up to `ahead` frames
/// before its key does.
#[must_use]
pub fn ducks(gain_db: &[f32], key_onsets: &[usize], ahead: usize, rate_hz: u32) -> Vec<Duck> {
    let rate = f64::from(rate_hz);
    // From where the next onset begins to act, the gain is the next one's.
    let acts = |onset: usize| onset.saturating_sub(ahead + found_late(rate_hz) + 1);
    let ends = key_onsets.iter().copied().skip(1).map(acts).chain([gain_db.len()]);
    let one = |(&start, end): (&usize, usize)| {
        let part = gain_db.get(start..end.max(start + 1))?;
        let (deepest, depth) = part
            .iter()
            .enumerate()
            .min_by(|(_, a), (_, b)| a.total_cmp(b))
            .map(|(i, g)| (i, f64::from(-*g)))?;
        let back = part[deepest..].iter().position(|g| f64::from(-*g) <= depth * (-1f64).exp());
        Some(Duck {
            at_s: cast::real(start) / rate,
            depth_db: depth.max(0.0),
            recovery_ms: back.filter(|_| depth > 0.1).map(|frames| cast::real(frames) * 1000.0 / rate),
        })
    };
    key_onsets.iter().zip(ends).filter_map(one).collect()
}
