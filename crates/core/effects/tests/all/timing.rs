//! What a complete compressor has beside threshold, ratio, attack and release, and the time constants of all effects.

use clear_bend_effects as effects;
use clear_bend_effects::LevelStep;
use clear_bend_explaining::report::report;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{Levels, find_onsets, measure_static_curve, measure_step, onset_levels};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals::Source;
use clear_bend_sound::Buffer;
use clear_bend_testing::{RATE, compressor, demo_loop, near, place, signal, tone, with_sound};

fn stage(effect: &str, params: &[(&str, f64)]) -> Stage {
    Stage::new(effects::find(effect).unwrap(), params).unwrap()
}

fn gain(path: &Path, before: &Buffer) -> Vec<f32> {
    render(path, before).gain_db(0).unwrap().to_vec()
}

#[test]
fn times_are_those_to_63_percent_for_every_shape_at_every_rate() {
    // JAES 60(6), 2012, section 2.3, for the exponential; docs/measures.md for the other shapes.
    for rate in [44_100, 48_000, 96_000] {
        for shape in [-1.0, -0.5, 0.0, 0.4, 1.0] {
            let params = [
                ("attack_ms", 40.0),
                ("release_ms", 150.0),
                ("attack_shape", shape),
                ("release_shape", shape),
                ("knee_db", 0.0),
            ];
            let response = measure_step(&stage("compressor", &params), rate, LevelStep::USUAL).unwrap();
            // The detector holds the level of a tone for up to 1.5 ms: half a wave up, the hold down.
            near(response.up.to_63_ms.unwrap(), 40.0, 0.8);
            near(response.down.to_63_ms.unwrap() - 1.0, 150.0, 3.0);
            // Abrupt arrives early, drawn-out late: exactly, 1/(1 - 1/e) = 1.58 times for a straight line's whole way.
            let ratio = response.down.to_95_ms.unwrap() / response.down.to_63_ms.unwrap();
            let expected =
                if shape == 0.0 { 20f64.ln() } else { (1.0 - 0.05f64.powf(-shape)) / (1.0 - shape.exp()) };
            near(ratio, expected, 0.03 * expected);
        }
        let limiter = [("ceiling_db", -20.0), ("release_ms", 200.0), ("lookahead_ms", 1.0)];
        let response = measure_step(&stage("limiter", &limiter), rate, LevelStep::USUAL).unwrap();
        // The gain is held for the lookahead before it is released.
        near(response.down.to_63_ms.unwrap() - 1.0, 200.0, 4.0);
        let gate = [
            ("threshold_db", -20.0),
            ("range_db", 30.0),
            ("attack_ms", 20.0),
            ("hold_ms", 0.0),
            ("release_ms", 100.0),
        ];
        let response = measure_step(&stage("gate", &gate), rate, LevelStep::USUAL).unwrap();
        near(response.up.to_63_ms.unwrap(), 20.0, 0.4);
        near(response.down.to_63_ms.unwrap() - 1.0, 100.0, 2.0);
    }
}

#[test]
fn a_step_is_read_by_both_definitions() {
    // By derivation: 4:1, threshold -30, hard knee; -10 dBFS is 20 dB over, so the gain goes from 0 to -15 dB.
    let params = [
        ("threshold_db", -30.0),
        ("ratio", 4.0),
        ("knee_db", 0.0),
        ("attack_ms", 50.0),
        ("release_ms", 200.0),
    ];
    let response = measure_step(&stage("compressor", &params), RATE, LevelStep::USUAL).unwrap();
    near(response.up.to_db, -15.0, 0.02);
    // Within 3 dB of -15: 50 ms ln(15/3); within 4 dB of 0: 200 ms ln(15/4), after the hold of the detector.
    near(response.up.standard_ms.unwrap(), 50.0 * 5f64.ln(), 1.0);
    near(response.down.standard_ms.unwrap(), 1.0 + 200.0 * 3.75f64.ln(), 2.0);
    near(response.up.to_95_ms.unwrap(), 50.0 * 20f64.ln(), 1.5);
    // A stage that does nothing has no times; one that reports no gain has no response.
    let idle = measure_step(&stage("compressor", &[("ratio", 1.0)]), RATE, LevelStep::USUAL).unwrap();
    assert_eq!((idle.up.to_63_ms, idle.down.standard_ms), (None, None));
    assert!(measure_step(&stage("gain", &[]), RATE, LevelStep::USUAL).is_none());
}

#[test]
fn static_curves_are_their_formulas() {
    let cases = [
        stage("compressor", &[("threshold_db", -30.0), ("ratio", 3.0), ("knee_db", 12.0), ("range_db", 9.0)]),
        stage(
            "compressor",
            &[("threshold_db", -24.0), ("detector", 1.0), ("rms_window_ms", 50.0), ("drive_db", 8.0)],
        ),
        stage("compressor", &[("threshold_db", -24.0), ("auto_makeup", 1.0), ("output_db", -3.0)]),
        stage("limiter", &[("ceiling_db", -12.0), ("knee_db", 10.0), ("drive_db", 6.0), ("true_peak", 0.0)]),
        stage("gate", &[("threshold_db", -30.0), ("ratio", 2.0), ("range_db", 25.0), ("output_db", 2.0)]),
        stage("gate", &[("threshold_db", -25.0), ("range_db", 40.0)]),
    ];
    for stage in &cases {
        for point in measure_static_curve(stage, RATE, 2) {
            near(point.output_dbfs, point.predicted_dbfs.unwrap(), 0.05);
        }
    }
    // Full scale in is full scale out with the automatic make-up, but for the output gain.
    near(measure_static_curve(&cases[2], RATE, 60).last().unwrap().output_dbfs, -3.0, 0.05);
    // Common practice: at 1:2, 10 dB under the threshold become 20.
    let expander = &cases[4];
    near(measure_static_curve(expander, RATE, 20)[1].output_dbfs, -50.0 + 2.0, 0.05);
}

#[test]
fn hold_waits_and_lookahead_comes_early() {
    let base = [("threshold_db", -30.0), ("attack_ms", 1.0), ("release_ms", 20.0)];
    let step = |more: &[(&str, f64)]| {
        let path = compressor(&[&base[..], more].concat());
        measure_step(&path.stages[0], RATE, LevelStep::USUAL).unwrap()
    };
    let plain = step(&[]);
    let held = step(&[("hold_ms", 100.0)]);
    near(held.down.to_63_ms.unwrap() - plain.down.to_63_ms.unwrap(), 100.0, 1.0);
    let early = step(&[("lookahead_ms", 5.0)]);
    near(plain.up.to_63_ms.unwrap() - early.up.to_63_ms.unwrap(), 5.0, 0.1);
}

#[test]
fn the_guard_lets_every_onset_pass() {
    let before = demo_loop();
    let onsets = find_onsets(&before);
    let peaks = |params: &[(&str, f64)]| {
        let path = compressor(
            &[&[("threshold_db", -36.0), ("ratio", 8.0), ("attack_ms", 0.0), ("release_ms", 100.0)], params]
                .concat(),
        );
        onset_levels(&render(&path, &before).after, &onsets)
    };
    let untouched = onset_levels(&before, &onsets);
    let (caught, guarded) = (peaks(&[]), peaks(&[("guard_ms", 20.0)]));
    let mut passed = 0;
    for ((was, caught), guarded) in untouched.iter().zip(&caught).zip(&guarded).skip(1) {
        // The first crack passes within half a decibel, where it would be caught without the guard; the body is held.
        passed += usize::from((guarded.transient_dbfs - was.transient_dbfs).abs() < 0.5);
        assert!(guarded.transient_dbfs >= caught.transient_dbfs - 0.01);
    }
    assert!(passed * 10 >= 9 * (onsets.len() - 1), "{passed} of {}", onsets.len() - 1);
    let body = |levels: &[clear_bend_measures::OnsetLevels]| {
        levels.iter().map(|o| o.body_dbfs).sum::<f64>() / levels.len() as f64
    };
    assert!(body(&guarded) < body(&untouched) - 3.0);
}

#[test]
fn an_rms_detector_lets_cracks_pass_and_an_unlinked_one_moves_the_balance() {
    // Common practice: RMS goes by how much sound there is, so a click of 1 ms hardly moves it.
    let mut click = vec![0.0; 48_000];
    click[24_000..24_048].fill(0.9);
    let click = Buffer::new(RATE, vec![click]).unwrap();
    let largest = |params: &[(&str, f64)]| {
        let path = compressor(&[&[("threshold_db", -30.0), ("attack_ms", 0.0)], params].concat());
        gain(&path, &click).iter().fold(0.0f32, |a, b| a.min(*b))
    };
    assert!(largest(&[]) < -20.0);
    assert!(largest(&[("detector", 1.0), ("rms_window_ms", 300.0)]) > -6.0);
    let loud = tone(500.0, -6.0, 1.0).channels()[0].clone();
    let quiet: Vec<f32> = loud.iter().map(|x| x * 0.1).collect();
    let both = Buffer::new(RATE, vec![loud, quiet]).unwrap();
    let balance = |link: f64| {
        let after =
            render(&compressor(&[("threshold_db", -26.0), ("ratio", 4.0), ("link", link)]), &both).after;
        let level = |c: usize| {
            Levels::of(&Buffer::new(RATE, vec![after.channels()[c][24_000..].to_vec()]).unwrap()).rms_dbfs
        };
        level(0) - level(1)
    };
    near(balance(1.0), 20.0, 0.02);
    // Unlinked: the loud side, 20 dB over, loses 15 dB; the quiet one, at the threshold, nothing. Half way, both of half.
    near(balance(0.0), 5.0, 0.05);
    near(balance(0.5), 12.5, 0.1);
}

#[test]
fn an_automatic_release_is_quick_for_hits_and_slow_for_held_notes() {
    let path = compressor(&[("threshold_db", -30.0), ("release_ms", 500.0), ("auto_release", 1.0)]);
    // A held tone: the crest factor of a sine, so the release is the longest one.
    let held =
        measure_step(&path.stages[0], RATE, LevelStep { quiet_dbfs: -60.0, loud_dbfs: -10.0 }).unwrap();
    assert!(held.down.to_63_ms.unwrap() > 100.0);
    // A click after silence: the crest factor is large, and the gain is back in a fraction of that.
    let mut click = vec![0.0; 96_000];
    click[24_000..24_048].fill(0.9);
    let gain = gain(&path, &Buffer::new(RATE, vec![click]).unwrap());
    let deepest = (0..gain.len()).min_by(|a, b| gain[*a].total_cmp(&gain[*b])).unwrap();
    let back = gain[deepest..].iter().position(|g| *g > gain[deepest] * 0.368).unwrap();
    assert!(back < 48 * 80, "{back} samples");
}

#[test]
fn a_ducked_bass_depends_on_the_onsets_of_its_key_alone() {
    let drum = signal("boatyard-loop", &[], 1);
    let track = Source::Track { hash: "a".repeat(64), name: None };
    let bass = tone(80.0, -12.0, 8.0);
    let other = tone(110.0, -30.0, 8.0);
    let mut path =
        compressor(&[("threshold_db", -30.0), ("ratio", 4.0), ("range_db", 9.0), ("release_ms", 120.0)]);
    let keyed = |path: &Path, source: &Buffer| {
        let mut path = path.clone();
        with_sound(&mut path.stages[0], 0, track.clone(), &drum, source.frames());
        (gain(&path, source), render(&path, source).after)
    };
    let (with_bass, after) = keyed(&path, &bass);
    assert!(with_bass == keyed(&path, &other).0);
    // Nothing before the key sounds, and at each of its loud onsets the bass goes down.
    assert!(Levels::of(&after).rms_dbfs < Levels::of(&bass).rms_dbfs - 0.3);
    // What is said of it is what the key does, even where the source alone would stay under the threshold.
    let mut quiet = path.clone();
    let source = tone(80.0, -40.0, 8.0);
    with_sound(&mut quiet.stages[0], 0, track.clone(), &drum, source.frames());
    let said = report(&quiet, &Passage::new(source)).1.sentences;
    let said: Vec<String> = said.iter().map(ToString::to_string).collect();
    assert!(said.iter().any(|s| s.contains("onsets of the key")), "{said:?}");
    assert!(!said.iter().any(|s| s.contains("Nothing is reduced")), "{said:?}");
    // A key that is not there is silent, and so is a key whose cuts leave nothing: the bass stays as it is.
    path.stages[0].values[place("key_low_cut_hz")] = 2000.0;
    path.stages[0].values[place("key_high_cut_hz")] = 200.0;
    path.stages[0].values[place("threshold_db")] = 0.0;
    assert!(keyed(&path, &bass).0.iter().all(|g| *g > -0.01));
}
