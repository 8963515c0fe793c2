//! How far the pitch of a tone wobbles in the tail of a reverb whose delays move.

use std::f64::consts::TAU;

use rustfft::num_complex::Complex64;

use crate::modulation::through;
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;

/// The tone, Hz, at a quarter of full scale.
const TONE_HZ: f64 = 1000.0;
const LEVEL: f64 = 0.25;
/// It sounds for this long before its wet sound is looked at, and that is looked at for this long, s.
const BEFORE_S: f64 = 1.0;
const LOOKED_S: f64 = 2.0;
/// Frequencies are read off the turn of the phase over this long, s.
const OVER_S: f64 = 0.002;

/// The pitch of a held tone of 1 kHz in the wet sound: by how many cents it is off on the average, weighted by its power
/// (root mean square), over two seconds. A network at rest gives 0.
#[must_use]
pub fn wobble_cents(stage: &Stage, rate_hz: u32) -> Option<f64> {
    let mut wet = stage.by_itself();
    wet.mix = 1.0;
    let before = cast::frames(BEFORE_S, rate_hz);
    let turn = TAU * TONE_HZ / f64::from(rate_hz);
    let tone = |i: usize| cast::sample(LEVEL * (turn * cast::real(i)).sin());
    let sides = through(&wet, rate_hz, BEFORE_S + LOOKED_S, tone);
    let heard = &sides[wet.scope.heard_on()];
    // Turned back by the tone, what is left is how it wobbles; means over some milliseconds take twice the tone away.
    let step = cast::frames(OVER_S, rate_hz).max(1);
    let mut phasors = Vec::new();
    for (k, part) in heard[before..].chunks_exact(step).enumerate() {
        let turned = part.iter().enumerate().map(|(i, x)| {
            let at = cast::real(before + k * step + i);
            Complex64::from_polar(f64::from(*x), -turn * at)
        });
        phasors.push(turned.sum::<Complex64>());
    }
    let (mut weighted, mut power) = (0.0, 0.0);
    for pair in phasors.windows(2) {
        let product = pair[1] * pair[0].conj();
        let off_hz = product.arg() / (TAU * cast::real(step) / f64::from(rate_hz));
        let cents = 1200.0 * (1.0 + off_hz / TONE_HZ).max(1e-3).log2();
        weighted += product.norm() * cents * cents;
        power += product.norm();
    }
    (power > 0.0).then(|| (weighted / power).sqrt())
}
