//! Bands of any kind with any values: what holds for all of them.

use clear_bend_effects::equaliser::{EFFECT, band_response};
use clear_bend_measures::{Tail, log_freqs, measure_response};
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;

use crate::equaliser::predicted;
use clear_bend_testing::bands::{FLAT_BELL, HIGH_CUT, HIGH_SHELF, band, stage, stage_of};
use clear_bend_testing::{RATE, near};

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
        let response = measure_response(&stage, RATE, Scope::Mid, Tail::Long);
        // An impulse is followed until all but -130 dB of its energy has come: what lies more than 70 dB under the highest
        // may still ring then.
        // The highest may lie under 20 Hz.
        let (everywhere, _) = predicted(&stage, 0, &log_freqs(2.0, 20_000.0, 500));
        let least = (everywhere.iter().fold(f64::MIN, |a, b| a.max(*b)) - 70.0).max(-60.0);
        for (hz, gain) in freqs.iter().zip(&gains).filter(|(_, gain)| **gain > least) {
            let found = response.gain_db(*hz);
            prop_assert!((found - gain).abs() < 0.05, "{hz} Hz: {found} dB, not {gain} dB");
        }
    }

    /// A curve has no jumps: a frequency that moves by a thousandth moves the curve a little. Only near the top may a bell
    /// go over to the plain formula at once: over 19.8 kHz at 44.1 kHz, a flat one over 16.5 kHz.
    #[test]
    fn a_frequency_that_moves_a_little_moves_the_curve_a_little(kind in 1usize..11, hz in 20.0f64..19_800.0, gain_db in -18.0f64..18.0) {
        prop_assume!(kind as f64 != FLAT_BELL || hz < 16_480.0);
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
    let response = measure_response(&flat, RATE, Scope::Mid, Tail::Usual);
    assert!(response.impulse.iter().skip(response.zero + 4 * RATE as usize).all(|x| x.abs() < 1e-6));
    near(response.gain_db(1000.0), 0.0, 0.01);
}

/// How far a curve is from the analogue one up to 20 kHz at 44.1 kHz (as far as that is over -40 dB), and how far it rises
/// over the highest that is set, up to half the rate, dB. At a hundred times the rate, the plain formula is the analogue
/// filter.
fn errors_db(params: &[(String, f64)], formula: f64) -> (f64, f64) {
    let curve = |rate_hz: u32, formula: f64| {
        let all: Vec<(String, f64)> =
            params.iter().cloned().chain([("formula".to_owned(), formula)]).collect();
        let values = stage_of(&all).values;
        move |hz: f64| 20.0 * band_response(&values, rate_hz, hz).norm().max(1e-12).log10()
    };
    let (ours, exact) = (curve(44_100, formula), curve(4_410_000, 1.0));
    let freqs = log_freqs(20.0, 20_000.0, 500);
    let compared = freqs.iter().filter(|hz| exact(**hz) > -40.0);
    let error = compared.map(|hz| (ours(*hz) - exact(*hz)).abs()).fold(0.0, f64::max);
    // A resonance of the analogue shape may lie over 20 kHz, and be narrow.
    let hz = params.iter().find(|(id, _)| id == "freq_1_hz").map_or(1000.0, |(_, hz)| *hz);
    let around = log_freqs(hz / 1.3, hz * 1.3, 5000);
    let highest = log_freqs(20.0, 200_000.0, 3000).into_iter().chain(around).map(&exact).fold(0.0, f64::max);
    let top = log_freqs(20_000.0, 22_049.0, 80);
    let over = freqs.iter().chain(&top).map(|hz| ours(*hz) - highest).fold(f64::MIN, f64::max);
    (error, over)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// In any setting, the true shape is no further from the analogue one than the plain formula, and never over what is
    /// set by more than 0.4 dB, or 0.5 dB over 20 kHz. (Of 15,000 bands at random one was over 0.3 dB: a low shelf with Q 2.6 at 9.4 kHz.)
    #[test]
    fn a_true_shape_is_never_worse_than_the_plain_one(
        kind in prop_oneof![1usize..8, 8usize..11],
        hz in prop_oneof![1 => 20.0f64..5000.0, 4 => 5000.0f64..21_600.0],
        gain_db in -24.0f64..24.0,
        q in prop_oneof![0.1f64..1.0, 1.0f64..12.0, 12.0f64..40.0],
        slope in 1u32..=20,
    ) {
        let mut params: Vec<(String, f64)> =
            band(kind as f64, hz, gain_db, q).into_iter().map(|(id, v)| (id.to_owned(), v)).collect();
        params.push(("slope_1".to_owned(), 6.0 * f64::from(slope)));
        let ((ours, over), (plain, _)) = (errors_db(&params, 0.0), errors_db(&params, 1.0));
        prop_assert!(ours <= 1.02 * plain + 0.03, "{ours} dB from the analogue shape, the plain formula {plain} dB");
        prop_assert!(over <= if hz > 20_000.0 { 0.5 } else { 0.4 }, "{over} dB over what is set");
    }
}

/// What once rose to +77 dB, fell into a hole of -56 dB, missed its centre, or lifted what it should pass.
#[test]
fn the_worst_shapes_near_the_top_are_mended() {
    for (kind, hz, gain_db, q, slope) in [
        (FLAT_BELL, 20_500.0, 24.0, 8.0, 12.0),
        (FLAT_BELL, 19_000.0, 12.0, 6.0, 12.0),
        (FLAT_BELL, 17_200.0, 12.0, 4.0, 12.0),
        (HIGH_CUT, 16_000.0, 0.0, 1.0, 48.0),
        (HIGH_CUT, 16_000.0, 0.0, 1.0, 120.0),
        (HIGH_CUT, 19_000.0, 0.0, 1.0, 96.0),
        (HIGH_SHELF, 15_000.0, 12.0, 8.0, 12.0),
        (HIGH_SHELF, 19_285.356_525, -3.906_391, 20.984_276, 12.0),
    ] {
        let mut params: Vec<(String, f64)> =
            band(kind, hz, gain_db, q).into_iter().map(|(id, v)| (id.to_owned(), v)).collect();
        params.push(("slope_1".to_owned(), slope));
        let ((ours, over), (plain, _)) = (errors_db(&params, 0.0), errors_db(&params, 1.0));
        println!(
            "kind {kind} at {hz} Hz, {gain_db} dB, Q {q}, {slope} dB per octave: true {ours:.2}, plain {plain:.2} dB, over {over:.2}"
        );
        assert!(ours <= plain + 0.02 && over <= 0.3);
    }
    // The plain formula keeps the gain of a flat bell at its centre.
    for formula in [0.0, 1.0] {
        let mut params = band(FLAT_BELL, 15_000.0, 12.0, 4.0);
        params.push(("formula", formula));
        let values = stage(&params).values;
        let gain = 20.0 * band_response(&values, 44_100, 15_000.0).norm().log10();
        near(gain, 12.0, if formula == 1.0 { 0.001 } else { 0.6 });
    }
}
