//! The shapes of the equaliser against the cookbook, against Butterworth's formula, and against analogue filters.

use std::f64::consts::PI;

use clear_bend_effects::equaliser::band_response;
use clear_bend_measures::log_freqs;
use clear_bend_sound::level::db_from_gain;
use rustfft::num_complex::Complex;

use clear_bend_testing::bands::{
    ALL_PASS, BAND_PASS, BELL, FLAT_BELL, HIGH_CUT, HIGH_SHELF, LOW_CUT, LOW_SHELF, NOTCH, band, stage,
};
use clear_bend_testing::{RATE, near};

const PLAIN: (&str, f64) = ("formula", 1.0);

/// The response of coefficients of the "Audio EQ Cookbook" (W3C Working Group Note, 2021), written as they stand there.
fn cookbook(kind: f64, freq_hz: f64, gain_db: f64, q: f64, rate_hz: f64, at_hz: f64) -> Complex<f64> {
    let a = 10f64.powf(gain_db / 40.0);
    let w0 = 2.0 * PI * freq_hz / rate_hz;
    let (sin, cos) = w0.sin_cos();
    let alpha = sin / (2.0 * q);
    let root = 2.0 * a.sqrt() * alpha;
    let (b, a) = if kind == HIGH_CUT {
        ([(1.0 - cos) / 2.0, 1.0 - cos, (1.0 - cos) / 2.0], [1.0 + alpha, -2.0 * cos, 1.0 - alpha])
    } else if kind == LOW_CUT {
        ([(1.0 + cos) / 2.0, -(1.0 + cos), (1.0 + cos) / 2.0], [1.0 + alpha, -2.0 * cos, 1.0 - alpha])
    } else if kind == BAND_PASS {
        ([alpha, 0.0, -alpha], [1.0 + alpha, -2.0 * cos, 1.0 - alpha])
    } else if kind == NOTCH {
        ([1.0, -2.0 * cos, 1.0], [1.0 + alpha, -2.0 * cos, 1.0 - alpha])
    } else if kind == ALL_PASS {
        ([1.0 - alpha, -2.0 * cos, 1.0 + alpha], [1.0 + alpha, -2.0 * cos, 1.0 - alpha])
    } else if kind == BELL {
        ([1.0 + alpha * a, -2.0 * cos, 1.0 - alpha * a], [1.0 + alpha / a, -2.0 * cos, 1.0 - alpha / a])
    } else if kind == LOW_SHELF {
        (
            [
                a * ((a + 1.0) - (a - 1.0) * cos + root),
                2.0 * a * ((a - 1.0) - (a + 1.0) * cos),
                a * ((a + 1.0) - (a - 1.0) * cos - root),
            ],
            [
                (a + 1.0) + (a - 1.0) * cos + root,
                -2.0 * ((a - 1.0) + (a + 1.0) * cos),
                (a + 1.0) + (a - 1.0) * cos - root,
            ],
        )
    } else {
        (
            [
                a * ((a + 1.0) + (a - 1.0) * cos + root),
                -2.0 * a * ((a - 1.0) + (a + 1.0) * cos),
                a * ((a + 1.0) + (a - 1.0) * cos - root),
            ],
            [
                (a + 1.0) - (a - 1.0) * cos + root,
                2.0 * ((a - 1.0) - (a + 1.0) * cos),
                (a + 1.0) - (a - 1.0) * cos - root,
            ],
        )
    };
    let z = Complex::from_polar(1.0, -2.0 * PI * at_hz / rate_hz);
    let at = |c: [f64; 3]| c[0] + z * (c[1] + z * c[2]);
    at(b) / at(a)
}

#[test]
fn every_second_order_type_is_that_of_the_cookbook() {
    let mut largest: f64 = 0.0;
    for rate in [44_100u32, 48_000, 96_000] {
        for kind in [LOW_CUT, HIGH_CUT, BAND_PASS, NOTCH, ALL_PASS, BELL, LOW_SHELF, HIGH_SHELF] {
            for freq_hz in [30.0, 440.0, 5000.0, 16_000.0] {
                for (gain_db, q) in [(-18.0, 0.5), (6.0, 1.0), (12.0, 8.0)] {
                    // A cut of second order is Butterworth's.
                    let q = if kind <= HIGH_CUT { 0.5f64.sqrt() } else { q };
                    let mut params = band(kind, freq_hz, gain_db, q);
                    params.push(PLAIN);
                    let values = stage(&params).values;
                    for at_hz in log_freqs(20.0, 21_000.0, 60) {
                        let ours = band_response(&values, rate, at_hz);
                        let theirs = cookbook(kind, freq_hz, gain_db, q, f64::from(rate), at_hz);
                        largest = largest.max((ours - theirs).norm() / theirs.norm().max(1.0));
                    }
                }
            }
        }
    }
    println!("largest difference from the cookbook: {largest:.1e}");
    assert!(largest < 1e-9, "{largest:e}");
}

/// Butterworth, "On the Theory of Filter Amplifiers" (1930): 1 / sqrt(1 + (f/fc)^2n).
#[test]
fn cuts_of_every_order_have_their_corner_and_their_slope() {
    for formula in [0.0, 1.0] {
        for order in 1..=20 {
            for (kind, corner) in [(LOW_CUT, 500.0), (HIGH_CUT, 500.0), (LOW_CUT, 30.0), (HIGH_CUT, 12_000.0)]
            {
                let slope = 6.0 * f64::from(order);
                let params =
                    [("formula", formula), ("kind_1", kind), ("freq_1_hz", corner), ("slope_1", slope)];
                let values = stage(&params).values;
                let gain = |hz: f64| db_from_gain(band_response(&values, RATE, hz).norm());
                near(gain(corner), -3.0103, 0.01);
                if corner > 1000.0 {
                    continue;
                }
                for octaves in [-2.0f64, -1.0, -0.5, 0.5, 1.0, 2.0] {
                    let hz = corner * octaves.exp2();
                    let ratio: f64 = if kind == LOW_CUT { corner / hz } else { hz / corner };
                    let exact = -10.0 * (1.0 + ratio.powi(2 * order)).log10();
                    // The plain formula is a little steeper even here.
                    near(gain(hz), exact, if formula == 0.0 { 0.02 } else { 0.05 - 0.006 * exact });
                }
            }
        }
    }
}

/// How far a shape is from the analogue one up to 20 kHz at 44.1 kHz, dB, at its worst.
fn worst_db(params: &[(&'static str, f64)], formula: f64) -> f64 {
    let with = |rate: u32, formula: f64| {
        let mut all = params.to_vec();
        all.push(("formula", formula));
        let values = stage(&all).values;
        move |hz: f64| db_from_gain(band_response(&values, rate, hz).norm())
    };
    let ours = with(44_100, formula);
    // At a hundred times the rate, the plain formula is the analogue filter within 0.001 dB.
    let exact = with(4_410_000, 1.0);
    let freqs = log_freqs(20.0, 20_000.0, 400).into_iter();
    freqs.filter(|hz| exact(*hz) > -40.0).map(|hz| (ours(hz) - exact(hz)).abs()).fold(0.0, f64::max)
}

/// The figures of docs/performance.md: the true shape against the plain formula.
#[test]
fn shapes_are_true_up_to_20_khz_at_44_1_khz() {
    let shapes = [
        ("bell, 6 dB at 10 kHz, Q 1", band(BELL, 10_000.0, 6.0, 1.0), 0.25),
        ("bell, 6 dB at 16 kHz, Q 1", band(BELL, 16_000.0, 6.0, 1.0), 0.5),
        ("bell, -12 dB at 16 kHz, Q 4", band(BELL, 16_000.0, -12.0, 4.0), 0.35),
        ("flat bell, 6 dB at 12 kHz, Q 1", band(FLAT_BELL, 12_000.0, 6.0, 1.0), 0.2),
        ("notch at 10 kHz, Q 2", band(NOTCH, 10_000.0, 0.0, 2.0), 0.15),
        ("high shelf, 6 dB at 10 kHz, Q 0.7", band(HIGH_SHELF, 10_000.0, 6.0, 0.7), 0.1),
        ("high shelf, -12 dB at 14 kHz, Q 0.7", band(HIGH_SHELF, 14_000.0, -12.0, 0.7), 0.15),
        ("high cut at 16 kHz, 12 dB per octave", vec![("kind_1", HIGH_CUT), ("freq_1_hz", 16_000.0)], 0.3),
        (
            "high cut at 16 kHz, 48 dB per octave",
            vec![("kind_1", HIGH_CUT), ("freq_1_hz", 16_000.0), ("slope_1", 48.0)],
            1.1,
        ),
        ("bell, 18 dB at 19 kHz, Q 1", band(BELL, 19_000.0, 18.0, 1.0), 0.9),
        (
            "high cut at 10 kHz, 48 dB per octave",
            vec![("kind_1", HIGH_CUT), ("freq_1_hz", 10_000.0), ("slope_1", 48.0)],
            0.35,
        ),
        ("low cut at 8 kHz, 12 dB per octave", vec![("kind_1", LOW_CUT), ("freq_1_hz", 8000.0)], 0.1),
    ];
    for (name, params, most) in shapes {
        let (ours, plain) = (worst_db(&params, 0.0), worst_db(&params, 1.0));
        println!("{name}: true {ours:.2} dB, plain formula {plain:.2} dB");
        assert!(ours <= most && ours < 0.6 * plain, "{name}: {ours} of {plain}");
    }
}
