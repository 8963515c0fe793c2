//! The modulation spectrum: how fast, and how far, the level of a sound sways.

use std::f64::consts::{SQRT_2, TAU};

use rustfft::num_complex::Complex64;
use serde::Serialize;

use super::tone::{LEVEL, lead_s, through};
use crate::log_freqs;
use clear_bend_effects::Swing;
use clear_bend_playing::path::Stage;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;

/// The range of the spectrum, Hz, and its points.
const RANGE_HZ: (f64, f64) = (0.1, 40.0);
const POINTS: usize = 240;
/// The envelope is kept at about this rate, Hz.
const ENVELOPE_HZ: f64 = 400.0;
/// A movement of which the passage holds fewer cycles is not told from a drift, nor from its own multiples.
const LEAST_CYCLES: f64 = 3.0;
/// Multiples of the oscillator's rate that are marked.
const MARKS: usize = 8;
/// More of a sound than this is not looked at, s.
const LONGEST_S: f64 = 64.0;

/// Where the oscillator's rate or a multiple of it lies.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RateMark {
    /// Which multiple.
    pub times: usize,
    /// Where, Hz.
    pub freq_hz: f64,
    /// The depth there before and after, as a share of the mean.
    pub depths: [f64; 2],
}

/// The spectrum of the envelope of a band, before and after.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ModulationSpectrum {
    /// The middle of the octave, Hz; none for all frequencies.
    pub band_hz: Option<f64>,
    /// Frequencies of the movement, Hz, at equal ratios, as far as the passage holds a cycle of them.
    pub freqs_hz: Vec<f64>,
    /// How far the envelope sways at each before and after, as a share of its mean; nothing where the band is silent.
    pub depths: [Vec<f64>; 2],
    /// The oscillator's rate and its multiples; nothing where it does not move.
    pub marks: Vec<RateMark>,
}

impl ModulationSpectrum {
    /// Of the left side of a passage, before and after, in the octave around a frequency (Hz) or in all.
    #[must_use]
    pub fn of(before: &Buffer, after: &Buffer, band_hz: Option<f64>, swing: Option<Swing>) -> Self {
        let rate_hz = before.rate_hz();
        let frames = before.frames().min(after.frames()).min(cast::frames(LONGEST_S, rate_hz));
        let envelopes = [before, after].map(|sound| {
            sound.channels().first().map(|samples| Envelope::of(&samples[..frames], rate_hz, band_hz))
        });
        let seconds = cast::real(frames) / f64::from(rate_hz);
        let least_hz = (LEAST_CYCLES / seconds.max(1e-9)).max(RANGE_HZ.0);
        let freqs_hz =
            if least_hz < RANGE_HZ.1 { log_freqs(least_hz, RANGE_HZ.1, POINTS) } else { Vec::new() };
        let heard =
            envelopes.each_ref().map(|envelope| envelope.as_ref().filter(|envelope| envelope.is_heard()));
        let marks = swing.filter(|swing| swing.held.is_none()).map(|swing| {
            let at = (1..=MARKS).map(|times| (times, cast::real(times) * swing.rate_hz));
            at.filter(|(_, hz)| (least_hz..=RANGE_HZ.1).contains(hz))
                .map(|(times, freq_hz)| {
                    let depths =
                        heard.map(|envelope| envelope.map_or(0.0, |envelope| envelope.depth(freq_hz)));
                    RateMark { times, freq_hz, depths }
                })
                .collect()
        });
        let depths =
            heard.map(|envelope| envelope.map(|envelope| envelope.depths(&freqs_hz)).unwrap_or_default());
        Self { band_hz, depths, freqs_hz, marks: marks.unwrap_or_default() }
    }
}

/// A held tone is looked at for so many whole cycles, or as many as come to the shorter of these times, but for no longer than the
/// other, s.
const TONE_CYCLES: f64 = 8.0;
const TONE_S: (f64, f64) = (4.0, 64.0);

impl ModulationSpectrum {
    /// Of a held tone (Hz) through a stage, over all frequencies; none where it does not move.
    #[must_use]
    pub fn of_tone(stage: &Stage, tone_hz: f64, rate_hz: u32) -> Option<Self> {
        let swing = stage.effect.swing(&stage.values)?;
        let cycles = TONE_CYCLES.max((TONE_S.0 * swing.rate_hz).ceil());
        let cycles = cycles.min(cast::down(TONE_S.1 * swing.rate_hz)).max(1.0);
        let seconds = (cycles / swing.rate_hz).min(TONE_S.1);
        let turn = TAU * tone_hz / f64::from(rate_hz);
        let before_s = lead_s(stage, rate_hz);
        let all = before_s + seconds;
        let tone = |i: usize| cast::sample(LEVEL * (turn * cast::real(i)).sin());
        let sides = through(&stage.by_itself(), rate_hz, all, tone);
        let heard = &sides[stage.scope.heard_on()];
        let from = cast::frames(before_s, rate_hz);
        let before: Vec<f32> = (from..heard.len()).map(tone).collect();
        let sound = |samples: &[f32]| Buffer::new(rate_hz, vec![samples.to_vec()]).ok();
        Some(Self::of(&sound(&before)?, &sound(&heard[from..])?, None, Some(swing)))
    }
}

/// The envelope of a band: the size of its analytic signal (Gabor 1946; Oppenheim and Schafer, "Discrete-time signal processing",
/// ch. 12).
struct Envelope {
    values: Vec<f64>,
    mean: f64,
    rate_hz: f64,
}

impl Envelope {
    fn of(samples: &[f32], rate_hz: u32, band_hz: Option<f64>) -> Self {
        let frames = samples.len().max(1);
        let mut line: Vec<Complex64> = samples.iter().map(|x| f64::from(*x).into()).collect();
        line.resize(frames, Complex64::ZERO);
        plans::complex_forward(frames).process(&mut line);
        let bin_hz = f64::from(rate_hz) / cast::real(frames);
        for (k, x) in line.iter_mut().enumerate() {
            let hz = cast::real(k) * bin_hz;
            let passed = band_hz.is_none_or(|band| (band / SQRT_2..band * SQRT_2).contains(&hz));
            *x *= if k == 0 || 2 * k >= frames || !passed { 0.0 } else { 2.0 / cast::real(frames) };
        }
        plans::complex_backward(frames).process(&mut line);
        // Means over pieces: what is faster than the range is not looked at.
        let piece = cast::floor(f64::from(rate_hz) / ENVELOPE_HZ).max(1);
        let mean =
            |piece: &[Complex64]| piece.iter().map(|x| x.norm()).sum::<f64>() / cast::real(piece.len());
        let values: Vec<f64> = line.chunks_exact(piece).map(mean).collect();
        let all = values.iter().sum::<f64>() / cast::real(values.len().max(1));
        Self { values, mean: all, rate_hz: f64::from(rate_hz) / cast::real(piece) }
    }

    /// Whether there is anything in the band, over -120 dBFS.
    fn is_heard(&self) -> bool {
        self.mean > 1e-6
    }

    /// How far it sways around each of some rising frequencies at equal ratios, as a share of its mean: the most on the way to
    /// the middles to its neighbours, so that no line falls between them.
    fn depths(&self, freqs_hz: &[f64]) -> Vec<f64> {
        let count = self.values.len();
        let window = |i: usize| (0.5 * TAU * (cast::real(i) + 0.5) / cast::real(count)).sin().powi(2);
        // Eight places between those of the passage itself: a line between two of them loses less than 0.1 %.
        let plan = plans::forward((8 * count).next_power_of_two());
        let (mut time, mut lines) = (plan.make_input_vec(), plan.make_output_vec());
        let (mut sum, mut mean) = (0.0, 0.0);
        for (i, value) in self.values.iter().enumerate() {
            sum += window(i);
            mean += window(i) * value;
        }
        for (i, (time, value)) in time.iter_mut().zip(&self.values).enumerate() {
            *time = window(i) * (value - mean / sum);
        }
        if plan.process(&mut time, &mut lines).is_err() {
            return Vec::new();
        }
        let bin_hz = self.rate_hz / cast::real(time.len());
        let half = freqs_hz.get(1).map_or(1.0, |second| (second / freqs_hz[0]).sqrt());
        let around = |hz: &f64| {
            let (low, high) = (cast::count(hz / half / bin_hz), cast::count(hz * half / bin_hz));
            // The slowest ones lie too near to the constant.
            if cast::real(count) * hz / self.rate_hz < 3.0 {
                return self.depth(*hz);
            }
            let most = lines[low.min(lines.len() - 1)..=high.min(lines.len() - 1)]
                .iter()
                .map(|x| x.norm())
                .fold(0.0, f64::max);
            2.0 * most / mean * self.smoothed(*hz)
        };
        freqs_hz.iter().map(around).collect()
    }

    /// By how much the means over pieces make a movement smaller.
    fn smoothed(&self, hz: f64) -> f64 {
        let half = 0.5 * TAU * hz / self.rate_hz;
        half / half.sin()
    }

    /// How far it sways at a frequency, as a share of its mean: the sine that fits best beside a constant, under a Hann window, so that
    /// other frequencies hardly count; what the means over pieces take is given back.
    fn depth(&self, hz: f64) -> f64 {
        let count = cast::real(self.values.len());
        let turn = TAU * hz / self.rate_hz;
        // Sums of products of 1, cosine, sine and the envelope.
        let mut sums = [[0.0; 4]; 3];
        for (i, value) in self.values.iter().enumerate() {
            let at = cast::real(i) + 0.5;
            let weight = (0.5 * TAU * at / count).sin().powi(2);
            let (sin, cos) = (turn * at).sin_cos();
            let parts = [1.0, cos, sin, *value];
            for (row, left) in sums.iter_mut().zip(parts) {
                row.iter_mut().zip(parts).for_each(|(sum, right)| *sum += weight * left * right);
            }
        }
        let Some([mean, cos, sin]) = solved(sums) else { return 0.0 };
        cos.hypot(sin) / mean * self.smoothed(hz)
    }
}

/// Three linear equations, the right side in the last column; none where they say nothing.
fn solved(mut rows: [[f64; 4]; 3]) -> Option<[f64; 3]> {
    for k in 0..3 {
        let pivot = (k..3).max_by(|a, b| rows[*a][k].abs().total_cmp(&rows[*b][k].abs()))?;
        rows.swap(k, pivot);
        let row = rows[k];
        if row[k].abs() < 1e-12 {
            return None;
        }
        for (_, other) in rows.iter_mut().enumerate().filter(|(i, _)| *i != k) {
            let share = other[k] / row[k];
            other.iter_mut().zip(row).for_each(|(x, y)| *x -= share * y);
        }
    }
    Some(std::array::from_fn(|k| rows[k][3] / rows[k][k]))
}
