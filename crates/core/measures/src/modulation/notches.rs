//! Notches of an effect whose movement is held still: its response to an impulse at one place of the cycle.

use serde::Serialize;

use clear_bend_effects::Setup;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{energy, plans};
use clear_bend_sound::level::db_from_power;

/// Notches are looked for up to here, Hz.
pub(super) const HIGHEST_HZ: f64 = 20_000.0;
pub(super) const LOWEST_HZ: f64 = 20.0;
/// A notch is at least this far under the mean power: 3 dB.
pub(super) const NOTCH: f64 = 0.5;
/// Between two notches it rises by so much over the higher one: half a decibel.
const STANDS_OUT: f64 = 1.122;
/// Points of spectra, at least, at up to 48 kHz, twice as many at up to 96 kHz: for all notches, and for the way of one.
const LONG: usize = 1 << 18;
pub(super) const SHORT: usize = 1 << 15;
/// A response is recorded in pieces of so many frames, at up to 48 kHz, and no more of them than this.
const PIECE: usize = 1 << 11;
const MOST_PIECES: usize = 1 << 8;
/// It has ended when a piece has less than this share of all energy, 110 dB; where it never comes so far, it is held to be whole under the
/// other one, 60 dB: else nothing is read off it.
const ENDED: f64 = 1e-11;
const WHOLE: f64 = 1e-6;

/// The response at one place of the cycle, of the left side.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Notches {
    /// Notches under 20 kHz, Hz, from low to high.
    pub freqs_hz: Vec<f64>,
    /// How deep each of them is under the mean, dB.
    pub depths_db: Vec<f64>,
    /// The mean power up to 20 kHz, dB.
    pub mean_db: f64,
    /// The highest of all, dB.
    pub peak_db: f64,
    /// Where that is, Hz.
    pub peak_hz: f64,
}

impl Notches {
    /// Measures a stage that moves, as it is heard at its mix, with its movement held so many cycles on; none where it does not
    /// move, and where it rings for longer than it is recorded.
    #[must_use]
    pub fn of(stage: &Stage, cycles: f64, rate_hz: u32) -> Option<Self> {
        Some(Self::of_power(&power(stage, cycles, rate_hz, LONG)?, rate_hz))
    }

    pub(super) fn of_power(power: &[f64], rate_hz: u32) -> Self {
        let bin_hz = 0.5 * f64::from(rate_hz) / cast::real(power.len() - 1);
        let last = cast::count(HIGHEST_HZ / bin_hz).min(power.len() - 2);
        let range = cast::count(LOWEST_HZ / bin_hz).max(1)..=last;
        let looked = &power[range.clone()];
        let mean = looked.iter().sum::<f64>() / cast::real(looked.len());
        let mut peak = (0.0, 0);
        let (mut places, mut since): (Vec<usize>, f64) = (Vec::new(), 0.0);
        for k in range {
            let [before, here, after] = [power[k - 1], power[k], power[k + 1]];
            if here > peak.0 {
                peak = (here, k);
            }
            since = since.max(here);
            if !(here < before && here <= after && here < NOTCH * mean) {
                continue;
            }
            match places.last_mut() {
                // Two low places with nothing between them are one: the ground of a broad notch is never quite even.
                Some(last) if since < STANDS_OUT * here.max(power[*last]) => {
                    if here < power[*last] {
                        *last = k;
                    }
                }
                _ => places.push(k),
            }
            since = here;
        }
        let (freqs_hz, depths_db) = places
            .into_iter()
            .map(|k| {
                let [before, here, after] = [power[k - 1], power[k], power[k + 1]];
                // Power is a parabola around a notch.
                let off = 0.5 * (before - after) / (before - 2.0 * here + after);
                let depth = db_from_power((here - 0.25 * (before - after) * off).max(0.0) / mean).max(-200.0);
                ((cast::real(k) + off) * bin_hz, depth)
            })
            .unzip();
        Self {
            freqs_hz,
            depths_db,
            mean_db: db_from_power(mean),
            peak_db: db_from_power(peak.0),
            peak_hz: cast::real(peak.1) * bin_hz,
        }
    }
}

/// The lowest notch at so many places of a cycle, Hz; none where there is none.
#[must_use]
pub fn lowest_notches(stage: &Stage, places: usize, rate_hz: u32) -> Vec<Option<f64>> {
    let at = |k: usize| power(stage, cast::real(k) / cast::real(places), rate_hz, SHORT);
    (0..places).map(|k| Notches::of_power(&at(k)?, rate_hz).freqs_hz.first().copied()).collect()
}

/// The power over frequency of the left side, or of the one that the stage works on, from 0 Hz to half the rate; none where it rings for
/// longer than it is recorded.
pub(super) fn power(stage: &Stage, cycles: f64, rate_hz: u32, points: usize) -> Option<Vec<f64>> {
    let times = cast::count(f64::from(rate_hz) / 48_000.0).max(1);
    let values = stage.effect.held(&stage.values, cycles)?;
    let held = Stage { values, ..stage.by_itself() };
    let mut chain = Chain::new(&Path { stages: vec![held] }, Setup { rate_hz, max_block: 512 });
    let mut record: Vec<f32> = Vec::new();
    let (mut all, mut last) = (0.0, 0.0);
    for piece in 0..MOST_PIECES {
        let mut sides = [(); 2].map(|()| vec![0.0f32; times * PIECE]);
        if piece == 0 {
            sides.iter_mut().zip(stage.scope.reached()).for_each(|(side, impulse)| side[0] = impulse);
        }
        let [left, right] = &mut sides;
        chain.process(&mut [left, right], record.len());
        let heard = &sides[stage.scope.heard_on()];
        last = energy(heard);
        all += last;
        record.extend_from_slice(heard);
        if piece > 0 && last <= ENDED * all {
            break;
        }
    }
    if last > WHOLE * all {
        return None;
    }
    let points = (times * points).max((2 * record.len()).next_power_of_two());
    let plan = plans::forward(points);
    let (mut time, mut spectrum) = (plan.make_input_vec(), plan.make_output_vec());
    time.iter_mut().zip(&record).for_each(|(t, x)| *t = f64::from(*x));
    plan.process(&mut time, &mut spectrum).ok()?;
    Some(spectrum.iter().map(|x| x.norm_sqr()).collect())
}
