//! The equaliser as it sounds: measured against predicted, its phases, scopes and series, and what is found with it.

use clear_bend_effects::equaliser::{EFFECT, band_response};
use clear_bend_explaining::report::report;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{Resonances, Response, Tail, find_resonances, log_freqs, measure_response};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_sound::level::db_from_gain;
use clear_bend_sound::scope::Scope;

use clear_bend_testing::bands::{
    BELL, FLAT_BELL, HIGH_SHELF, LOW_CUT, LOW_SHELF, NOTCH, band, stage, stage_of,
};
use clear_bend_testing::{RATE, near, signal, stage_with, tone};

/// A few bands of every sort.
fn several() -> Vec<(&'static str, f64)> {
    vec![
        ("kind_1", LOW_CUT),
        ("freq_1_hz", 90.0),
        ("slope_1", 24.0),
        ("kind_2", BELL),
        ("freq_2_hz", 400.0),
        ("gain_2_db", -6.0),
        ("q_2", 2.0),
        ("kind_3", FLAT_BELL),
        ("freq_3_hz", 2500.0),
        ("gain_3_db", 5.0),
        ("kind_4", HIGH_SHELF),
        ("freq_4_hz", 9000.0),
        ("gain_4_db", 4.0),
        ("q_4", 0.7),
    ]
}

pub fn predicted(stage: &Stage, channel: usize, freqs: &[f64]) -> (Vec<f64>, Vec<f64>) {
    let curves = EFFECT.curves(&stage.values, RATE, freqs).unwrap();
    let sum = &curves.sums[channel.min(curves.sums.len() - 1)];
    (sum.gains_db.clone(), sum.phases_deg.clone())
}

#[test]
fn measured_curves_are_the_predicted_ones() {
    let freqs = log_freqs(20.0, 20_000.0, 300);
    for phase in [0.0, 1.0, 2.0] {
        let mut params = several();
        params.push(("phase", phase));
        let stage = stage(&params);
        let response = measure_response(&stage, RATE, Scope::Mid, Tail::Usual);
        let (gains, phases) = predicted(&stage, 0, &freqs);
        let measured_phases = response.phases_deg(&freqs);
        let mut largest = [0.0f64; 2];
        for (i, hz) in freqs.iter().enumerate().filter(|(i, _)| gains[*i] > -60.0) {
            largest[0] = largest[0].max((response.gain_db(*hz) - gains[i]).abs());
            let turn = (measured_phases[i] - phases[i]).rem_euclid(360.0);
            largest[1] = largest[1].max(turn.min(360.0 - turn));
        }
        println!("phase {phase}: gain within {:.4} dB, phase within {:.3} degrees", largest[0], largest[1]);
        assert!(largest[0] < 0.05, "phase {phase}: {largest:?}");
        assert!(largest[1] < 1.0, "phase {phase}: {largest:?}");
    }
    // Scopes: left and right, mid and side have curves of their own.
    let scoped = stage(&[
        ("kind_1", BELL),
        ("gain_1_db", 9.0),
        ("scope_1", 1.0),
        ("kind_2", LOW_CUT),
        ("freq_2_hz", 200.0),
    ]);
    for (i, channel) in [Scope::Left, Scope::Right].into_iter().enumerate() {
        let (gains, _) = predicted(&scoped, i, &freqs);
        let response = measure_response(&scoped, RATE, channel, Tail::Usual);
        freqs.iter().zip(&gains).for_each(|(hz, gain)| near(response.gain_db(*hz), *gain, 0.05));
    }
    let sums = stage(&[
        ("kind_1", HIGH_SHELF),
        ("gain_1_db", 9.0),
        ("scope_1", 3.0),
        ("kind_2", BELL),
        ("gain_2_db", -9.0),
        ("scope_2", 4.0),
    ]);
    for phase in [0.0, 1.0] {
        let mut sums = sums.clone();
        sums.values[0] = phase;
        for (i, channel) in [Scope::Mid, Scope::Side].into_iter().enumerate() {
            let (gains, _) = predicted(&sums, i, &freqs);
            let response = measure_response(&sums, RATE, channel, Tail::Usual);
            freqs.iter().zip(&gains).for_each(|(hz, gain)| near(response.gain_db(*hz), *gain, 0.05));
        }
    }
}

/// Exact compensation: with the gain that the report names, the passage is as loud after as before.
#[test]
fn the_gain_that_is_named_makes_the_passage_as_loud_as_before() {
    for (source, extra) in [
        ("slip-bass", ("gain_3_db", 18.0)),
        ("boatyard-loop", ("freq_1_hz", 900.0)),
        ("slip-keys", ("phase", 1.0)),
    ] {
        let mut params = several();
        params.retain(|(id, _)| *id != extra.0);
        params.push(extra);
        let mut path = Path { stages: vec![stage(&params)] };
        let passage = Passage::new(signal(source, &[], 2));
        let before = report(&path, &passage).1;
        let named = before.level_matches.loudness.gain_db;
        path.stages[0].values[EFFECT.params.iter().position(|p| p.id == "output_db").unwrap()] = named;
        let after = report(&path, &passage).1;
        println!("{source}: {named:.2} dB leave {:.4} LU", after.level_matches.loudness.gain_db);
        assert!(named.abs() > 0.5, "{source}: something was there to be made up");
        near(after.after.loudness_lufs, after.before.loudness_lufs, 0.05);
    }
}

fn with_phase(params: &[(&'static str, f64)], phase: f64) -> Response {
    let mut params = params.to_vec();
    params.push(("phase", phase));
    measure_response(&stage(&params), RATE, Scope::Mid, Tail::Usual)
}

#[test]
fn linear_phase_delays_everything_alike_and_balanced_phase_lies_between() {
    let freqs = log_freqs(30.0, 20_000.0, 300);
    let linear = with_phase(&several(), 1.0);
    let mut largest: f64 = 0.0;
    for hz in freqs.iter().filter(|hz| linear.gain_db(**hz) > -60.0) {
        largest = largest.max(linear.group_delay_ms(*hz).unwrap().abs() * 48.0);
    }
    println!("group delay of linear phase: constant within {largest:.1e} samples");
    assert!(largest < 1e-3, "{largest}");
    let steep = [("kind_1", LOW_CUT), ("freq_1_hz", 60.0), ("slope_1", 48.0)];
    let [minimum, linear, balanced] = [0.0, 1.0, 2.0].map(|phase| with_phase(&steep, phase));
    let [m, l, b] = [&minimum, &linear, &balanced].map(Response::ringing);
    println!(
        "ringing before a low cut of 48 dB per octave at 60 Hz: {:.1}, {:.1}, {:.1} dB",
        m.before_db, b.before_db, l.before_db
    );
    assert!(
        m.before_db < -150.0 && m.before_db < b.before_db && b.before_db + 1.0 < l.before_db,
        "{m:?} {b:?} {l:?}"
    );
    assert!(b.before_ms > 0.0 && l.before_ms > 0.0);
    let turn =
        |response: &Response| response.phases_deg(&[60.0, 200.0])[1] - response.phases_deg(&[60.0, 200.0])[0];
    near(turn(&balanced), 0.5 * turn(&minimum), 1.0);
    near(turn(&linear), 0.0, 0.01);
    assert!(turn(&minimum) < -90.0);
}

/// Two channels that are the same are convolved once; where they part, and meet again, nothing is heard of that.
#[test]
fn linear_phase_treats_each_channel_as_if_it_were_alone() {
    let mut params = several();
    params.push(("phase", 1.0));
    let path = Path { stages: vec![stage(&params)] };
    let [keys, bass] = ["slip-keys", "slip-bass"].map(|kind| signal(kind, &[], 1).channels()[0].clone());
    let n = bass.len().min(keys.len());
    let mut right = bass[..n].to_vec();
    right[n / 3..n / 2].copy_from_slice(&keys[n / 3..n / 2]);
    let alone = |samples: &[f32]| render(&path, &Buffer::new(RATE, vec![samples.to_vec()]).unwrap()).after;
    let together = render(&path, &Buffer::new(RATE, vec![bass[..n].to_vec(), right.clone()]).unwrap()).after;
    assert_eq!(together.channels()[0], alone(&bass[..n]).channels()[0]);
    assert_eq!(together.channels()[1], alone(&right).channels()[0]);
}

#[test]
fn mid_and_side_with_equal_settings_are_stereo() {
    let keys = signal("slip-keys", &[], 2);
    for phase in [0.0, 1.0] {
        let mut params = several();
        params.push(("phase", phase));
        let whole = render(&Path { stages: vec![stage(&params)] }, &keys).after;
        let parts: Vec<Stage> =
            [Scope::Mid, Scope::Side].map(|scope| Stage { scope, ..stage(&params) }).into();
        let parts = render(&Path { stages: parts }, &keys).after;
        // The same by the scopes of the bands: each band twice.
        let mut by_bands = vec![("phase", phase)];
        for (first, second) in [("kind_1", "kind_2"), ("gain_1_db", "gain_2_db"), ("freq_1_hz", "freq_2_hz")]
        {
            let value = if first == "kind_1" {
                BELL
            } else if first == "gain_1_db" {
                9.0
            } else {
                700.0
            };
            by_bands.extend([(first, value), (second, value)]);
        }
        let both =
            stage(&by_bands[..6].iter().copied().filter(|(id, _)| !id.contains("_2")).collect::<Vec<_>>());
        by_bands.extend([("scope_1", 3.0), ("scope_2", 4.0)]);
        let scoped = render(&Path { stages: vec![stage(&by_bands)] }, &keys).after;
        let both = render(&Path { stages: vec![both] }, &keys).after;
        for (a, b) in [(&whole, &parts), (&both, &scoped)] {
            let apart = largest_difference(a, b);
            assert!(apart < 2e-6, "phase {phase}: {apart}");
        }
    }
}

fn largest_difference(a: &Buffer, b: &Buffer) -> f32 {
    let pairs = a.channels().iter().flatten().zip(b.channels().iter().flatten());
    pairs.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

/// Common practice: hum is a tone with its multiples.
#[test]
fn a_hum_series_takes_ten_harmonics_and_leaves_what_lies_between() {
    let hum = EFFECT.starting.iter().find(|point| point.name == "Mains hum, 50 Hz").unwrap();
    let values = stage(hum.values).values;
    let gain = |hz: f64| db_from_gain(band_response(&values, RATE, hz).norm());
    for harmonic in 1..=10 {
        let hz = 50.0 * f64::from(harmonic);
        assert!(gain(hz) < -40.0, "{hz} Hz: {}", gain(hz));
        near(gain(hz + 25.0), 0.0, 0.5);
        near(gain(hz + 5.0), 0.0, 0.5);
    }
    // Octaves would miss the third harmonic.
    let mut octaves = hum.values.to_vec();
    octaves.iter_mut().filter(|(id, _)| *id == "series_1").for_each(|(_, value)| *value = 2.0);
    let values = stage(&octaves).values;
    let gain = |hz: f64| db_from_gain(band_response(&values, RATE, hz).norm());
    assert!(gain(100.0) < -40.0 && gain(150.0) > -0.5);
    // As it is heard: a hum of ten harmonics.
    let path = Path { stages: vec![stage(hum.values)] };
    let after = render(&path, &tone(150.0, -12.0, 4.0)).after;
    let tail = &after.channels()[0][3 * RATE as usize..];
    assert!(tail.iter().all(|x| x.abs() < 0.0025), "the third harmonic is still heard");
}

/// A gain, a frequency, a width, a switch, another kind: nothing that moves may be steeper than the signal itself.
#[test]
fn nothing_clicks_when_a_band_moves() {
    use clear_bend_playing::path::Chain;
    let at = |id: &str| EFFECT.params.iter().position(|p| p.id == id).unwrap();
    let moves: [(&str, f64); 8] = [
        ("gain_1_db", -18.0),
        ("freq_1_hz", 3000.0),
        ("q_1", 8.0),
        ("on_1", 0.0),
        ("kind_1", LOW_CUT),
        ("series_1", 1.0),
        ("scope_1", 3.0),
        ("formula", 1.0),
    ];
    for freq_hz in [80.0, 1000.0] {
        let sine = signal("sine", &[("freq_hz", freq_hz), ("level_dbfs", -20.0), ("seconds", 1.0)], 2);
        for (id, to) in moves {
            let mut stage = stage(&band(BELL, freq_hz, 12.0, 1.0));
            let setup = clear_bend_effects::Setup { rate_hz: RATE, max_block: 128 };
            let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, setup);
            let mut sound = sine.clone();
            let mut frame = 0;
            sound.for_each_block(128, |io| {
                if frame == 128 * 200 {
                    stage.values[at(id)] = to;
                    chain.set(0, &stage);
                }
                chain.process(io, frame);
                frame += 128;
            });
            let samples = &sound.channels()[0];
            // A click is a sudden change of the slope: the second difference of a tone is small, and known.
            let bend = |from: usize, to: usize| {
                samples[from..to].windows(3).map(|w| (w[0] - 2.0 * w[1] + w[2]).abs()).fold(0.0f32, f32::max)
            };
            let (before, slope) = (
                bend(10_000, 25_000),
                samples[10_000..25_000].windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0f32, f32::max),
            );
            let moved = bend(25_000, 40_000);
            assert!(
                moved < before + 0.3 * slope,
                "{id} at {freq_hz} Hz: {moved} after {before}, slope {slope}"
            );
        }
    }
}

#[test]
fn what_cannot_be_is_refused_and_what_is_too_high_is_said() {
    let refused = |params: &[(&str, f64)]| Stage::new(&EFFECT, params).unwrap_err().to_string();
    assert_eq!(refused(&[("q_1", 0.0)]), "params.q_1 is 0; accepted: 0.1 to 100");
    assert_eq!(refused(&[("gain_3_db", 90.0)]), "params.gain_3_db is 90; accepted: -30 to 30 dB");
    assert_eq!(refused(&[("freq_1_hz", 30_000.0)]), "params.freq_1_hz is 30000; accepted: 5 to 24000 Hz");
    assert_eq!(
        refused(&[("slope_1", 20.0)]),
        "params.slope_1 is 20; accepted: 6 to 120 dB per octave, in steps of 6"
    );
    assert!(refused(&[("kind_2000", 6.0)]).contains("unknown name"));
    let high = stage(&band(BELL, 15_000.0, 12.0, 1.0));
    let said = (EFFECT.remark)(&high.values, 8000).unwrap();
    assert_eq!(
        said,
        "*1* band would lie over half the sample rate and stands at *3.92 kHz*, the highest there is."
    );
    let noise = clear_bend_testing::signal_at(8000, "white-noise", &[("seconds", 1.0)], 1);
    let after = render(&Path { stages: vec![high] }, &noise).after;
    assert!(after.channels()[0].iter().all(|x| x.abs() < 20.0));
}

/// Modes that were planted with the equaliser itself are found again, in noise and in music.
#[test]
fn planted_resonances_are_found_with_their_frequency() {
    let planted = [(180.0, 12.0, 14.0), (450.0, 16.0, 14.0), (1250.0, 10.0, 14.0), (3600.0, 14.0, 10.0)];
    let mut params: Vec<(String, f64)> = Vec::new();
    for (i, (freq_hz, q, gain_db)) in planted.iter().enumerate() {
        let n = i + 1;
        params.push((format!("kind_{n}"), BELL));
        params.push((format!("freq_{n}_hz"), *freq_hz));
        params.push((format!("q_{n}"), *q));
        params.push((format!("gain_{n}_db"), *gain_db));
    }
    let path = Path { stages: vec![stage_of(&params)] };
    for (kind, settings) in
        [("pink-noise", vec![("seconds", 20.0), ("level_dbfs", -30.0)]), ("slip-bass", vec![])]
    {
        let found = find_resonances(&render(&path, &signal(kind, &settings, 2)).after);
        println!("{kind}: {found:.1?}");
        let first = &found[..found.len().min(5)];
        let near = |freq_hz: f64| first.iter().find(|r| (r.freq_hz / freq_hz - 1.0).abs() < 0.03);
        for (freq_hz, q, _) in planted {
            let one = near(freq_hz).unwrap_or_else(|| panic!("{freq_hz} Hz is not found in {kind}"));
            assert!(one.q > q / 2.5 && one.q < q * 2.5, "{kind}: {one:?}");
        }
        let false_ones =
            first.iter().filter(|r| planted.iter().all(|(hz, ..)| (r.freq_hz / hz - 1.0).abs() >= 0.03));
        assert!(false_ones.count() <= 1, "{kind}");
    }
    // Noise without any has none, and silence neither.
    assert!(find_resonances(&signal("pink-noise", &[("seconds", 20.0)], 2)).len() <= 1);
    let silence = Buffer::new(RATE, vec![vec![0.0; 48_000]; 2]).unwrap();
    assert!(find_resonances(&silence).is_empty());
}

/// Hum is found where it is, to a hundredth of a hertz, and nowhere else.
#[test]
fn mains_hum_is_found_where_it_is() {
    for mains_hz in [50.0, 60.0] {
        let take = signal("slip-hum", &[("mains_hz", mains_hz)], 2);
        let found = Resonances::of(&take);
        let hum = found.hum.unwrap_or_else(|| panic!("no hum at {mains_hz} Hz"));
        assert!((hum.freq_hz - mains_hz).abs() < 0.01 && hum.mains_hz == mains_hz, "{hum:?}");
        assert!([1, 2, 3].iter().all(|k| hum.multiples.contains(k)), "{hum:?}");
        assert!(found.others.iter().all(|other| !hum.holds(other.freq_hz)));
    }
    // Mains that stray, by themselves in noise.
    let mut stray = signal("pink-noise", &[("seconds", 6.0), ("level_dbfs", -50.0)], 1);
    for (n, x) in stray.channels_mut()[0].iter_mut().enumerate() {
        let turn = std::f64::consts::TAU * 49.87 * n as f64 / f64::from(RATE);
        *x += (0.01 * turn.sin() + 0.005 * (2.0 * turn).sin() + 0.007 * (3.0 * turn).sin()) as f32;
    }
    let hum = Resonances::of(&stray).hum.unwrap();
    assert!((hum.freq_hz - 49.87).abs() < 0.01, "{hum:?}");
    for kind in [
        "boatyard-loop",
        "slip-bass",
        "slip-keys",
        "slip-chords",
        "slip-horn",
        "slip-drum",
        "pink-noise",
        "white-noise",
        "sweep",
    ] {
        assert_eq!(Resonances::of(&signal(kind, &[], 2)).hum, None, "{kind}");
    }
    let silence = Buffer::new(RATE, vec![vec![0.0; 200_000]; 2]).unwrap();
    assert_eq!(Resonances::of(&silence).hum, None);
}

/// A stage or a band that works on one channel only changes as much of the range as one on both.
#[test]
fn the_range_that_is_changed_is_seen_on_every_channel() {
    let passage = Passage::new(signal("slip-keys", &[], 2));
    let touched = |stage: Stage| {
        let (_, report) = report(&Path { stages: vec![stage] }, &passage);
        report.outcomes[0]["touched_oct"].unwrap()
    };
    let bell = band(BELL, 1000.0, 12.0, 1.0);
    let both = touched(stage(&bell));
    assert!(both > 2.0, "{both} octaves");
    for scope in [Scope::Left, Scope::Right, Scope::Mid, Scope::Side] {
        near(touched(Stage { scope, ..stage(&bell) }), both, 0.02);
    }
    for scope in 1..5u8 {
        let scoped = [bell.clone(), vec![("scope_1", f64::from(scope))]].concat();
        near(touched(stage(&scoped)), both, 0.02);
    }
}

/// Narrow lows in linear and balanced phase: held within a tenth of a decibel as far as the kernel can, and drawn as they
/// come out where it cannot; then a sentence says so.
#[test]
fn linear_phase_holds_narrow_lows_or_says_what_it_holds() {
    let mut worst: f64 = 0.0;
    for phase in [1.0, 2.0] {
        for (kind, hz, gain_db, q, slope, missed) in [
            (BELL, 60.0, 12.0, 10.0, 12.0, false),
            (BELL, 60.0, 12.0, 15.0, 12.0, false),
            (BELL, 60.0, 12.0, 30.0, 12.0, false),
            (BELL, 30.0, 18.0, 40.0, 12.0, true),
            (BELL, 25.0, -18.0, 20.0, 12.0, true),
            (LOW_CUT, 30.0, 0.0, 1.0, 120.0, false),
            (LOW_SHELF, 40.0, 9.0, 5.0, 12.0, false),
        ] {
            let mut params = band(kind, hz, gain_db, q);
            params.extend([("slope_1", slope), ("phase", phase)]);
            let stage = stage(&params);
            let freqs = log_freqs(20.0, 400.0, 150);
            let (gains, _) = predicted(&stage, 0, &freqs);
            let response = measure_response(&stage, RATE, Scope::Mid, Tail::Long);
            for (hz, gain) in freqs.iter().zip(&gains).filter(|(_, gain)| **gain > -40.0) {
                worst = worst.max((response.gain_db(*hz) - gain).abs());
            }
            let (at, _) = predicted(&stage, 0, &[hz]);
            let exact = db_from_gain(band_response(&stage.values, RATE, hz).norm());
            let said = (EFFECT.remark)(&stage.values, RATE).unwrap_or_default();
            if missed {
                assert!((at[0] - exact).abs() > 0.3, "{} {exact} at {hz} Hz, Q {q}", at[0]);
                assert!(said.contains("narrower than this phase can hold"), "{said}");
                assert!(said.contains("The curve shows what comes out"), "{said}");
            } else {
                near(at[0], exact, 0.25);
                assert!(!said.contains("narrower"), "{said}");
            }
        }
        // What once fell by 2.1 dB.
        let hum = EFFECT.starting.iter().find(|point| point.name == "Mains hum, 60 Hz").unwrap();
        let stage = stage(&[hum.values, &[("phase", phase)]].concat());
        let response = measure_response(&stage, RATE, Scope::Mid, Tail::Long);
        println!("hum of 60 Hz in phase {phase}: {:.1} dB", response.gain_db(60.0));
        assert!(response.gain_db(60.0) < -6.0);
        let (gains, _) = predicted(&stage, 0, &[60.0, 120.0]);
        // So deep, a tenth of a thousandth of what goes in makes a quarter of a decibel.
        near(response.gain_db(60.0), gains[0], 0.3);
    }
    println!("narrow lows: measured within {worst:.3} dB of what is drawn");
    assert!(worst < 0.2, "{worst}");
}

/// Whoever hears the range of a notch hears what it takes, with the notch still in: all of a hum, and nothing between.
#[test]
fn the_range_of_a_notch_is_what_it_takes() {
    let hum = EFFECT.starting.iter().find(|point| point.name == "Mains hum, 50 Hz").unwrap();
    for phase in [0.0, 1.0, 2.0] {
        let params = [hum.values, &[("hear", 1.0), ("phase", phase)]].concat();
        let stage = stage(&params);
        let response = measure_response(&stage, RATE, Scope::Mid, Tail::Long);
        for harmonic in 1..=10 {
            let hz = 50.0 * f64::from(harmonic);
            near(response.gain_db(hz), predicted(&stage, 0, &[hz]).0[0], 0.1);
            assert!(response.gain_db(hz) > if phase == 0.0 { -0.1 } else { -6.0 });
            assert!(response.gain_db(hz + 25.0) < -18.0, "{hz} + 25 Hz: {}", response.gain_db(hz + 25.0));
        }
        // As it is drawn.
        let (gains, _) = predicted(&stage, 0, &[50.0, 75.0, 150.0]);
        assert!(gains[1] < -18.0 && gains[0] > gains[1] + 12.0 && gains[2] > gains[1] + 12.0, "{gains:?}");
    }
    // A bell's range is heard before the bell, whatever its gain and wherever other bands are.
    for gain_db in [-24.0, 0.0, 24.0] {
        let params = [&band(BELL, 1000.0, gain_db, 4.0)[..], &[("hear", 1.0)]].concat();
        near(measure_response(&stage(&params), RATE, Scope::Mid, Tail::Usual).gain_db(1000.0), 0.0, 0.01);
    }
}

/// One band alone, everything but it, and a narrow boost with the level kept down.
#[test]
fn a_band_is_heard_alone_left_out_or_swept() {
    let gains = |hear: f64, params: &[(&'static str, f64)]| {
        let mut params = params.to_vec();
        params.push(("hear", hear));
        let response = measure_response(&stage(&params), RATE, Scope::Mid, Tail::Usual);
        [60.0, 500.0, 8000.0].map(|hz| response.gain_db(hz))
    };
    let bell = band(BELL, 500.0, -6.0, 2.0);
    let [low, middle, high] = gains(1.0, &bell);
    assert!(low < -20.0 && high < -20.0, "{low} {high}");
    // The range before its band acts.
    near(middle, 0.0, 0.01);
    let [low, middle, high] = gains(2.0, &bell);
    assert!(middle < -60.0);
    near(low, 0.0, 0.3);
    near(high, 0.0, 0.3);
    let [low, middle, high] = gains(3.0, &bell);
    near(middle, -6.0, 0.01);
    near(low, -12.0, 0.3);
    near(high, -12.0, 0.3);
    // What a cut takes away, and what it leaves: as steep as it is.
    let cut = [("kind_1", LOW_CUT), ("freq_1_hz", 200.0), ("slope_1", 24.0)];
    let [low, middle, high] = gains(1.0, &cut);
    near(low, 0.0, 0.1);
    // Butterworth, fourth order, 1.32 octaves over its corner; far over it, 24 dB per octave.
    near(middle, -10.0 * (1.0 + 2.5f64.powi(8)).log10(), 0.1);
    assert!(high < -100.0 && gains(2.0, &cut)[0] < -40.0, "{high}");
    // A band that is not there leaves everything to be heard, and a sentence says so.
    assert_eq!(gains(1.0, &[("hear_band", 7.0)]), gains(0.0, &[]));
    let missing = stage(&[("hear", 1.0), ("hear_band", 7.0)]);
    assert!((EFFECT.remark)(&missing.values, RATE).unwrap().contains("Band *7*"));
}

/// Derived: the zeros of a notch lie on the axis and turn the phase at their frequency only, so that its group delay is
/// that of its poles, 2 zeta w0 (w0^2 + w^2) / ((w0^2 - w^2)^2 + (2 zeta w0 w)^2) of the analogue filter.
#[test]
fn the_group_delay_of_a_notch_has_no_spike() {
    let stage = stage(&band(NOTCH, 500.0, 0.0, 2.0));
    let response = measure_response(&stage, RATE, Scope::Mid, Tail::Usual);
    let exact = |hz: f64| {
        let (w0, w) = (500.0 * std::f64::consts::TAU, hz * std::f64::consts::TAU);
        let width = w0 / 2.0;
        1000.0 * width * (w0 * w0 + w * w) / ((w0 * w0 - w * w).powi(2) + (width * w).powi(2))
    };
    let mut found = 0;
    for hz in log_freqs(100.0, 2500.0, 2000) {
        if let Some(delay) = response.group_delay_ms(hz) {
            near(delay, exact(hz), 0.02);
            found += 1;
        }
    }
    assert!(found > 1950 && response.group_delay_ms(500.0).is_none());
}

/// However narrow a band is, its centre is drawn: of hum at 50 Hz with nine multiples every notch is as deep on the page as it is in the
/// filter, among as few points as a phone has.
#[test]
fn narrow_bands_are_drawn_as_deep_as_they_are() {
    let effect = &EFFECT;
    let point = effect.starting.iter().find(|point| point.name.to_lowercase().contains("hum")).unwrap();
    let stage = stage_with("equaliser", point.values);
    let wanted = effect.curves(&stage.values, RATE, &[50.0, 150.0, 200.0, 250.0, 400.0, 500.0]).unwrap();
    // Of 301 points one is 200 Hz.
    for points in [120, 300, 301, 900] {
        let freqs = log_freqs(20.0, 20_000.0, points);
        let drawn = effect.drawn_curves(&stage.values, RATE, &freqs).unwrap();
        for (k, hz) in [50.0, 150.0, 200.0, 250.0, 400.0, 500.0].into_iter().enumerate() {
            let nearest = (0..points).min_by(|a, b| {
                let off = |i: usize| (freqs[i] / hz).ln().abs();
                off(*a).total_cmp(&off(*b))
            });
            let (found, filter) = (drawn.sums[0].gains_db[nearest.unwrap()], wanted.sums[0].gains_db[k]);
            assert!(
                found < filter.max(-120.0) + 1.0 && found.is_finite(),
                "{hz} Hz, {points}: {found} for {filter}"
            );
            assert!(filter < -20.0, "{hz} Hz: {filter}");
        }
    }
}

/// A cut near half the rate goes no deeper than it is set, nor does a boost rise higher.
#[test]
fn bells_near_the_top_keep_what_is_set() {
    for (rate_hz, freq_hz) in
        [(44_100u32, 20_500.0f64), (44_100, 19_000.0), (48_000, 20_000.0), (22_050, 10_200.0)]
    {
        for gain_db in [-12.0, -24.0, 12.0, 24.0] {
            for q in [0.7, 3.0, 12.0] {
                let params = [("kind_1", BELL), ("freq_1_hz", freq_hz), ("gain_1_db", gain_db), ("q_1", q)];
                let stage = stage_with("equaliser", &params);
                let freqs: Vec<f64> =
                    (1..4000).map(|k| 0.4999 * f64::from(rate_hz) * f64::from(k) / 4000.0).collect();
                let curves = stage.effect.curves(&stage.values, rate_hz, &freqs).unwrap();
                let (low, high) =
                    curves.sums[0].gains_db.iter().fold((0.0f64, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
                assert!(
                    low > gain_db.min(0.0) - 0.35 && high < gain_db.max(0.0) + 0.35,
                    "{freq_hz} Hz at {rate_hz}, {gain_db} dB, Q {q}: {low} to {high}"
                );
            }
        }
    }
}
