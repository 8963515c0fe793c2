//! How a gain moves with the music, and how even that leaves it: evenness, pumping, ducking.

use ebur128::{EbuR128, Mode};
use serde::Serialize;

use crate::Buffer;
use crate::cast;

/// Phrases quieter than this do not count, LUFS: the absolute gate of EBU R 128.
const GATE_LUFS: f64 = -70.0;
/// Phrases this far under the mean of the others do not count, LU: the relative gate of EBU Tech 3342.
const RELATIVE_GATE_LU: f64 = 20.0;
/// Phrases are read this often, s.
const HOP_S: f64 = 0.1;
/// Length of a phrase, s.
const PHRASE_S: f64 = 3.0;

/// Standard deviation of the loudness of phrases (3 s, 100 ms apart, gated), LU; none where a passage holds fewer than
/// ten of them.
#[must_use]
pub fn evenness_lu(passage: &Buffer) -> Option<f64> {
    let channels = passage.channels();
    let mut meter = EbuR128::new(cast::small(channels.len()), passage.rate_hz(), Mode::S).ok()?;
    let hop = cast::frames(HOP_S, passage.rate_hz());
    let mut phrases = Vec::new();
    for (k, start) in (0..passage.frames()).step_by(hop).enumerate() {
        let end = (start + hop).min(passage.frames());
        let part: Vec<&[f32]> = channels.iter().map(|c| &c[start..end]).collect();
        meter.add_frames_planar_f32(&part).ok()?;
        if cast::real(k + 1) * HOP_S >= PHRASE_S - 1e-9 {
            phrases.push(meter.loudness_shortterm().ok()?);
        }
    }
    phrases.retain(|loudness| *loudness > GATE_LUFS);
    let power = phrases.iter().map(|l| 10f64.powf(l / 10.0)).sum::<f64>() / cast::real(phrases.len().max(1));
    let gate = 10.0 * power.log10() - RELATIVE_GATE_LU;
    phrases.retain(|loudness| *loudness >= gate);
    if phrases.len() < 10 {
        return None;
    }
    let count = cast::real(phrases.len());
    let mean = phrases.iter().sum::<f64>() / count;
    Some((phrases.iter().map(|l| (l - mean).powi(2)).sum::<f64>() / count).sqrt())
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
        let step = std::f64::consts::TAU * turns / cast::real(part.len());
        let mean = part.iter().map(|g| f64::from(*g)).sum::<f64>() / cast::real(part.len());
        let (sum_re, sum_im) = part.iter().enumerate().fold((0.0, 0.0), |(re, im), (i, gain)| {
            let (sin, cos) = (step * cast::real(i)).sin_cos();
            (re + (f64::from(*gain) - mean) * cos, im + (f64::from(*gain) - mean) * sin)
        });
        let amplitude = 2.0 * f64::hypot(sum_re, sum_im) / cast::real(part.len());
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

/// The ducking of a gain in dB per frame by a key with these onsets, frames.
#[must_use]
pub fn ducks(gain_db: &[f32], key_onsets: &[usize], rate_hz: u32) -> Vec<Duck> {
    let rate = f64::from(rate_hz);
    let ends = key_onsets.iter().copied().skip(1).chain([gain_db.len()]);
    let one = |(&start, end): (&usize, usize)| {
        let part = gain_db.get(start..end)?;
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
