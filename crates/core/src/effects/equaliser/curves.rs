//! The curves of an equaliser by its formulas.

use std::f64::consts::PI;

use rustfft::num_complex::Complex64;

use super::settings::{Band, BandScope, Phase, Settings};
use crate::cast;
use crate::level::{db_from_gain, gain_from_db};
use crate::measures::{BandCurve, Channel, Curves, ScopeCurve};

/// The curves of these values at some frequencies.
#[must_use]
pub fn curves(values: &[f64], rate_hz: u32, freqs_hz: &[f64]) -> Curves {
    let settings = Settings::from_values(values);
    let rate = f64::from(rate_hz);
    let tangents: Vec<f64> = freqs_hz.iter().map(|f| (PI * (f / rate).min(0.499_999)).tan()).collect();
    let working: Vec<(Band, Vec<(f64, f64)>)> =
        settings.working().map(|band| (band, response(&band, rate, &tangents))).collect();
    // The bands that are on come first among those that work, in their order.
    let on = settings.bands.iter().enumerate().filter(|(_, band)| band.on);
    let bands = on.zip(&working).map(|((i, _), (_, response))| BandCurve {
        number: i + 1,
        gains_db: response.iter().map(|(gain, _)| db_from_gain(*gain)).collect(),
    });
    let turned = match settings.phase {
        Phase::Minimum => 1.0,
        Phase::Linear => 0.0,
        Phase::Balanced => 0.5,
    };
    let input = gain_from_db(settings.input_db);
    let sum = |channel: Channel| {
        let of_channel = |scope: BandScope| match channel {
            Channel::Both => true,
            Channel::Left => matches!(scope, BandScope::Both | BandScope::Left),
            Channel::Right => matches!(scope, BandScope::Both | BandScope::Right),
            Channel::Mid => matches!(scope, BandScope::Both | BandScope::Mid),
            Channel::Side => matches!(scope, BandScope::Both | BandScope::Side),
        };
        let mut all = vec![(input, 0.0); freqs_hz.len()];
        for (_, response) in working.iter().filter(|(band, _)| of_channel(band.scope)) {
            for ((gain, phase), (by, turn)) in all.iter_mut().zip(response) {
                *gain *= by;
                *phase += turned * turn;
            }
        }
        ScopeCurve {
            channel,
            gains_db: all.iter().map(|(gain, _)| db_from_gain(*gain)).collect(),
            phases_deg: all.iter().map(|(_, phase)| phase.to_degrees()).collect(),
        }
    };
    Curves { bands: bands.collect(), sums: channels(&settings).into_iter().map(sum).collect() }
}

/// The channels whose curves differ.
fn channels(settings: &Settings) -> Vec<Channel> {
    let any = |test: fn(BandScope) -> bool| settings.working().any(|band| test(band.scope));
    let mut channels = Vec::new();
    if any(|scope| matches!(scope, BandScope::Left | BandScope::Right)) {
        channels.extend([Channel::Left, Channel::Right]);
    }
    if any(BandScope::is_sum) {
        channels.extend([Channel::Mid, Channel::Side]);
    }
    if channels.is_empty() {
        channels.push(Channel::Both);
    }
    channels
}

/// Gain (linear) and phase (radians) of a band.
fn response(band: &Band, rate_hz: f64, tangents: &[f64]) -> Vec<(f64, f64)> {
    let mut all = vec![(1.0, 0.0); tangents.len()];
    band.build.each_section(&band.shape, rate_hz, |_, section| {
        for ((gain, phase), tangent) in all.iter_mut().zip(tangents) {
            *gain *= section.magnitude_at(*tangent);
            *phase += section.phase_at(*tangent);
        }
    });
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

/// What the settings do that no control shows: bands that are kept under half the rate, and the delay.
#[must_use]
pub fn remark(values: &[f64], rate_hz: u32) -> Option<String> {
    let settings = Settings::from_values(values);
    let highest = super::section::HIGHEST_SHARE * f64::from(rate_hz);
    let over = settings.bands.iter().filter(|band| band.on && band.shape.freq_hz > highest).count();
    let over = (over > 0).then(|| {
        let (bands, stand) = if over == 1 { ("band", "stands") } else { ("bands", "stand") };
        let highest = crate::catalogue::Unit::Hz.text(highest);
        format!("*{over}* {bands} would lie over half the sample rate and {stand} at *{highest}*, the highest there is.")
    });
    let missing = settings.hear != super::settings::Hear::All && settings.audition().is_none();
    let missing = missing.then(|| {
        format!("Band *{}*, which is to be heard, is not there, so everything is.", settings.heard + 1)
    });
    let late = (settings.phase != Phase::Minimum).then(|| {
        let frames = super::linear::latency(rate_hz);
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
            crate::catalogue::Unit::Ms.text(late_ms)
        )
    });
    let said: Vec<String> = [over, missing, late].into_iter().flatten().collect();
    (!said.is_empty()).then(|| said.join(" "))
}
