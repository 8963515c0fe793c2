//! How a gain moves with the music, and how even that leaves it: evenness, pumping, ducking.

use serde::Serialize;

use super::partial;
use super::reduction::found_late;
use clear_bend_sound::cast;

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

/// The loudness of phrases (3 s, 100 ms apart) that are not gated out, LUFS, from that of every 100 ms.
pub(super) fn phrases_lufs(hops_lufs: &[f64]) -> Vec<f64> {
    let powers: Vec<f64> = hops_lufs.iter().map(|l| 10f64.powf(l / 10.0)).collect();
    let mean = |powers: &[f64]| powers.iter().sum::<f64>() / cast::real(powers.len().max(1));
    let mut phrases: Vec<f64> = powers.windows(PHRASE_HOPS).map(mean).collect();
    phrases.retain(|power| *power > 10f64.powf(GATE_LUFS / 10.0));
    let gate = mean(&phrases) * 10f64.powf(-RELATIVE_GATE_LU / 10.0);
    phrases.retain(|power| *power >= gate);
    phrases.iter().map(|power| 10.0 * power.log10()).collect()
}

/// Standard deviation of the loudness of phrases, LU; none where there are fewer than ten of them.
pub(super) fn evenness_lu(phrases_lufs: &[f64]) -> Option<f64> {
    if phrases_lufs.len() < LEAST_PHRASES {
        return None;
    }
    let count = cast::real(phrases_lufs.len());
    let middle = phrases_lufs.iter().sum::<f64>() / count;
    let square = phrases_lufs.iter().map(|l| (l - middle).powi(2)).sum::<f64>() / count;
    Some(square.sqrt())
}

/// Loudness range: from the tenth to the ninety-fifth percentile of the loudness of phrases, LU (EBU Tech 3342); none where there are fewer
/// than ten of them.
pub(super) fn range_lu(phrases_lufs: &[f64]) -> Option<f64> {
    if phrases_lufs.len() < LEAST_PHRASES {
        return None;
    }
    let mut sorted = phrases_lufs.to_vec();
    sorted.sort_by(f64::total_cmp);
    let percentile = |share: f64| sorted[cast::floor(share * cast::real(sorted.len() - 1) + 0.5)];
    Some(percentile(0.95) - percentile(0.1))
}

/// How much a gain moves in time with the onsets.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Pumping {
    /// How often a second it moves: of the beat, its halves and its multiples, where it moves most.
    pub rate_hz: f64,
    /// Part of the gain in dB that moves at that rate, peak to peak.
    pub depth_db: f64,
}

/// The beat is looked for among the middle distances of onsets with so many others between them, and of those the halves and multiples.
const ONSETS_IN_A_BEAT: usize = 8;
const OF_THE_BEAT: [f64; 5] = [0.5, 1.0, 2.0, 3.0, 4.0];
/// Faster than this, Hz, a gain no longer pumps: it is heard as roughness.
const FASTEST_HZ: f64 = 16.0;
/// So many cycles have to be in the passage.
const LEAST_CYCLES: f64 = 2.0;

impl Pumping {
    /// Reads a gain in dB per frame; none with fewer than three onsets.
    #[must_use]
    pub fn of(gain_db: &[f32], onsets: &[usize], rate_hz: u32) -> Option<Self> {
        let [first, .., last] = onsets else { return None };
        if onsets.len() < 3 || gain_db.len() < *last {
            return None;
        }
        let rate = f64::from(rate_hz);
        let beat_hz = |count: usize| {
            let mut apart: Vec<usize> = onsets.windows(count + 1).map(|some| some[count] - some[0]).collect();
            apart.sort_unstable();
            Some(rate / cast::real((*apart.get(apart.len() / 2)?).max(1)))
        };
        let beats_hz = (1..=ONSETS_IN_A_BEAT).filter_map(beat_hz);
        let rates = beats_hz.flat_map(|beat| OF_THE_BEAT.map(|times| beat * times));
        let found = rates.filter_map(|hz| Self::at(gain_db, *first, hz, rate));
        found.max_by(|a, b| a.depth_db.total_cmp(&b.depth_db))
    }

    /// The part that moves at a rate, over as many whole cycles as there are from the first onset on.
    fn at(gain_db: &[f32], first: usize, hz: f64, rate: f64) -> Option<Self> {
        let cycle = rate / hz;
        let cycles = cast::down(cast::real(gain_db.len() - first) / cycle);
        if cycles < LEAST_CYCLES || hz > FASTEST_HZ {
            return None;
        }
        let part = gain_db.get(first..first + cast::count(cycles * cycle).min(gain_db.len() - first))?;
        let mean = part.iter().map(|g| f64::from(*g)).sum::<f64>() / cast::real(part.len());
        let turn = std::f64::consts::TAU / cycle;
        let amplitude = partial::amplitude(part.iter().map(|g| f64::from(*g) - mean), turn);
        Some(Self { rate_hz: hz, depth_db: 2.0 * amplitude })
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
