//! The curves of an equaliser by its formulas.

use std::f64::consts::PI;

use rustfft::num_complex::Complex64;

use super::linear::{self, Length};
use super::settings::{Band, Phase, Settings};
use crate::{BandCurve, Curves, ScopeCurve};
use clear_bend_sound::cast;
use clear_bend_sound::level::{db_from_gain, gain_from_db};
use clear_bend_sound::scope::Scope;

/// The curves of these values at some frequencies.
#[must_use]
pub fn curves(values: &[f64], rate_hz: u32, freqs_hz: &[f64]) -> Curves {
    let settings = Settings::from_values(values);
    let rate = f64::from(rate_hz);
    let tangents: Vec<f64> = freqs_hz.iter().map(|f| (PI * (f / rate).min(0.499_999)).tan()).collect();
    let turned = turned(settings.phase);
    let working: Vec<(Band, Vec<(f64, f64)>)> =
        settings.working().map(|band| (band, response(&band, rate, turned, &tangents))).collect();
    let on = settings.bands.iter().enumerate().filter(|(_, band)| band.on);
    let bands = on.map(|(i, band)| {
        // Most of them are worked out already.
        let known = working.iter().find(|(other, _)| other == band);
        let of = |response: &[(f64, f64)]| response.iter().map(|(gain, _)| db_from_gain(*gain)).collect();
        let gains_db =
            known.map_or_else(|| of(&response(band, rate, turned, &tangents)), |(_, response)| of(response));
        BandCurve { number: i + 1, gains_db }
    });
    let input = gain_from_db(settings.input_db);
    let sum = |scope: Scope| {
        let works = |band: &Band| scope == Scope::Stereo || [Scope::Stereo, scope].contains(&band.scope);
        let mut all = vec![(input, 0.0); freqs_hz.len()];
        for (_, response) in working.iter().filter(|(band, _)| works(band)) {
            for ((gain, phase), (by, turn)) in all.iter_mut().zip(response) {
                *gain *= by;
                *phase += turn;
            }
        }
        if settings.phase != Phase::Minimum {
            let bands = || working.iter().map(|(band, _)| *band).filter(|band| works(band));
            hold(&settings, rate_hz, freqs_hz, input, bands, &mut all);
        }
        ScopeCurve {
            scope,
            gains_db: all.iter().map(|(gain, _)| db_from_gain(*gain)).collect(),
            phases_deg: all.iter().map(|(_, phase)| phase.to_degrees()).collect(),
        }
    };
    Curves {
        bands: bands.collect(),
        sums: channels(&settings).into_iter().map(sum).collect(),
        places_hz: places_hz(&settings),
    }
}

/// The centres of all bands and of their copies, with the edges to both sides, Hz.
fn places_hz(settings: &Settings) -> Vec<f64> {
    let bands = settings.bands.iter().filter(|band| band.on);
    let shapes =
        bands.flat_map(|band| (0..band.build.copies()).map(|copy| band.build.copy(&band.shape, copy)));
    shapes.flat_map(|shape| EDGES.map(|edge| shape.freq_hz * (0.5 * edge / shape.q.max(0.1)).exp())).collect()
}

/// Places around the centre of a band, in its widths.
const EDGES: [f64; 5] = [-1.0, -0.5, 0.0, 0.5, 1.0];

/// Replaces the curve, gain and phase, by what the kernel holds of it, around bands that are too narrow for it.
fn hold<B: Iterator<Item = Band>>(
    settings: &Settings,
    rate_hz: u32,
    freqs_hz: &[f64],
    input: f64,
    bands: impl Fn() -> B,
    curve: &mut [(f64, f64)],
) {
    let length = Length::of(settings, rate_hz);
    let rate = f64::from(rate_hz);
    let narrow: Vec<Band> = bands().filter(|band| !length.holds(band, rate)).collect();
    let mut known = std::collections::BTreeMap::new();
    for (freq_hz, (gain, phase)) in freqs_hz.iter().zip(curve) {
        let felt = narrow.iter().any(|band| {
            let mut centres = (0..band.build.copies()).map(|copy| band.build.copy(&band.shape, copy).freq_hz);
            centres.any(|centre_hz| (centre_hz - freq_hz).abs() < length.felt_hz(rate))
        });
        if !felt {
            continue;
        }
        let mut at_bin = |bin: usize| {
            *known.entry(bin).or_insert_with(|| {
                let hz = cast::real(bin) * length.bin_hz(rate);
                input
                    * bands().map(|band| response_at(&band, rate, settings.phase, hz)).product::<Complex64>()
            })
        };
        let held = linear::held(length, rate, *freq_hz, &mut at_bin);
        // The phase stays next to what it was: it has no jumps.
        (*gain, *phase) = (held.norm(), *phase + (held * Complex64::from_polar(1.0, -*phase)).arg());
    }
}

/// The channels whose curves differ.
fn channels(settings: &Settings) -> Vec<Scope> {
    let any = |test: fn(Scope) -> bool| settings.working().any(|band| test(band.scope));
    let mut channels = Vec::new();
    if any(|scope| matches!(scope, Scope::Left | Scope::Right)) {
        channels.extend([Scope::Left, Scope::Right]);
    }
    if any(Scope::is_sum) {
        channels.extend([Scope::Mid, Scope::Side]);
    }
    if channels.is_empty() {
        channels.push(Scope::Stereo);
    }
    channels
}

/// The share of its own phase that a curve has.
fn turned(phase: Phase) -> f64 {
    match phase {
        Phase::Minimum => 1.0,
        Phase::Linear => 0.0,
        Phase::Balanced => 0.5,
    }
}

/// The response of a band at one frequency.
fn response_at(band: &Band, rate_hz: f64, phase: Phase, freq_hz: f64) -> Complex64 {
    let tangent = (PI * (freq_hz / rate_hz).min(0.499_999)).tan();
    let (gain, phase) = response(band, rate_hz, turned(phase), &[tangent])[0];
    Complex64::from_polar(gain, phase)
}

/// Gain (linear) and phase (radians) of a band, with a share of its own phase.
fn response(band: &Band, rate_hz: f64, turned: f64, tangents: &[f64]) -> Vec<(f64, f64)> {
    let mut all = vec![(1.0, 0.0); tangents.len()];
    band.build.each_section(&band.shape, rate_hz, |_, section| {
        for ((gain, phase), tangent) in all.iter_mut().zip(tangents) {
            *gain *= section.magnitude_at(*tangent);
            *phase += turned * section.phase_at(*tangent);
        }
    });
    if band.taken {
        all.iter_mut().for_each(|(gain, phase)| {
            (*gain, *phase) = (1.0 - Complex64::from_polar(*gain, *phase)).to_polar();
        });
    }
    all
}

/// The complex response of the first band by its formula, as it acts in minimum phase.
#[must_use]
pub fn band_response(values: &[f64], rate_hz: u32, freq_hz: f64) -> Complex64 {
    let settings = Settings::from_values(values);
    let tangent = (PI * freq_hz / f64::from(rate_hz)).tan();
    let mut whole = Complex64::ONE;
    settings.bands[0].build.each_section(&settings.bands[0].shape, f64::from(rate_hz), |_, section| {
        whole *= section.response_at(tangent);
    });
    whole
}

/// The phase, and whether its kernel is the long one.
#[must_use]
pub fn form(values: &[f64], rate_hz: u32) -> usize {
    let settings = Settings::from_values(values);
    match settings.phase {
        Phase::Minimum => 0,
        phase => 2 * (phase as usize) + usize::from(Length::of(&settings, rate_hz).is_long()),
    }
}

/// What the settings do that no control shows: bands that are kept under half the rate, and the delay.
#[must_use]
pub fn remark(values: &[f64], rate_hz: u32) -> Option<String> {
    let settings = Settings::from_values(values);
    let highest = super::section::HIGHEST_SHARE * f64::from(rate_hz);
    let over = settings.bands.iter().filter(|band| band.on && band.shape.freq_hz > highest).count();
    let over = (over > 0).then(|| {
        let (bands, stand) = if over == 1 { ("band", "stands") } else { ("bands", "stand") };
        let highest = clear_bend_catalogue::Unit::Hz.text(highest);
        format!("*{over}* {bands} would lie over half the sample rate and {stand} at *{highest}*, the highest there is.")
    });
    let missing = settings.hear != super::settings::Hear::All && settings.audition().is_none();
    let missing = missing.then(|| {
        format!("Band *{}*, which is to be heard, is not there, so everything is.", settings.heard + 1)
    });
    let late = (settings.phase != Phase::Minimum).then(|| {
        let frames = Length::of(&settings, rate_hz).latency();
        let late_ms = 1000.0 * cast::real(frames) / f64::from(rate_hz);
        let all_pass =
            settings.bands.iter().any(|band| band.on && band.build.kind == super::design::Kind::AllPass);
        let nothing = if all_pass && settings.phase == Phase::Linear {
            " An all-pass has nothing to do there."
        } else {
            ""
        };
        format!(
            "Linear and balanced phase come *{}* late; before is held back as long.{nothing}",
            clear_bend_catalogue::Unit::Ms.text(late_ms)
        )
    });
    let coarse = (settings.phase != Phase::Minimum).then(|| too_narrow(&settings, rate_hz)).flatten();
    let said: Vec<String> = [over, missing, late, coarse].into_iter().flatten().collect();
    (!said.is_empty()).then(|| said.join(" "))
}

/// What misses its formula by this much is spoken of, dB.
const MISSED_DB: f64 = 0.3;

/// Says which band the kernel cannot hold, and what comes out of it.
fn too_narrow(settings: &Settings, rate_hz: u32) -> Option<String> {
    let rate = f64::from(rate_hz);
    let length = Length::of(settings, rate_hz);
    let on = settings.at_work().enumerate().filter_map(|(i, band)| Some((i, band?)));
    let narrow = on.filter(|(_, band)| !length.holds(band, rate));
    let missed = narrow.map(|(i, band)| {
        let freq_hz = band.shape.freq_hz;
        let alone = |hz: f64| response_at(&band, rate, settings.phase, hz);
        let at_bin = |bin: usize| alone(cast::real(bin) * length.bin_hz(rate));
        let [wanted, held] = [alone(freq_hz), linear::held(length, rate, freq_hz, at_bin)]
            .map(|h| db_from_gain(h.norm()).max(LOWEST_DB));
        (i, freq_hz, wanted, held)
    });
    let (i, freq_hz, wanted, held) = missed.max_by(|a, b| (a.2 - a.3).abs().total_cmp(&(b.2 - b.3).abs()))?;
    ((wanted - held).abs() > MISSED_DB).then(|| {
        let db = |gain_db: f64| clear_bend_catalogue::Unit::Db.text(gain_db);
        let wanted = if wanted <= LOWEST_DB { "silence".to_owned() } else { db(wanted) };
        format!(
            "Band *{}* is narrower than this phase can hold: at *{}* it gives *{}* instead of {wanted}. The curve shows what comes out.",
            i + 1,
            clear_bend_catalogue::Unit::Hz.text(freq_hz),
            db(held),
        )
    })
}

/// Gains under this are not told from silence, dB.
const LOWEST_DB: f64 = -120.0;
