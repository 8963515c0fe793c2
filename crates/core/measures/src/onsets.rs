//! Onsets: where sounds begin, and how loud their parts are.

use serde::Serialize;

use super::levels::rms_dbfs;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::peak as block_peak;
use clear_bend_sound::level::db_from_gain;

/// The level must rise by this much to count as an onset, dB.
const RISE_DB: f64 = 6.0;
/// Quieter beginnings are not onsets, dBFS.
const QUIETEST_DBFS: f64 = -60.0;
/// Levels are read this often, s.
const HOP_S: f64 = 0.001;
/// The rise is measured against the loudest hop between these two distances before, in hops: far enough
/// for the half waves of a low drum, near enough for quick hits; an attack may take the shorter one.
const AGAINST_HOPS: std::ops::Range<usize> = 5..25;
/// Shortest distance of two onsets, hops.
const APART_HOPS: usize = 60;

/// Where sounds begin, as frames, in order.
///
/// The passage counts as a loop: its start is compared with its end. An onset is a rise of 6 dB or more
/// within 5 ms over the loudest of the 20 ms before.
#[must_use]
pub fn find_onsets(passage: &Buffer) -> Vec<usize> {
    let hop = cast::frames(HOP_S, passage.rate_hz()).max(1);
    let levels = hop_levels_dbfs(passage, hop);
    let hops = levels.len();
    if hops <= AGAINST_HOPS.end {
        return Vec::new();
    }
    let before = |k: usize| {
        AGAINST_HOPS.map(|distance| levels[(k + hops - distance) % hops]).fold(f64::NEG_INFINITY, f64::max)
    };
    let mut onsets: Vec<usize> = Vec::new();
    let mut next_allowed = 0;
    for k in 0..hops {
        let background = before(k);
        if k < next_allowed || levels[k] < QUIETEST_DBFS || levels[k] < background + RISE_DB {
            continue;
        }
        // The first hop of the rise.
        let rise =
            (k.saturating_sub(AGAINST_HOPS.start)..=k).find(|&j| levels[j] > background + RISE_DB / 2.0);
        onsets.push(rise.unwrap_or(k) * hop);
        next_allowed = k + APART_HOPS;
    }
    onsets
}

/// Peak of every hop over all channels, dBFS.
fn hop_levels_dbfs(passage: &Buffer, hop: usize) -> Vec<f64> {
    let mut peaks = vec![0.0f32; passage.frames() / hop];
    for channel in passage.channels() {
        for (peak, samples) in peaks.iter_mut().zip(channel.chunks_exact(hop)) {
            *peak = peak.max(block_peak(samples));
        }
    }
    peaks.into_iter().map(|peak| db_from_gain(f64::from(peak))).collect()
}

/// The levels of the parts of one onset. Silence is negative infinity, which JSON shows as `null`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct OnsetLevels {
    /// Largest absolute sample of the first 20 ms, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub transient_dbfs: f64,
    /// RMS from 20 to 120 ms, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub body_dbfs: f64,
    /// RMS of the last third before the next onset, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub between_dbfs: f64,
}

/// The levels of every onset; the last one reaches to the end of the passage.
#[must_use]
pub fn onset_levels(passage: &Buffer, onsets: &[usize]) -> Vec<OnsetLevels> {
    let after = |start: usize, seconds: f64| start + cast::frames(seconds, passage.rate_hz());
    let ends = onsets.iter().copied().skip(1).chain([passage.frames()]);
    onsets
        .iter()
        .zip(ends)
        .map(|(&start, end)| {
            let part = |from: usize, to: usize| {
                let (from, to) = (from.min(end), to.min(end));
                passage.channels().iter().map(move |c| &c[from..to.max(from)])
            };
            let transient = part(start, after(start, 0.02)).map(block_peak).fold(0.0, f32::max);
            OnsetLevels {
                transient_dbfs: db_from_gain(f64::from(transient)),
                body_dbfs: rms_dbfs(part(after(start, 0.02), after(start, 0.12))),
                between_dbfs: rms_dbfs(part(end - (end - start) / 3, end)),
            }
        })
        .collect()
}
