//! Mains hum: a tone at the frequency of the mains that never stops, with its multiples.

use serde::Serialize;

use super::partial;
use super::room::hann;
use super::spectrum::{Transform, Window, channel_samples, starts};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;
use clear_bend_sound::scope::Scope;

/// Hum of the mains in a passage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Hum {
    /// The mains, Hz: 50 or 60.
    pub mains_hz: f64,
    /// Its frequency as it is found, Hz.
    pub freq_hz: f64,
    /// Which multiples of it stand out, itself as 1.
    pub multiples: Vec<usize>,
}

/// What the mains may be, Hz.
const MAINS_HZ: [f64; 2] = [50.0, 60.0];
/// How far mains leave that, Hz (common practice: networks hold theirs within a fifth of that, by 0.2 Hz in trouble).
const STRAYS_HZ: f64 = 0.3;
/// Multiples that are looked for.
const MULTIPLES: usize = 12;
/// So many of them have to stand out.
const LEAST: usize = 3;
/// By so much, over the median of what lies around, dB.
const LEAST_DB: f64 = 10.0;
/// In so much of the time.
const LEAST_SHARE: f64 = 0.75;
/// What lies around, Hz to both sides.
const AROUND_HZ: f64 = 15.0;
/// Stretches are at most this long, s, and at least that; a shorter passage shows no hum.
const LONGEST_S: f64 = 3.0;
const SHORTEST_S: f64 = 0.6;

impl Hum {
    /// Finds it, if there is any: in what both sides have in common, or else in what they have not.
    #[must_use]
    pub fn find(sound: &Buffer) -> Option<Self> {
        [Scope::Mid, Scope::Side].into_iter().find_map(|scope| Self::find_on(sound, scope))
    }

    fn find_on(sound: &Buffer, scope: Scope) -> Option<Self> {
        let rate_hz = f64::from(sound.rate_hz());
        // At least three stretches that overlap by half.
        let most = cast::count(LONGEST_S * rate_hz).min(sound.frames() / 2).max(1);
        let frames = if most.is_power_of_two() { most } else { most.next_power_of_two() / 2 };
        if cast::real(frames) < SHORTEST_S * rate_hz {
            return None;
        }
        let mut transform = Transform::new(Window::Hann, frames);
        let mut mean = vec![0.0; transform.bins()];
        let spectra: Vec<Vec<f64>> = starts(sound.frames(), frames, frames / 2)
            .map(|start| {
                let mut powers = vec![0.0; transform.bins()];
                transform.add_powers(channel_samples(sound, scope, start), 1.0, &mut powers);
                mean.iter_mut().zip(&powers).for_each(|(mean, power)| *mean += power);
                powers
            })
            .collect();
        let bin_hz = rate_hz / cast::real(frames);
        let samples: Vec<f64> = channel_samples(sound, scope, 0).collect();
        let found = MAINS_HZ.into_iter().filter_map(|mains_hz| at(mains_hz, &mean, &spectra, bin_hz));
        found.filter_map(|hum| hum.that_never_stops(&samples, rate_hz)).max_by_key(|hum| hum.multiples.len())
    }

    /// Whether a frequency is one of the multiples that stand out.
    #[must_use]
    pub fn holds(&self, freq_hz: f64) -> bool {
        self.multiples.iter().any(|k| (freq_hz / (cast::real(*k) * self.freq_hz)).ln().abs() < 0.03)
    }

    /// Of the multiples those that are heard all the time; none where too few are left.
    fn that_never_stops(mut self, samples: &[f64], rate_hz: f64) -> Option<Self> {
        let steady = |k: &usize| {
            let freq_hz = cast::real(*k) * self.freq_hz;
            let [below, here, above] =
                [-BESIDE_HZ, 0.0, BESIDE_HZ].map(|off| levels_at(samples, freq_hz + off, rate_hz));
            let beside = below.iter().zip(&above).map(|(below, above)| 0.5 * (below + above));
            let heard = here.iter().zip(beside).filter(|(here, beside)| **here > STANDS * beside).count();
            cast::real(heard) >= STEADY_SHARE * cast::real(here.len())
        };
        self.multiples.retain(steady);
        (self.multiples.len() >= LEAST && self.multiples.iter().any(|k| k % 2 == 1)).then_some(self)
    }
}

/// The power at a frequency (Hz) over Hann windows, one after the other, up to a factor.
fn levels_at(samples: &[f64], freq_hz: f64, rate_hz: f64) -> Vec<f64> {
    let weights = hann(cast::count(STEADY_S * rate_hz).max(1));
    let turn = std::f64::consts::TAU * freq_hz / rate_hz;
    let power = |part: &[f64]| {
        partial::amplitude(part.iter().zip(&weights).map(|(x, weight)| x * weight), turn).powi(2)
    };
    samples.chunks_exact(weights.len()).map(power).collect()
}

/// Whether it never stops is looked at over windows so long, s: there it has to stand so far over what lies so far beside it (as a power, and
/// Hz), in so much of the time. Single windows may be drowned by what sounds above.
const STEADY_S: f64 = 0.25;
const STANDS: f64 = 4.0;
const BESIDE_HZ: f64 = 12.5;
const STEADY_SHARE: f64 = 0.6;

/// The hum of mains of one frequency.
fn at(mains_hz: f64, mean: &[f64], spectra: &[Vec<f64>], bin_hz: f64) -> Option<Hum> {
    let stands_out = |k: usize| -> Option<f64> {
        let (from, to) = (cast::real(k) * (mains_hz - STRAYS_HZ), cast::real(k) * (mains_hz + STRAYS_HZ));
        let peak = highest(mean, from / bin_hz, to / bin_hz)?;
        let stands = |powers: &&Vec<f64>| over_around_db(powers, peak, bin_hz) >= LEAST_DB;
        let share = cast::real(spectra.iter().filter(stands).count()) / cast::real(spectra.len());
        (share >= LEAST_SHARE).then(|| between(mean, peak) * bin_hz)
    };
    let found: Vec<(usize, f64)> = (1..=MULTIPLES).filter_map(|k| Some((k, stands_out(k)?))).collect();
    // Higher multiples tell the frequency more finely, and all of them have to tell the same.
    let weights: f64 = found.iter().map(|(k, _)| cast::real(k * k)).sum();
    let freq_hz = found.iter().map(|(k, hz)| cast::real(*k) * hz).sum::<f64>() / weights;
    let agrees = |(k, hz): &&(usize, f64)| (hz / cast::real(*k) - freq_hz).abs() < 0.5 * bin_hz;
    let multiples: Vec<usize> = found.iter().filter(agrees).map(|(k, _)| *k).collect();
    // Octaves and fifths alone may be a chord.
    let odd = multiples.iter().any(|k| k % 2 == 1);
    (multiples.len() >= LEAST && odd && (freq_hz - mains_hz).abs() <= STRAYS_HZ).then_some(Hum {
        mains_hz,
        freq_hz,
        multiples,
    })
}

/// The highest bin between two places that is higher than its neighbours.
fn highest(powers: &[f64], from: f64, to: f64) -> Option<usize> {
    let places = cast::floor(from).max(1)..=cast::floor(to) + 1;
    let is_peak = |i: &usize| {
        powers.get(i - 1..i + 2).is_some_and(|three| three[1] >= three[0] && three[1] >= three[2])
    };
    places.filter(is_peak).max_by(|a, b| powers[*a].total_cmp(&powers[*b]))
}

/// How far the surroundings of a bin lie under it or its neighbours, dB.
fn over_around_db(powers: &[f64], peak: usize, bin_hz: f64) -> f64 {
    let reach = cast::count(AROUND_HZ / bin_hz).max(8);
    let mut around: Vec<f64> =
        powers[peak.saturating_sub(reach)..(peak + reach + 1).min(powers.len())].to_vec();
    around.sort_by(f64::total_cmp);
    let top = powers[peak - 1..=peak + 1].iter().copied().fold(0.0, f64::max);
    db_from_power((top + 1e-30) / (around[around.len() / 2] + 1e-30))
}

/// The place of a peak between bins: of the parabola through three levels in dB.
fn between(powers: &[f64], peak: usize) -> f64 {
    let [a, b, c] = [peak - 1, peak, peak + 1].map(|i| db_from_power(powers[i] + 1e-30));
    let bend = a - 2.0 * b + c;
    cast::real(peak) + if bend < 0.0 { 0.5 * (a - c) / bend } else { 0.0 }
}
