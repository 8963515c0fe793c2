//! What effects that move make of steady tones at one moment of their cycle, by their formulas.

use std::f64::consts::{PI, SQRT_2, TAU};

use rustfft::num_complex::Complex64;

use super::Swing;
use super::swayed::{LEAST, OPEN_HZ, Sway};
use super::swung_gain::{GainSway, Law};
use clear_bend_sound::cast;

/// A moment of a cycle on one side.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// The place in the cycle, cycles.
    pub cycles: f64,
    /// 0 left, 1 right.
    pub side: usize,
    /// Sample rate, Hz: filters bend towards half of it.
    pub rate_hz: f64,
}

impl Moment {
    /// Where a swing is then, for what is ahead by some cycles.
    #[must_use]
    pub fn swung(&self, swing: &Swing, ahead: f64) -> f64 {
        let apart = if self.side == 1 { swing.apart } else { 0.0 };
        swing.wave.at(self.cycles + ahead + apart, swing.rate_hz)
    }
}

/// Delays against the dry sound, which go in again: s/(1 - g s), s being the sum of the voices, each turned by its delay.
#[must_use]
pub fn of_delays(sway: &Sway, moment: &Moment, freqs_hz: &[f64]) -> Vec<Complex64> {
    let again = sway.again(moment.side);
    let late_s = (sway.late_ms / 1000.0 * moment.rate_hz).round() / moment.rate_hz;
    let least_ms = 1000.0 * (LEAST / moment.rate_hz - late_s);
    let voices: Vec<(f64, f64)> = (0..sway.voices)
        .map(|voice| {
            let swung = moment.swung(&sway.swing, sway.ahead(voice));
            let delay_ms = (sway.delay_ms + sway.depth_ms * swung).max(least_ms);
            (sway.share(voice, moment.side), delay_ms / 1000.0)
        })
        .collect();
    let half = |hz: f64| (PI * (hz / moment.rate_hz).min(0.4999)).tan();
    let top = half(sway.tone_hz.min(0.49 * moment.rate_hz));
    let at = |hz: &f64| {
        let turn = TAU * hz;
        let sum: Complex64 = voices.iter().map(|(share, s)| Complex64::from_polar(*share, -turn * s)).sum();
        let late = Complex64::from_polar(again, -turn * late_s);
        // A Butterworth corner of second order, by the bilinear transform.
        let w = half(*hz) / top;
        let tone =
            if sway.tone_hz < OPEN_HZ { Complex64::new(1.0 - w * w, SQRT_2 * w).inv() } else { 1.0.into() };
        tone * sum / (1.0 - late * sum)
    };
    freqs_hz.iter().map(at).collect()
}

/// First-order all-passes in a row with a corner (Hz), which go in again with a feedback.
#[must_use]
pub fn of_all_passes(
    corner_hz: f64,
    sections: usize,
    feedback: f64,
    moment: &Moment,
    freqs_hz: &[f64],
) -> Vec<Complex64> {
    let half = |hz: f64| (PI * (hz / moment.rate_hz).min(0.4999)).tan();
    let corner = half(corner_hz.min(0.49 * moment.rate_hz));
    let at = |hz: &f64| {
        let w = half(*hz) / corner;
        // Each turns the phase and leaves the level.
        let all = Complex64::from_polar(1.0, -2.0 * cast::real(sections) * w.atan());
        all / (1.0 - feedback * all)
    };
    freqs_hz.iter().map(at).collect()
}

/// A gain, the same at so many frequencies.
#[must_use]
pub fn of_gain(sway: &GainSway, laws: [Law; 2], moment: &Moment, freqs: usize) -> Vec<Complex64> {
    let swung = moment.swung(&sway.swing, 0.0);
    let gain: f64 =
        laws.iter().zip(sway.laws).map(|(law, share)| share * law(swung, sway.depth, moment.side)).sum();
    vec![gain.into(); freqs]
}
