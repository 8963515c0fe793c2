//! Peak, true peak, RMS, crest factor and loudness.

use ebur128::{EbuR128, Mode};
use serde::Serialize;

use super::movement::{HOP_S, evenness_lu, phrases_lufs, range_lu};
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::{TRUE_STEREO, both_inputs};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Between, energy, peak};
use clear_bend_sound::level::{db_from_gain, db_from_power};

/// [`HOP_S`] as the meter takes it.
const HOP_MS: u32 = 100;

/// Shorter passages have no loudness range, s.
const LEAST_RANGE_S: f64 = 4.0;

/// The levels of a passage. Silence is negative infinity, which JSON shows as `null`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Levels {
    /// Largest absolute sample of any channel, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub peak_dbfs: f64,
    /// True peak after ITU-R BS.1770 Annex 2, dBTP: at sixteen places for every sample, where the standard asks for four at
    /// least, and with a longer filter than its example, which reads up to 0.6 dB less near 20 kHz.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub true_peak_dbtp: f64,
    /// Root mean square over all channels, dBFS; a full-scale sine is -3.01.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub rms_dbfs: f64,
    /// Peak minus RMS, dB; none for silence.
    pub crest_db: Option<f64>,
    /// Integrated loudness after ITU-R BS.1770 and EBU R 128, LUFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub loudness_lufs: f64,
    /// Loudness range after EBU Tech 3342, LU; none under 4 s, ten windows of 3 s that begin 100 ms apart, and where
    /// nothing passes the gate.
    pub range_lu: Option<f64>,
    /// Standard deviation of the loudness of phrases (3 s, 100 ms apart, gated), LU; none where there are fewer than
    /// ten of them.
    pub evenness_lu: Option<f64>,
}

impl Levels {
    /// Measures a passage.
    #[must_use]
    pub fn of(passage: &Buffer) -> Self {
        let peak_dbfs = db_from_gain(f64::from(largest(passage)));
        let rms_dbfs = rms_dbfs(passage.channels().iter().map(Vec::as_slice));
        let (loudness_lufs, range_lu, evenness_lu) = standard_levels(passage);
        Self {
            peak_dbfs,
            // The peak of the wave cannot lie below the samples themselves.
            true_peak_dbtp: true_peak_dbtp(passage).max(peak_dbfs),
            rms_dbfs,
            crest_db: crest(peak_dbfs, rms_dbfs),
            loudness_lufs,
            range_lu,
            evenness_lu,
        }
    }
}

/// The levels that need no oversampling: enough for tables and level matches, in a fraction of the time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PlainLevels {
    /// Largest absolute sample of any channel, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub peak_dbfs: f64,
    /// Root mean square over all channels, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub rms_dbfs: f64,
    /// Peak minus RMS, dB; none for silence.
    pub crest_db: Option<f64>,
    /// Integrated loudness, LUFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub loudness_lufs: f64,
}

impl PlainLevels {
    /// Measures a passage.
    #[must_use]
    pub fn of(passage: &Buffer) -> Self {
        let mut meter = PeakAndLoudness::new(passage.channels().len(), passage.rate_hz());
        meter.add(passage.channels());
        let (peak_dbfs, loudness_lufs) = meter.found();
        let rms_dbfs = rms_dbfs(passage.channels().iter().map(Vec::as_slice));
        Self { peak_dbfs, rms_dbfs, crest_db: crest(peak_dbfs, rms_dbfs), loudness_lufs }
    }

    /// Integrated loudness, LUFS, or the RMS level, dBFS, where the passage is too short or too quiet for it.
    #[must_use]
    pub fn loudness_or_rms(&self) -> f64 {
        if self.loudness_lufs.is_finite() { self.loudness_lufs } else { self.rms_dbfs }
    }
}

impl From<&Levels> for PlainLevels {
    fn from(levels: &Levels) -> Self {
        let Levels { peak_dbfs, rms_dbfs, crest_db, loudness_lufs, .. } = *levels;
        Self { peak_dbfs, rms_dbfs, crest_db, loudness_lufs }
    }
}

impl Levels {
    /// Integrated loudness, LUFS, or the RMS level, dBFS, where the passage is too short or too quiet for it.
    #[must_use]
    pub fn loudness_or_rms(&self) -> f64 {
        PlainLevels::from(self).loudness_or_rms()
    }
}

/// Root mean square of several stretches of samples taken together, dBFS.
pub(super) fn rms_dbfs<'a>(parts: impl Iterator<Item = &'a [f32]>) -> f64 {
    let (mut sum, mut count) = (0.0, 0);
    for part in parts {
        sum += energy(part);
        count += part.len();
    }
    db_from_power(if count == 0 { 0.0 } else { sum / cast::real(count) })
}

/// Peak minus RMS, dB; none for silence.
#[must_use]
pub fn crest_db(passage: &Buffer) -> Option<f64> {
    let peak_dbfs = db_from_gain(f64::from(largest(passage)));
    crest(peak_dbfs, rms_dbfs(passage.channels().iter().map(Vec::as_slice)))
}

fn crest(peak_dbfs: f64, rms_dbfs: f64) -> Option<f64> {
    Some(peak_dbfs - rms_dbfs).filter(|crest| crest.is_finite())
}

/// As [`Levels::loudness_or_rms`], without reading the other levels.
#[must_use]
pub fn loudness_or_rms(passage: &Buffer) -> f64 {
    let loudness = fed(passage, Mode::I).and_then(|meter| meter.loudness_global().ok());
    loudness
        .filter(|loudness| loudness.is_finite())
        .unwrap_or_else(|| rms_dbfs(passage.channels().iter().map(Vec::as_slice)))
}

/// Peak and integrated loudness alone, of a passage that comes block by block: for long sounds, where the other levels take time.
#[derive(Debug)]
pub struct PeakAndLoudness {
    peak: f32,
    /// None where the rate or the number of channels has no loudness.
    meter: Option<EbuR128>,
}

impl PeakAndLoudness {
    /// For so many channels at this rate, Hz.
    #[must_use]
    pub fn new(channels: usize, rate_hz: u32) -> Self {
        let played = cast::small(channels.min(2));
        Self { peak: 0.0, meter: EbuR128::new(played, rate_hz, Mode::I).ok() }
    }

    /// Takes in the next samples of all channels.
    pub fn add(&mut self, block: &[Vec<f32>]) {
        self.peak = block.iter().map(|channel| peak(channel)).fold(self.peak, f32::max);
        // A true stereo response is as loud as what both of its inputs together give.
        let played = (block.len() == TRUE_STEREO).then(|| both_inputs(block));
        let block = played.as_deref().unwrap_or(block);
        let channels: Vec<&[f32]> = block.iter().map(Vec::as_slice).collect();
        if self.meter.as_mut().is_some_and(|meter| meter.add_frames_planar_f32(&channels).is_err()) {
            self.meter = None;
        }
    }

    /// The largest absolute sample so far, dBFS, and the integrated loudness so far, LUFS.
    #[must_use]
    pub fn found(&self) -> (f64, f64) {
        let loudness = self.meter.as_ref().and_then(|meter| meter.loudness_global().ok());
        (db_from_gain(f64::from(self.peak)), loudness.unwrap_or(f64::NEG_INFINITY))
    }
}

/// Largest absolute sample of any channel, dBFS.
#[must_use]
pub fn peak_dbfs(passage: &Buffer) -> f64 {
    db_from_gain(f64::from(largest(passage)))
}

/// Largest absolute sample of any channel.
fn largest(passage: &Buffer) -> f32 {
    passage.channels().iter().map(|c| peak(c)).fold(0.0, f32::max)
}

/// The largest place of the wave between its samples, dBTP, with silence around the passage.
#[must_use]
pub fn true_peak_dbtp(passage: &Buffer) -> f64 {
    let channels = passage.channels();
    let alike = matches!(channels, [left, right] if left == right);
    let mut largest = 0.0f32;
    for channel in channels.iter().take(if alike { 1 } else { 2 }) {
        let mut between = Between::new(BLOCK);
        let mut peaks = [0.0; BLOCK];
        for block in channel.chunks(BLOCK) {
            between.raise(block, largest, &mut peaks[..block.len()]);
            largest = peaks.into_iter().fold(largest, f32::max);
        }
        // What is still on its way.
        between.raise(&[0.0; Between::LATENCY + 2], largest, &mut peaks[..Between::LATENCY + 2]);
        largest = peaks.into_iter().fold(largest, f32::max);
    }
    db_from_gain(f64::from(largest))
}

/// Frames that are looked at in one go.
const BLOCK: usize = 256;

/// Integrated loudness in LUFS, loudness range in LU, evenness in LU.
fn standard_levels(passage: &Buffer) -> (f64, Option<f64>, Option<f64>) {
    let silent = (f64::NEG_INFINITY, None, None);
    let channels = cast::small(passage.channels().len());
    let Ok(mut meter) = EbuR128::new(channels, passage.rate_hz(), Mode::I) else {
        return silent;
    };
    let hop = cast::frames(HOP_S, passage.rate_hz());
    let mut hops_lufs = Vec::with_capacity(passage.frames() / hop);
    for start in (0..passage.frames()).step_by(hop) {
        let end = (start + hop).min(passage.frames());
        let part: Vec<&[f32]> = passage.channels().iter().map(|c| &c[start..end]).collect();
        if meter.add_frames_planar_f32(&part).is_err() {
            return silent;
        }
        if end - start == hop {
            hops_lufs.push(meter.loudness_window(HOP_MS).unwrap_or(f64::NEG_INFINITY));
        }
    }
    let loudness = meter.loudness_global().unwrap_or(f64::NEG_INFINITY);
    let phrases = phrases_lufs(&hops_lufs);
    let range = range_lu(&phrases).filter(|_| loudness.is_finite() && passage.seconds() >= LEAST_RANGE_S);
    (loudness, range, evenness_lu(&phrases))
}

fn fed(passage: &Buffer, mode: Mode) -> Option<EbuR128> {
    let mut meter = EbuR128::new(cast::small(passage.channels().len()), passage.rate_hz(), mode).ok()?;
    let channels: Vec<&[f32]> = passage.channels().iter().map(Vec::as_slice).collect();
    meter.add_frames_planar_f32(&channels).ok()?;
    Some(meter)
}

/// Windows of momentary and short-term loudness, s.
const MOMENTARY_S: f64 = 0.4;
const SHORT_TERM_S: f64 = 3.0;
/// How often the loudest of them is looked for, s: a burst as long as the window is met to within 0.06 dB.
const LOOK_S: f64 = 0.01;

/// The loudest momentary (400 ms) and short-term (3 s) loudness, LUFS, after EBU Tech 3341; none where the passage
/// does not fill the window.
#[must_use]
pub fn loudest_moments(passage: &Buffer) -> (Option<f64>, Option<f64>) {
    let channels = cast::small(passage.channels().len());
    let Ok(mut meter) = EbuR128::new(channels, passage.rate_hz(), Mode::M | Mode::S) else {
        return (None, None);
    };
    let (mut momentary, mut short_term) = (None, None);
    let raise = |most: &mut Option<f64>, found: f64| *most = Some(most.map_or(found, |most| most.max(found)));
    let step = cast::frames(LOOK_S, passage.rate_hz());
    let full = |window_s: f64, at: usize| at >= cast::frames(window_s, passage.rate_hz());
    for start in (0..passage.frames()).step_by(step) {
        let end = (start + step).min(passage.frames());
        let part: Vec<&[f32]> = passage.channels().iter().map(|c| &c[start..end]).collect();
        if meter.add_frames_planar_f32(&part).is_err() {
            break;
        }
        if full(MOMENTARY_S, end) {
            raise(&mut momentary, meter.loudness_momentary().unwrap_or(f64::NEG_INFINITY));
        }
        // Longer windows move less from one look to the next.
        if full(SHORT_TERM_S, end) && (start / step % 10 == 9 || end == passage.frames()) {
            raise(&mut short_term, meter.loudness_shortterm().unwrap_or(f64::NEG_INFINITY));
        }
    }
    (momentary, short_term)
}
