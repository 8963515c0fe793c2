//! Energies of a response: how clear it is (ISO 3382-1), and how alike its sides are.

use rustfft::num_complex::Complex64;
use serde::Serialize;

use super::record::RoomResponse;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;

/// What is read off the energies of a response as it is heard.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Energies {
    /// Energy of the first 50 ms over that of the rest, dB; none where nothing comes later.
    pub c50_db: Option<f64>,
    /// The same for 80 ms, dB.
    pub c80_db: Option<f64>,
    /// Share of the energy that comes within the first 50 ms, 0 to 1.
    pub d50: Option<f64>,
    /// Middle of the energy over time, ms.
    pub centre_ms: Option<f64>,
    /// Energy of the direct sound over that of what is reverberant, dB; none where one of them is missing.
    pub direct_db: Option<f64>,
}

impl Energies {
    /// Reads a response.
    #[must_use]
    pub fn of(response: &RoomResponse) -> Self {
        let rate_hz = f64::from(response.rate_hz);
        let until = |seconds: f64| cast::count(seconds * rate_hz);
        let (at_50, at_80) = (until(0.05), until(0.08));
        let (mut all, mut by_50, mut by_80, mut direct, mut moment) = (0.0, 0.0, 0.0, 0.0, 0.0);
        for side in &response.sides {
            for (i, x) in side.iter().enumerate() {
                let is_direct = i < response.direct_frames;
                let gain = response.heard[usize::from(!is_direct)];
                let energy = (gain * f64::from(*x)).powi(2);
                all += energy;
                by_50 += if i < at_50 { energy } else { 0.0 };
                by_80 += if i < at_80 { energy } else { 0.0 };
                direct += if is_direct { energy } else { 0.0 };
                moment += energy * cast::real(i);
            }
        }
        let ratio = |early: f64, late: f64| (early > 0.0 && late > 0.0).then(|| db_from_power(early / late));
        Self {
            c50_db: ratio(by_50, all - by_50),
            c80_db: ratio(by_80, all - by_80),
            d50: (all > 0.0).then(|| by_50 / all),
            centre_ms: (all > 0.0).then(|| 1000.0 * moment / all / rate_hz),
            direct_db: ratio(direct, all - direct),
        }
    }
}

/// The correlation of left and right around a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct CorrelationPoint {
    /// Middle of the window, s after the impulse.
    pub at_s: f64,
    /// From -1 to 1.
    pub correlation: f64,
}

/// The correlation of both sides, -1 to 1; none where one of them is silent.
#[must_use]
pub fn correlation(sides: &[Vec<f32>; 2]) -> Option<f64> {
    correlated(sides[0].iter().zip(&sides[1]).map(|(l, r)| (f64::from(*l), f64::from(*r))))
}

/// The same of an octave, whose real part is the left side, and whose imaginary part the right one.
#[must_use]
pub fn correlation_of(samples: &[Complex64]) -> Option<f64> {
    correlated(samples.iter().map(|x| (x.re, x.im)))
}

fn correlated(pairs: impl Iterator<Item = (f64, f64)>) -> Option<f64> {
    let (ll, rr, lr) =
        pairs.fold((0.0, 0.0, 0.0), |(ll, rr, lr), (l, r)| (ll + l * l, rr + r * r, lr + l * r));
    (ll > 0.0 && rr > 0.0).then(|| (lr / (ll * rr).sqrt()).clamp(-1.0, 1.0))
}

/// The correlation over time, in windows of 50 ms that lie half over each other; silent ones are left out.
#[must_use]
pub fn correlation_over_time(sides: &[Vec<f32>; 2], rate_hz: u32) -> Vec<CorrelationPoint> {
    let length = cast::frames(0.05, rate_hz);
    let frames = sides[0].len();
    let windows = (0..frames.saturating_sub(length)).step_by((length / 2).max(1));
    windows
        .filter_map(|from| {
            let part = sides.each_ref().map(|side| side[from..from + length].to_vec());
            let at_s = cast::real(from + length / 2) / f64::from(rate_hz);
            Some(CorrelationPoint { at_s, correlation: correlation(&part)? })
        })
        .collect()
}
