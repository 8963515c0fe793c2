//! What air takes of a sound on its way (ISO 9613-1:1993, formulas 3 to 5; from memory).

use rustfft::num_complex::Complex64;

use clear_bend_catalogue::METRES_PER_S;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans::{sound_of, spectrum_of};
use clear_bend_sound::level::gain_from_db;

/// How warm the air of rooms is, °C.
const CELSIUS: f64 = 20.0;
/// Absolute zero, °C.
const ZERO_CELSIUS: f64 = -273.15;
/// The temperature of the standard's reference, and that of the triple point of water, K.
const REFERENCE_K: f64 = 293.15;
const TRIPLE_K: f64 = 273.16;

/// What a room's air may be.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Air {
    /// Its name among the choices.
    pub name: &'static str,
    /// Relative humidity, %.
    pub humidity_percent: f64,
}

/// Air of 20 °C, by how humid it is.
pub const AIRS: [Air; 3] = [
    Air { name: "dry", humidity_percent: 20.0 },
    Air { name: "usual", humidity_percent: 50.0 },
    Air { name: "damp", humidity_percent: 80.0 },
];

impl Air {
    /// What is lost at a frequency (Hz), dB for every metre.
    #[must_use]
    pub fn db_per_m(&self, freq_hz: f64) -> f64 {
        air_db_per_m(freq_hz, CELSIUS, self.humidity_percent)
    }
}

/// What air of a temperature and a relative humidity (%) takes at a frequency (Hz) under usual pressure, dB for every metre.
#[must_use]
pub fn air_db_per_m(freq_hz: f64, celsius: f64, humidity_percent: f64) -> f64 {
    let kelvin = celsius - ZERO_CELSIUS;
    let warm = kelvin / REFERENCE_K;
    // The share of water by molecules, %: the pressure at which air is full of it, against the usual one.
    let full = 10f64.powf(-6.8346 * (TRIPLE_K / kelvin).powf(1.261) + 4.6151);
    let water = humidity_percent * full;
    let oxygen_hz = 24.0 + 4.04e4 * water * (0.02 + water) / (0.391 + water);
    let nitrogen_hz =
        warm.powf(-0.5) * (9.0 + 280.0 * water * (-4.170 * (warm.powf(-1.0 / 3.0) - 1.0)).exp());
    let relaxing = |part: f64, needs_k: f64, at_hz: f64| {
        part * (-needs_k / kelvin).exp() / (at_hz + freq_hz * freq_hz / at_hz)
    };
    let classical = 1.84e-11 * warm.sqrt();
    let relaxed =
        warm.powf(-2.5) * (relaxing(0.012_75, 2239.1, oxygen_hz) + relaxing(0.1068, 3352.0, nitrogen_hz));
    8.686 * freq_hz * freq_hz * (classical + relaxed)
}

/// Samples over which air takes the same, of a response at usual rates: some 5 ms, in which sound goes less than two metres.
const STRETCH: usize = 256;

/// A response after air has taken its part: what comes at a moment has been on its way for as long, whatever walls it has met. `begins_s` is the
/// time of its first sample after the sound left the source.
#[must_use]
pub(super) fn through_air(dry: &[f64], air: Air, begins_s: f64, rate: f64) -> Vec<f64> {
    let mut wet = vec![0.0; dry.len()];
    let length = 4 * STRETCH;
    let losses: Vec<f64> =
        (0..=length / 2).map(|bin| air.db_per_m(cast::real(bin) * rate / cast::real(length))).collect();
    // Stretches that overlap by half, whose weights add up to one; what a filter without a phase spreads lies to both sides.
    for k in 0..dry.len() / STRETCH + 2 {
        let (middle, half) = (k * STRETCH, STRETCH);
        let mut time = vec![0.0; length];
        for (n, x) in time.iter_mut().enumerate().take(length / 2 + half).skip(length / 2 - half) {
            let away = cast::real(n.abs_diff(length / 2)) / cast::real(half);
            let weight = (std::f64::consts::FRAC_PI_2 * away).cos().powi(2);
            *x = (middle + n).checked_sub(length / 2).and_then(|at| dry.get(at)).map_or(0.0, |x| weight * x);
        }
        if time.iter().all(|x| *x == 0.0) {
            continue;
        }
        let way_m = METRES_PER_S * (begins_s + cast::real(middle) / rate).max(0.0);
        let mut spectrum: Vec<Complex64> = spectrum_of(time);
        let scale = 1.0 / cast::real(length);
        spectrum.iter_mut().zip(&losses).for_each(|(x, loss)| *x *= scale * gain_from_db(-loss * way_m));
        for (n, y) in sound_of(spectrum, length).into_iter().enumerate() {
            if let Some(wet) = (middle + n).checked_sub(length / 2).and_then(|at| wet.get_mut(at)) {
                *wet += y;
            }
        }
    }
    wet
}
