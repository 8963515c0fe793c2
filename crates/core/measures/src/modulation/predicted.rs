//! What the formulas of an effect that moves say of it.

use rustfft::num_complex::Complex64;

use super::notches::{HIGHEST_HZ, LOWEST_HZ, NOTCH};
use clear_bend_effects::modulation::Moment;
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;

/// Distance of the frequencies at which notches are looked for, Hz, and how often the place of one is halved.
const STEP_HZ: f64 = 2.5;
const HALVINGS: usize = 12;
/// Places of a cycle from which its lines are worked out.
const PLACES: usize = 2048;

/// What a stage makes of steady tones (Hz) on the left at a place of its cycle (cycles), at its mix; none where no formula says so.
#[must_use]
pub fn predicted(stage: &Stage, cycles: f64, freqs_hz: &[f64], rate_hz: u32) -> Option<Vec<Complex64>> {
    let moment = Moment { cycles, side: 0, rate_hz: f64::from(rate_hz) };
    let wet = stage.effect.at_moment(&stage.values, &moment, freqs_hz)?;
    Some(wet.iter().map(|wet| 1.0 - stage.mix + stage.mix * wet).collect())
}

/// Where notches should be under 20 kHz at a place of the cycle, Hz, from low to high; nothing where no formula says so.
#[must_use]
pub fn predicted_notches(stage: &Stage, cycles: f64, rate_hz: u32) -> Vec<f64> {
    let highest_hz = HIGHEST_HZ.min(0.49 * f64::from(rate_hz));
    let freqs_hz: Vec<f64> = (0..cast::floor((highest_hz - LOWEST_HZ) / STEP_HZ))
        .map(|k| LOWEST_HZ + STEP_HZ * cast::real(k))
        .collect();
    let power = |freqs_hz: &[f64]| -> Vec<f64> {
        let found = predicted(stage, cycles, freqs_hz, rate_hz).unwrap_or_default();
        found.iter().map(Complex64::norm_sqr).collect()
    };
    let powers = power(&freqs_hz);
    let mean = powers.iter().sum::<f64>() / cast::real(powers.len().max(1));
    let lowest = |k: usize| {
        let [before, here, after] = [powers[k - 1], powers[k], powers[k + 1]];
        here < before && here <= after && here < NOTCH * mean
    };
    (1..powers.len().saturating_sub(1))
        .filter(|k| lowest(*k))
        .map(|k| {
            let (mut at, mut reach) = (freqs_hz[k], STEP_HZ);
            for _ in 0..HALVINGS {
                reach *= 0.5;
                let around = power(&[at - reach, at, at + reach]);
                at += if around[0] < around[1] {
                    -reach
                } else if around[2] < around[1] {
                    reach
                } else {
                    0.0
                };
            }
            at
        })
        .collect()
}

/// The share of a tone (Hz) that should stand in each line beside it, for orders from `-most` to `most`; none where no formula says
/// so, and where cycles differ. They are the Fourier series of what the effect makes of the tone from moment to moment: the Bessel
/// functions of a delay that sways as a sine does (Abramowitz and Stegun 9.1.42 and 43), the two lines of a gain that does.
#[must_use]
pub fn predicted_lines(stage: &Stage, tone_hz: f64, most: usize, rate_hz: u32) -> Option<Vec<f64>> {
    if stage.effect.swing(&stage.values)?.wave.random > 0.0 {
        return None;
    }
    let at = |k: usize| {
        let cycles = cast::real(k) / cast::real(PLACES);
        predicted(stage, cycles, &[tone_hz], rate_hz)?.first().copied()
    };
    let mut cycle: Vec<Complex64> = (0..PLACES).map(at).collect::<Option<_>>()?;
    plans::complex_forward(PLACES).process(&mut cycle);
    Some((0..=2 * most).map(|k| cycle[(PLACES + k - most) % PLACES].norm() / cast::real(PLACES)).collect())
}
