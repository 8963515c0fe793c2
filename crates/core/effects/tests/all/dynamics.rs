//! Limiter, gate, de-esser, multiband compressor and saturation against their promises.

use clear_bend_effects::{self as effects, Around, Plan, Quantity};
use clear_bend_measures::{Levels, LowTone, harmonics_of, measure_distortion};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_testing::{RATE, SETUP, near, powers, signal, signal_at, steady_level_dbfs, tone};
use proptest::prelude::*;

fn path(effect: &str, params: &[(&str, f64)]) -> Path {
    Path { stages: vec![Stage::new(effects::find(effect).unwrap(), params).unwrap()] }
}

/// Passages that a limiter finds hard: noise, squares, clicks, tones near half the rate, steps, silence.
fn hard_passage() -> impl Strategy<Value = Vec<f32>> {
    let noise = prop::collection::vec(-4f32..4.0, 700);
    let tone = (0.001f64..0.5, 0f64..7.0, 0.1f64..4.0).prop_map(|(freq, phase, size)| {
        (0..700)
            .map(|i| (size * (std::f64::consts::TAU * freq * f64::from(i) + phase).sin()) as f32)
            .collect()
    });
    let square = (1usize..60, 0.1f32..4.0)
        .prop_map(|(half, size)| (0..700).map(|i| if (i / half) % 2 == 0 { size } else { -size }).collect());
    let clicks = prop::collection::vec(prop_oneof![20 => Just(0f32), 1 => -8f32..8.0], 700);
    let bursts =
        (prop::collection::vec(-4f32..4.0, 700), 1usize..300, 1usize..300).prop_map(|(noise, on, off)| {
            noise.into_iter().enumerate().map(|(i, x)| if i % (on + off) < on { x } else { 0.0 }).collect()
        });
    prop_oneof![noise, tone, square, clicks, bursts]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(10_000))]

    /// ITU-R BS.1770 Annex 2 by the ebur128 crate: no sample over the ceiling, no true peak more than 0.1 dB over.
    #[test]
    fn nothing_passes_the_ceiling(
        passage in hard_passage(),
        ceiling in -24f64..=0.0,
        lookahead in 0.5f64..=10.0,
        release in 1f64..200.0,
        drive in 0f64..12.0,
        knee in prop_oneof![Just(0.0), 0f64..12.0],
    ) {
        let mut passage = passage;
        passage.extend([0.0; 200]);
        let path = path("limiter", &[
            ("ceiling_db", ceiling), ("lookahead_ms", lookahead), ("release_ms", release),
            ("drive_db", drive), ("knee_db", knee),
        ]);
        let after = render(&path, &Buffer::new(RATE, vec![passage]).unwrap()).after;
        let levels = Levels::of(&after);
        prop_assert!(levels.peak_dbfs <= ceiling + 1e-5, "sample {} over {ceiling}", levels.peak_dbfs);
        prop_assert!(levels.true_peak_dbtp <= ceiling + 0.1, "true peak {} over {ceiling}", levels.true_peak_dbtp);
    }
}

#[test]
fn a_limiter_is_idle_below_its_ceiling_and_holds_full_scale_squares() {
    // Common practice.
    let mut before = signal("boatyard-loop", &[], 2);
    before.apply_gain_db(-6.0);
    let peak = Levels::of(&before).true_peak_dbtp;
    let after = render(&path("limiter", &[("ceiling_db", (peak + 0.5).min(0.0))]), &before).after;
    assert!(after == before, "{peak}");
    let square = signal("square", &[("level_dbfs", 0.0), ("freq_hz", 100.0), ("seconds", 1.0)], 1);
    for params in [vec![("lookahead_ms", 0.0), ("true_peak", 0.0)], vec![("lookahead_ms", 2.0)]] {
        let params = [&[("ceiling_db", -6.0)], &params[..]].concat();
        let levels = Levels::of(&render(&path("limiter", &params), &square).after);
        assert!(levels.peak_dbfs <= -6.0 + 1e-5 && levels.peak_dbfs > -9.5, "{}", levels.peak_dbfs);
    }
}

#[test]
fn a_gate_opens_for_hits_and_closes_between_and_hysteresis_stops_flutter() {
    let before = signal("boatyard-loop", &[], 2);
    let path_of = |params: &[(&str, f64)]| {
        path("gate", &[&[("threshold_db", -30.0), ("hold_ms", 0.0), ("release_ms", 5.0)], params].concat())
    };
    let openings = |path: &Path, before: &Buffer| {
        let gain = render(path, before).gain_db(0).unwrap().to_vec();
        gain.windows(2).filter(|w| w[0] < -6.0 && w[1] >= -6.0).count()
    };
    let hits = openings(&path_of(&[("hold_ms", 100.0)]), &before);
    assert!((4..60).contains(&hits), "{hits}");
    // A level that trembles around the threshold by 2 dB: common practice calls what happens flutter.
    let tremble: Vec<f32> = (0..96_000)
        .map(|i| {
            let t = f64::from(i) / f64::from(RATE);
            let level = -30.0 + 2.0 * (std::f64::consts::TAU * 12.0 * t).sin();
            (10f64.powf(level / 20.0) * (std::f64::consts::TAU * 1000.0 * t).sin()) as f32
        })
        .collect();
    let tremble = Buffer::new(RATE, vec![tremble]).unwrap();
    assert!(openings(&path_of(&[("hysteresis_db", 0.0)]), &tremble) > 15);
    // It begins open and stays so.
    assert_eq!(openings(&path_of(&[("hysteresis_db", 6.0)]), &tremble), 0);
}

#[test]
fn crossovers_add_up_flat() {
    // Linkwitz and Riley, JAES 24(1), 1976: the sum of the bands is an all-pass.
    let mut click = vec![0.0f32; 65_536];
    click[100] = 1.0;
    let click = Buffer::new(RATE, vec![click]).unwrap();
    let idle: Vec<(String, f64)> = (1..=5).map(|b| (format!("ratio_{b}"), 1.0)).collect();
    for (bands, crossovers) in [
        (0.0, [120.0, 0.0, 0.0, 0.0]),
        (1.0, [200.0, 2500.0, 0.0, 0.0]),
        (2.0, [8000.0, 90.0, 900.0, 0.0]),
        (3.0, [100.0, 400.0, 420.0, 12_000.0]),
    ] {
        let mut params: Vec<(&str, f64)> = idle.iter().map(|(id, v)| (id.as_str(), *v)).collect();
        params.push(("bands", bands));
        let ids = ["crossover_1_hz", "crossover_2_hz", "crossover_3_hz", "crossover_4_hz"];
        params.extend(ids.into_iter().zip(crossovers).filter(|(_, hz)| *hz > 0.0));
        let after = render(&path("multiband", &params), &click).after;
        let flat = powers(&click, [1.0, 0.0])[100];
        for (bin, power) in powers(&after, [1.0, 0.0]).iter().enumerate().skip(1) {
            let db = 10.0 * (power / flat).log10();
            assert!(db.abs() < 0.01, "{db} dB in bin {bin} of {} bands", bands + 2.0);
        }
    }
}

#[test]
fn a_band_goes_by_its_own_level_only() {
    // Two tones, one in each band: only the loud low one is reduced, by what its own threshold says.
    let sum = |low: f64, high: f64| {
        let (a, b) = (tone(100.0, low, 1.0), tone(4000.0, high, 1.0));
        let mix = a.channels()[0].iter().zip(&b.channels()[0]).map(|(a, b)| a + b).collect();
        Buffer::new(RATE, vec![mix]).unwrap()
    };
    let params = [
        ("bands", 0.0),
        ("crossover_1_hz", 800.0),
        ("threshold_1_db", -26.0),
        ("ratio_1", 4.0),
        ("attack_1_ms", 10.0),
        ("knee_db", 0.0),
        ("threshold_2_db", 0.0),
    ];
    let after = render(&path("multiband", &params), &sum(-14.0, -30.0)).after;
    let part = Buffer::new(RATE, vec![after.channels()[0][24_000..].to_vec()]).unwrap();
    let level =
        |hz: f64| 10.0 * (2.0 * powers(&part, [1.0, 0.0])[(hz * part.seconds()).round() as usize]).log10();
    // The gain follows the single waves of so low a tone a little.
    near(level(100.0), -23.0, 0.4);
    near(level(4000.0), -30.0, 0.05);
}

#[test]
fn saturation_adds_the_harmonics_of_its_curve_and_no_others() {
    // docs/measures.md: y = 1.5 x - 0.5 x^3 at full scale has a third harmonic of -19.08 dB and nothing else. A corner
    // of 0 is that curve for a wave that reaches 1.5 times the level.
    let drive = 20.0 * 1.5f64.log10();
    let round = path("saturation", &[("drive_db", drive), ("level_db", -6.0), ("corner", 0.0)]);
    let found = measure_distortion(&round.stages[0], RATE, &LowTone { freq_hz: 100.0, level_dbfs: -6.0 });
    near(found.harmonics_db[1], -19.08, 0.02);
    for (i, level) in found.harmonics_db.iter().enumerate().filter(|(i, _)| *i != 1) {
        assert!(*level < -85.0, "harmonic {}: {level} dB", i + 2);
    }
    near(found.thd, 10f64.powf(-19.08 / 20.0), 2e-4);
    // By derivation, a square wave: 48.3 % with all harmonics, so a little less with those to the tenth.
    let square = signal("square", &[("freq_hz", 100.0), ("seconds", 0.3)], 1);
    let thd = harmonics_of(&square.channels()[0], 100.0, f64::from(RATE)).thd;
    assert!((0.42..0.4834).contains(&thd), "{thd}");
}

#[test]
fn what_saturation_folds_back_is_60_db_down() {
    for (corner, drive) in [(0.0, 12.0), (0.5, 12.0), (1.0, 6.0), (1.0, 12.0)] {
        let path = path("saturation", &[("drive_db", drive), ("level_db", -6.0), ("corner", corner)]);
        let after = render(&path, &tone(5000.0, -6.0, 2.0)).after;
        let part = Buffer::new(RATE, vec![after.channels()[0][24_000..72_000].to_vec()]).unwrap();
        let powers = powers(&part, [1.0, 0.0]);
        let harmonics = [5000, 10_000, 15_000, 20_000];
        let folded =
            powers.iter().enumerate().filter(|(hz, _)| *hz > 20 && *hz < 20_500 && !harmonics.contains(hz));
        let worst = folded.map(|(_, p)| *p).fold(0.0, f64::max);
        let down = 10.0 * (worst / powers[5000]).log10();
        assert!(down < -60.0, "{down} dB with a corner of {corner} and {drive} dB");
    }
}

#[test]
fn a_de_esser_takes_its_band_and_nothing_else() {
    // Common practice: acting from 4 kHz instead of 5.5 kHz takes mids as well.
    let levels = |params: &[(&str, f64)], hz: f64| {
        let mut both = tone(hz, -30.0, 1.0);
        let loud = tone(7000.0, -12.0, 1.0);
        both.channels_mut()[0].iter_mut().zip(&loud.channels()[0]).for_each(|(x, y)| *x += y);
        let base = [("threshold_db", -36.0), ("ratio", 8.0), ("range_db", 24.0), ("attack_ms", 0.0)];
        let after = render(&path("de-esser", &[&base[..], params].concat()), &both).after;
        let part = Buffer::new(RATE, vec![after.channels()[0][12_000..36_000].to_vec()]).unwrap();
        10.0 * (2.0 * powers(&part, [1.0, 0.0])[(hz * part.seconds()).round() as usize]).log10() + 30.0
    };
    near(levels(&[("freq_hz", 5500.0)], 3000.0), 0.0, 0.05);
    near(levels(&[("freq_hz", 5500.0)], 4500.0), 0.0, 0.3);
    assert!(levels(&[("freq_hz", 4000.0)], 4500.0) < -6.0);
    // In a band, what lies above it stays.
    let band = [("shape", 1.0), ("freq_hz", 7000.0), ("width_oct", 0.7)];
    near(levels(&band, 14_000.0), 0.0, 0.1);
    assert!(levels(&[("freq_hz", 5500.0)], 14_000.0) < -10.0);
    // While nothing is reduced, nothing is changed.
    let before = signal("boatyard-loop", &[], 2);
    let quiet = path("de-esser", &[("threshold_db", 0.0), ("knee_db", 0.0)]);
    assert!(render(&quiet, &before).after == before);
}

#[test]
fn what_is_heard_adds_up() {
    // The result and what is taken out are the sound as it came.
    let before = signal("boatyard-loop", &[], 2);
    for (effect, params) in [
        ("compressor", vec![("threshold_db", -30.0)]),
        ("limiter", vec![("ceiling_db", -12.0)]),
        ("gate", vec![("threshold_db", -24.0)]),
        ("de-esser", vec![("threshold_db", -40.0)]),
    ] {
        let part =
            |hear: f64| render(&path(effect, &[&params[..], &[("hear", hear)]].concat()), &before).after;
        let (result, taken) = (part(0.0), part(2.0));
        assert!(Levels::of(&taken).peak_dbfs > -60.0, "{effect}");
        for c in 0..2 {
            let parts = result.channels()[c].iter().zip(&taken.channels()[c]);
            for ((result, taken), before) in parts.zip(&before.channels()[c]) {
                assert!((result + taken - before).abs() < 1e-5, "{effect}");
            }
        }
    }
}

#[test]
fn silence_constants_and_broken_samples_are_defined() {
    for effect in effects::ALL {
        let through = |samples: Vec<f32>| {
            let path = Path { stages: vec![Stage::of(effect)] };
            render(&path, &Buffer::new(RATE, vec![samples]).unwrap()).after.channels()[0].clone()
        };
        assert!(through(vec![0.0; 4800]).iter().all(|x| *x == 0.0), "{}", effect.id);
        assert!(through(vec![1e-40; 4800]).iter().all(|x| *x == 0.0), "{}", effect.id);
        // What is not a number counts as silence.
        assert_eq!(through(vec![f32::NAN; 4800]), through(vec![0.0; 4800]), "{}", effect.id);
        let constant = through(vec![0.5; 48_000]);
        assert!(constant.iter().all(|x| x.is_finite() && x.abs() <= 1.05), "{}", effect.id);
    }
}

/// Common practice: hold is how long the level may be down before a gate closes, anew each time it comes back. Gaps that are shorter never
/// close it, however many of them there are; a longer one does when it is over, and 1 ms for which the detector holds the level.
#[test]
fn hold_begins_anew_whenever_the_level_comes_back() {
    let gaps = |gap_ms: usize| {
        let frame = |n: usize| if n < 48_000 || n % 2400 >= gap_ms * 48 { 0.1f32 } else { 0.0 };
        let square = |n: usize| if n % 48 < 24 { frame(n) } else { -frame(n) };
        Buffer::new(RATE, vec![(0..96_000).map(square).collect()]).unwrap()
    };
    let settings = [("threshold_db", -30.0), ("hold_ms", 20.0), ("release_ms", 5.0), ("range_db", 60.0)];
    let lowest = |gap_ms| {
        let rendered = render(&path("gate", &settings), &gaps(gap_ms));
        let gain_db = &rendered.gain_db(0).unwrap()[48_000..];
        let falls = gain_db.iter().position(|gain| *gain < -0.1);
        (gain_db.iter().fold(0.0f32, |least, gain| least.min(*gain)), falls)
    };
    for gap_ms in [5, 12, 18] {
        assert_eq!(lowest(gap_ms), (0.0, None), "{gap_ms} ms");
    }
    let (least, falls) = lowest(40);
    assert!(least < -50.0, "{least}");
    near(falls.unwrap() as f64 / 48.0, 21.0, 0.5);
}

/// A level that has stood for long is held as one that has just been reached.
#[test]
fn a_level_that_stands_is_held_as_long() {
    for seconds in [0.5, 3.0] {
        let loud = (seconds * 48_000.0) as usize;
        let tone = |n: usize| {
            let size = if n < loud { 0.5 } else { 0.001 };
            (size * (std::f64::consts::TAU * n as f64 / 48.0).sin()) as f32
        };
        let before = Buffer::new(RATE, vec![(0..loud + 24_000).map(tone).collect()]).unwrap();
        let settings =
            [("threshold_db", -30.0), ("attack_ms", 1.0), ("hold_ms", 100.0), ("release_ms", 20.0)];
        let rendered = render(&path("compressor", &settings), &before);
        let gain_db = &rendered.gain_db(0).unwrap()[loud..];
        let rises = gain_db.iter().position(|gain| *gain > gain_db[0] + 0.1).unwrap();
        near(rises as f64 / 48.0, 101.0, 1.5);
    }
}

/// A tone in the middle of the band falls by the whole range, however narrow the band is and wherever it lies; outside
/// of it, nothing does. Where the band is narrower than an octave, an octave away is outside.
#[test]
fn a_narrow_de_esser_holds_its_centre() {
    let mut worst: f64 = 0.0;
    for rate_hz in [44_100, 48_000, 96_000] {
        for width_oct in [0.2, 0.5, 1.0, 3.0] {
            for freq_hz in [1000.0, 2000.0, 5500.0, 9000.0] {
                for range_db in [6.0, 12.0, 24.0] {
                    let params = [
                        ("shape", 1.0),
                        ("freq_hz", freq_hz),
                        ("width_oct", width_oct),
                        ("threshold_db", -80.0),
                        ("ratio", f64::INFINITY),
                        ("range_db", range_db),
                    ];
                    let path = path("de-esser", &params);
                    let level = |hz: f64| {
                        let params = [("freq_hz", hz), ("level_dbfs", -12.0), ("seconds", 0.5)];
                        let after = render(&path, &signal_at(rate_hz, "sine", &params, 1)).after;
                        // The filter sees the end of the tone coming.
                        steady_level_dbfs(&after.slice(0..after.frames() * 9 / 10))
                    };
                    worst = worst.max((level(freq_hz) + 12.0 + range_db).abs());
                    if width_oct <= 0.5 {
                        // Out there, the detector hears 50 dB less: still over the threshold, but next to nothing of
                        // what the gain takes is there.
                        near(level(freq_hz / 2.0), -12.0, 0.1);
                        near(level((freq_hz * 2.0).min(0.45 * f64::from(rate_hz))), -12.0, 0.1);
                    }
                }
            }
        }
    }
    println!("de-esser: the centre misses its range by {worst:.3} dB at the most");
    assert!(worst < 0.1, "{worst}");
}

/// What a Butterworth cut of the second order lets through, dB, by the bilinear transform: written anew from the formula of the
/// prototype (Butterworth 1930), with the frequencies bent as the transform bends them.
fn through_cut_db(freq_hz: f64, corner_hz: f64, is_low_cut: bool) -> f64 {
    let bent = |hz: f64| (std::f64::consts::PI * hz / f64::from(RATE)).tan();
    let ratio = (bent(freq_hz) / bent(corner_hz)).powi(if is_low_cut { -4 } else { 4 });
    -10.0 * (1.0 + ratio).log10()
}

/// The detector hears a tone through its cuts: the gain tells by how much. At infinity to one, every dB over the threshold is taken.
#[test]
fn the_cuts_of_a_key_take_what_they_should() {
    let cases = [
        ("key_low_cut_hz", 2000.0, 1000.0),
        ("key_low_cut_hz", 1000.0, 1000.0),
        ("key_low_cut_hz", 300.0, 3000.0),
        ("key_high_cut_hz", 1000.0, 2000.0),
        ("key_high_cut_hz", 3000.0, 3000.0),
        ("key_high_cut_hz", 8000.0, 1000.0),
    ];
    for (cut, corner_hz, freq_hz) in cases {
        let before = tone(freq_hz, -6.0, 1.0);
        let heard_db = -6.0 + through_cut_db(freq_hz, corner_hz, cut == "key_low_cut_hz");
        let settings =
            [("threshold_db", -40.0), ("ratio", f64::INFINITY), ("knee_db", 0.0), (cut, corner_hz)];
        let gain = render(&path("compressor", &settings), &before).gain_db(0).unwrap().to_vec();
        near(f64::from(*gain.last().unwrap()), -40.0 - heard_db, 0.15);
        // The gate hears by the same cuts: it opens 1 dB under that level and stays shut 1 dB over it.
        for (threshold_db, opens) in [(heard_db - 1.0, true), (heard_db + 1.0, false)] {
            let settings =
                [("threshold_db", threshold_db), ("hysteresis_db", 0.0), ("hold_ms", 0.0), (cut, corner_hz)];
            let gain = render(&path("gate", &settings), &before).gain_db(0).unwrap().to_vec();
            assert_eq!(*gain.last().unwrap() > -1.0, opens, "{cut} at {corner_hz} Hz, {freq_hz} Hz");
        }
    }
}

/// A gate begins at 0 dB and closes at its own pace; a level under the threshold that would keep an open gate open does not open it.
/// After a reset it is so again, whatever it has heard before.
#[test]
fn a_gate_that_was_open_begins_anew() {
    let settings = path(
        "gate",
        &[("threshold_db", -30.0), ("hysteresis_db", 12.0), ("hold_ms", 0.0), ("release_ms", 20.0)],
    );
    let mut gate = (settings.stages[0].effect.build)(&Plan::plain(SETUP, &settings.stages[0].values));
    let mut gains = |level_dbfs: f32| {
        let mut gains = Vec::new();
        // At its level from the first sample on: a wave that begins at 0 would close any gate at once.
        let steady = vec![10f32.powf(level_dbfs / 20.0); 24_000];
        Buffer::new(RATE, vec![steady]).unwrap().for_each_block(128, |io| {
            gate.process(io, &Around::default());
            gains.extend_from_slice(gate.trace(Quantity::GainDb, 0).unwrap());
        });
        let (first, last) = (gains[0], gains[gains.len() - 1]);
        gate.reset();
        (f64::from(first), f64::from(last))
    };
    for _ in 0..2 {
        let (first, last) = gains(-36.0);
        assert!(first > -1.0 && last < -59.0, "{first} to {last} dB");
        let (first, last) = gains(-10.0);
        assert!(first > -1.0 && last > -0.01, "{first} to {last} dB");
    }
}
