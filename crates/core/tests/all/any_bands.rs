//! Bands of any kind with any values: what holds for all of them.

use clear_bend_core::effects::equaliser::{EFFECT, band_response};
use clear_bend_core::measures::{Channel, Tail, log_freqs, measure_response};
use proptest::prelude::*;

use crate::common::{RATE, near};
use crate::equaliser::{FLAT_BELL, band, predicted, stage, stage_of};

/// Bands of any kind with any values, over the whole range of each.
fn any_bands() -> impl Strategy<Value = Vec<(String, f64)>> {
    let band = (1u8..11, [0.0f64..1.0, 0.0..1.0, 0.0..1.0, 0.0..1.0], 0u8..5, 2u8..4);
    (prop::collection::vec(band, 1..8), 0u8..2).prop_map(|(bands, formula)| {
        let mut params = vec![("formula".to_owned(), f64::from(formula))];
        for (i, (kind, places, series, copies)) in bands.into_iter().enumerate() {
            let mut set = |id: &str, value: f64| params.push((id.replace('#', &(i + 1).to_string()), value));
            set("kind_#", f64::from(kind));
            let values =
                ["freq_#_hz", "gain_#_db", "q_#", "slope_#"].into_iter().zip(places).map(|(id, place)| {
                    let param = EFFECT.params.iter().find(|p| p.id == id.replace('#', "1")).unwrap();
                    (id, param.value_at(place))
                });
            let values: Vec<_> = values.collect();
            // What is narrower than half a hertz rings for longer than is measured.
            let narrowest = 2.0 * values[0].1;
            values
                .into_iter()
                .for_each(|(id, value)| set(id, if id == "q_#" { value.min(narrowest) } else { value }));
            // Most bands are single ones.
            set("series_#", f64::from(u8::from(series == 4)));
            set("copies_#", f64::from(copies));
        }
        params
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever is set: what comes out is what the formula says, where that is over -60 dB.
    #[test]
    fn any_bands_sound_as_predicted(params in any_bands()) {
        let stage = stage_of(&params);
        let freqs = log_freqs(20.0, 20_000.0, 120);
        let (gains, _) = predicted(&stage, 0, &freqs);
        let response = measure_response(&stage, RATE, Channel::Mid, Tail::Long);
        // Samples of 24 bits do not hold what lies further under the highest of them.
        let least = (gains.iter().fold(f64::MIN, |a, b| a.max(*b)) - 110.0).max(-60.0);
        for (hz, gain) in freqs.iter().zip(&gains).filter(|(_, gain)| **gain > least) {
            let found = response.gain_db(*hz);
            prop_assert!((found - gain).abs() < 0.05, "{hz} Hz: {found} dB, not {gain} dB");
        }
    }

    /// A curve has no jumps: a frequency that moves by a thousandth moves the curve a little.
    #[test]
    fn a_frequency_that_moves_a_little_moves_the_curve_a_little(kind in 1usize..11, hz in 20.0f64..20_000.0, gain_db in -18.0f64..18.0) {
        let curve = |hz: f64| {
            let values = stage(&band(kind as f64, hz, gain_db, 1.0)).values;
            log_freqs(20.0, 20_000.0, 60).into_iter().map(move |at| band_response(&values, 44_100, at).norm()).collect::<Vec<_>>()
        };
        for (one, other) in curve(hz).into_iter().zip(curve(hz * 1.001)) {
            prop_assert!((one - other).abs() < 0.01 * one.max(other) + 0.006, "{one} to {other}");
        }
    }
}

/// Over the highest frequency, a section of a flat bell once lost its damping and rang for ever.
#[test]
fn a_band_over_the_highest_frequency_dies_away() {
    let flat = stage(&band(FLAT_BELL, 23_700.0, 0.5, 26.5));
    let response = measure_response(&flat, RATE, Channel::Mid, Tail::Usual);
    let late = &response.impulse[response.zero + 4 * RATE as usize..];
    assert!(late.iter().all(|x| x.abs() < 1e-6));
    near(response.gain_db(1000.0), 0.0, 0.01);
}
