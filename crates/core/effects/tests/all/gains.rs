//! What is said of gains, against formulas written anew: what is left at the next hit, ducks, single bands, the onset
//! guard, input against output, long times, mixes, and what is taken out.

use clear_bend_effects::LevelStep;
use clear_bend_effects::{self as effects, saturation};
use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::report::{Looking, report};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{
    Levels, Sibilants, Tail, log_freqs, measure_response, measure_static_curve, measure_step,
};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;

use clear_bend_testing::{RATE, near, signal, source, tone, with_sound};

fn stage(effect: &str, params: &[(&str, f64)]) -> Stage {
    Stage::new(effects::find(effect).unwrap(), params).unwrap()
}

fn path(effect: &str, params: &[(&str, f64)]) -> Path {
    Path { stages: vec![stage(effect, params)] }
}

/// Hits of 50 ms of a 1 kHz tone, one every half second, at these levels.
fn hits(levels_dbfs: &[f64]) -> Buffer {
    let mut samples = vec![0.0f32; levels_dbfs.len() * 24_000];
    for (k, level) in levels_dbfs.iter().enumerate() {
        let gain = 10f64.powf(level / 20.0);
        for i in 0..2400 {
            let wave = (std::f64::consts::TAU * 1000.0 * f64::from(i) / f64::from(RATE)).sin();
            samples[12_000 + k * 24_000 + i as usize] = (gain * wave) as f32;
        }
    }
    Buffer::new(RATE, vec![samples]).unwrap()
}

/// Over a gap the reduction dies away as an exponential: what is left at the next hit is all of it times exp(-gap / t).
/// With lookahead, the gap ends where the next hit is seen coming.
#[test]
fn what_is_left_at_the_next_hit_is_what_the_last_one_left() {
    let passage = Passage::new(hits(&[0.0; 6]));
    let cases = [
        ("limiter", vec![("ceiling_db", -20.0), ("true_peak", 0.0), ("lookahead_ms", 5.0)], 5.0),
        ("limiter", vec![("ceiling_db", -20.0), ("lookahead_ms", 0.0)], 0.0),
        ("limiter", vec![("ceiling_db", -20.0), ("lookahead_ms", 10.0)], 10.0),
        (
            "compressor",
            vec![
                ("threshold_db", -20.0),
                ("ratio", f64::INFINITY),
                ("knee_db", 0.0),
                ("attack_ms", 0.0),
                ("lookahead_ms", 10.0),
            ],
            10.0,
        ),
        (
            "compressor",
            vec![("threshold_db", -20.0), ("ratio", f64::INFINITY), ("knee_db", 0.0), ("attack_ms", 0.0)],
            0.0,
        ),
    ];
    for (effect, params, lookahead_ms) in cases {
        let path = path(effect, &params);
        let bend = BendOf::new(&path, 0, "release_ms").unwrap();
        assert_eq!(bend.outcome.id, "left_at_next_onset_db");
        for release_ms in [10.0, 50.0, 200.0, 400.0, 1000.0] {
            let found = bend.point(&mut Looking::default(), &passage, release_ms).outcome.unwrap();
            // What was left before adds nothing: the gain is held at 20 dB in every hit. A compressor sees both the end
            // of a hit and the next one early, and its detector holds for 1 ms; a limiter holds its gain over the hit,
            // and goes back as the mean over its lookahead.
            let gap_ms = if effect == "limiter" { 450.0 - 1.5 * lookahead_ms } else { 449.0 };
            let expected = 20.0 * (-gap_ms / release_ms).exp();
            near(found, expected, 0.02 * expected + 0.1);
        }
    }
}

#[test]
fn the_depth_of_a_duck_is_its_own() {
    // A key of loud and soft hits in turn: 20 dB and 2 dB over the threshold.
    let key = hits(&[0.0, -18.0, 0.0, -18.0, 0.0, -18.0]);
    let before = tone(300.0, -12.0, 3.0);
    for effect in ["compressor", "limiter"] {
        let params: &[(&str, f64)] = match effect {
            "limiter" => {
                &[("ceiling_db", -20.0), ("lookahead_ms", 10.0), ("release_ms", 20.0), ("true_peak", 0.0)]
            }
            _ => &[
                ("threshold_db", -20.0),
                ("ratio", f64::INFINITY),
                ("knee_db", 0.0),
                ("attack_ms", 0.0),
                ("lookahead_ms", 10.0),
                ("release_ms", 20.0),
            ],
        };
        let mut path = path(effect, params);
        with_sound(&mut path.stages[0], 0, source("sine", &[]), &key, key.frames());
        // What comes in stays under the limiter's ceiling by itself.
        let quiet = if effect == "limiter" { -30.0 } else { 0.0 };
        let mut before = before.clone();
        before.apply_gain_db(quiet);
        let (_, report) = report(&path, &Passage::new(before));
        let ducks = &report.stages[0].ducks;
        assert_eq!(ducks.len(), 6);
        for (k, duck) in ducks.iter().enumerate() {
            near(duck.depth_db, if k % 2 == 0 { 20.0 } else { 2.0 }, 0.1);
        }
    }
}

/// A low tone 40 dB over its threshold, a high one 10 dB: each band's parameters bend that band. JAES 60(6), eq. 4: what
/// is over the threshold by x comes down by x (1 - 1/R).
#[test]
fn the_bend_of_a_band_is_that_bands() {
    let (low, high) = (tone(60.0, 0.0, 2.0), tone(2503.0, -10.0, 2.0));
    let sum = low.channels()[0].iter().zip(&high.channels()[0]).map(|(a, b)| a + b).collect();
    let passage = Passage::new(Buffer::new(RATE, vec![sum]).unwrap());
    let path = path(
        "multiband",
        &[
            ("bands", 0.0),
            ("crossover_1_hz", 600.0),
            ("knee_db", 0.0),
            ("threshold_1_db", -40.0),
            ("ratio_1", 4.0),
            ("threshold_2_db", -20.0),
            ("ratio_2", 2.0),
        ],
    );
    let largest = BendOf::new(&path, 0, "ratio_2").unwrap();
    for ratio in [1.0, 1.5, 2.0, 5.0, f64::INFINITY] {
        near(
            largest.point(&mut Looking::default(), &passage, ratio).outcome.unwrap(),
            10.0 * (1.0 - 1.0 / ratio),
            0.1,
        );
    }
    let mean = BendOf::new(&path, 0, "threshold_2_db").unwrap();
    for threshold in [-30.0, -20.0, -15.0, 0.0] {
        near(
            mean.point(&mut Looking::default(), &passage, threshold).outcome.unwrap(),
            (-10.0f64 - threshold).max(0.0) / 2.0,
            0.2,
        );
    }
    let deep = BendOf::new(&path, 0, "threshold_1_db").unwrap();
    // Short of 30 by the attack, and where the level dips between two crests of 60 Hz.
    near(deep.point(&mut Looking::default(), &passage, -40.0).outcome.unwrap(), 29.0, 1.0);
    let (_, report) = report(&path, &passage);
    near(report.outcomes[0]["largest_reduction_2_db"].unwrap(), 5.0, 0.1);
}

/// After a rise of 60 dB, the guard lets its time pass and no more.
#[test]
fn the_onset_guard_opens_once_for_each_onset() {
    for rise_db in [20.0, 30.0, 60.0] {
        for guard_ms in [5.0, 20.0, 50.0] {
            let quiet = tone(1000.0, -rise_db, 1.0);
            let loud = tone(1000.0, 0.0, 1.0);
            let both = [quiet.channels()[0].clone(), loud.channels()[0].clone()].concat();
            let params = [
                ("threshold_db", -15.0),
                ("ratio", f64::INFINITY),
                ("knee_db", 0.0),
                ("attack_ms", 0.0),
                ("release_ms", 5.0),
                ("guard_ms", guard_ms),
            ];
            let gain = render(&path("compressor", &params), &Buffer::new(RATE, vec![both]).unwrap())
                .gain_db(0)
                .unwrap()
                .to_vec();
            let at = |ms: f64| 48_000 + (48.0 * ms) as usize;
            assert!(gain[at(1.0)..at(guard_ms - 0.1)].iter().all(|g| *g > -0.1), "{rise_db} {guard_ms}");
            assert!(
                gain[at(guard_ms + 3.0)..].iter().all(|g| (*g + 15.0).abs() < 0.05),
                "{rise_db} {guard_ms}"
            );
        }
    }
    // The step picture says the same: 20 ms, and the edge of one.
    let params = [("threshold_db", -30.0), ("attack_ms", 0.0), ("guard_ms", 20.0), ("knee_db", 0.0)];
    let step = LevelStep { quiet_dbfs: -60.0, loud_dbfs: -10.0 };
    let response = measure_step(&stage("compressor", &params), RATE, step).unwrap();
    near(response.up.to_63_ms.unwrap(), 20.5, 0.6);
}

/// JAES 60(6), eq. 4 with a hard knee, then the mix as the sum of both waves, then the output gain.
#[test]
fn the_measured_curve_is_that_of_the_whole_stage() {
    let expected = |x: f64, threshold: f64, ratio: f64, mix: f64, output_db: f64| {
        let y = if x > threshold { threshold + (x - threshold) / ratio } else { x };
        20.0 * (mix * 10f64.powf(y / 20.0) + (1.0 - mix) * 10f64.powf(x / 20.0)).log10() + output_db
    };
    for (mix, output_db, rate_hz) in
        [(1.0, 6.0, 48_000), (0.5, 0.0, 44_100), (0.25, -12.0, 11_025), (0.0, 3.0, 96_000)]
    {
        let params = [("threshold_db", -40.0), ("ratio", 8.0), ("knee_db", 0.0), ("output_db", output_db)];
        let stage = Stage { mix, ..stage("compressor", &params) };
        for point in measure_static_curve(&stage, rate_hz, 6) {
            let whole = expected(point.input_dbfs, -40.0, 8.0, mix, output_db);
            near(point.output_dbfs, whole, 0.05);
            near(point.predicted_dbfs.unwrap(), whole, 1e-6);
            near(point.asked_dbfs.unwrap(), expected(point.input_dbfs, -40.0, 8.0, 1.0, 0.0), 1e-6);
        }
    }
    // A slow RMS detector has to rise before the gain moves at all; it reads a tone 3.01 dB under its peak.
    for window_ms in [50.0, 300.0] {
        let params = [
            ("threshold_db", -40.0),
            ("ratio", 8.0),
            ("knee_db", 0.0),
            ("detector", 1.0),
            ("rms_window_ms", window_ms),
        ];
        for point in measure_static_curve(&stage("compressor", &params), RATE, 6) {
            near(point.output_dbfs, expected(point.input_dbfs, -36.9897, 8.0, 1.0, 0.0), 0.05);
        }
    }
    // What comes 192 ms late comes.
    for point in measure_static_curve(&stage("equaliser", &[("phase", 1.0)]), RATE, 20) {
        near(point.output_dbfs, point.input_dbfs, 0.01);
    }
    // Where something else is heard, there is no formula.
    let listening = stage("compressor", &[("hear", 1.0)]);
    assert!(measure_static_curve(&listening, RATE, 30).iter().all(|p| p.predicted_dbfs.is_none()));
}

/// An exponential of time t is 1 - 1/e of its way after t, and 95 % after t ln 20.
#[test]
fn long_times_are_waited_for() {
    for (attack_ms, release_ms, lookahead_ms) in
        [(500.0, 5000.0, 0.0), (1.0, 3000.0, 10.0), (500.0, 1.0, 10.0)]
    {
        let params = [
            ("threshold_db", -30.0),
            ("knee_db", 0.0),
            ("attack_ms", attack_ms),
            ("release_ms", release_ms),
            ("lookahead_ms", lookahead_ms),
        ];
        let response = measure_step(&stage("compressor", &params), RATE, LevelStep::USUAL).unwrap();
        assert!(response.up.settled && response.down.settled);
        near(response.up.to_db, -15.0, 0.02);
        near(response.down.to_db, 0.0, 0.02);
        // The level comes a little before the crest of the wave; down, it is held for 1 ms and half a wave.
        near(response.up.to_63_ms.unwrap(), attack_ms - lookahead_ms, 0.3 + 0.002 * attack_ms);
        near(response.up.to_95_ms.unwrap(), attack_ms * 20f64.ln() - lookahead_ms, 0.3 + 0.005 * attack_ms);
        near(response.down.to_63_ms.unwrap(), release_ms + 1.2 - lookahead_ms, 0.6 + 0.002 * release_ms);
        near(
            response.down.to_95_ms.unwrap(),
            release_ms * 20f64.ln() + 1.2 - lookahead_ms,
            1.0 + 0.005 * release_ms,
        );
    }
    // A gate is stepped around its own threshold, wherever that is.
    for threshold_db in [-80.0, -45.0, 0.0] {
        let params = [
            ("threshold_db", threshold_db),
            ("attack_ms", 20.0),
            ("hold_ms", 0.0),
            ("release_ms", 100.0),
            ("range_db", 40.0),
        ];
        let gate = stage("gate", &params);
        let response = measure_step(&gate, RATE, gate.effect.step(&gate.values)).unwrap();
        near(response.up.to_63_ms.unwrap(), 20.0, 0.4);
        near(response.down.to_63_ms.unwrap() - 1.0, 100.0, 2.0);
        near(response.down.to_db, -40.0, 0.02);
    }
}

/// At ratio 1 nothing is compressed: any mix of the bands and of what lies under them is flat.
#[test]
fn a_mix_of_bands_has_no_holes_at_the_crossovers() {
    for (bands, mix) in [(0.0, 0.5), (1.0, 0.5), (2.0, 0.3), (3.0, 0.9)] {
        let mut params = vec![("bands".to_owned(), bands)];
        params.extend((1..=5).map(|band| (format!("ratio_{band}"), 1.0)));
        let params: Vec<(&str, f64)> = params.iter().map(|(id, v)| (id.as_str(), *v)).collect();
        let stage = Stage { mix, ..stage("multiband", &params) };
        let response = measure_response(&stage, RATE, Scope::Stereo, Tail::Usual);
        for hz in log_freqs(20.0, 20_000.0, 200) {
            near(response.gain_db(hz), 0.0, 0.01);
        }
    }
}

#[test]
fn a_gate_takes_nothing_from_steady_noise_far_above_it() {
    let noise = signal("white-noise", &[("level_dbfs", -10.0), ("seconds", 2.0)], 2);
    for attack_ms in [0.0, 50.0] {
        let path = path("gate", &[("threshold_db", -60.0), ("attack_ms", attack_ms), ("range_db", 60.0)]);
        let (rendered, report) = report(&path, &Passage::new(noise.clone()));
        assert_eq!(report.reductions[0].unwrap().largest_db, 0.0);
        assert_eq!(rendered.after, noise);
    }
}

/// What is taken out and what is left add up to what there was, whatever the drive and the mix.
#[test]
fn what_is_taken_out_is_what_is_missing() {
    let before = signal("boatyard-loop", &[], 2).slice(0..96_000);
    let cases = [
        ("compressor", vec![("threshold_db", -30.0), ("drive_db", 12.0)]),
        ("compressor", vec![("threshold_db", -30.0), ("link", 0.3), ("lookahead_ms", 4.0)]),
        ("gate", vec![("threshold_db", -20.0)]),
        ("de-esser", vec![("threshold_db", -50.0)]),
        ("limiter", vec![("ceiling_db", -12.0)]),
    ];
    for (effect, params) in cases {
        for mix in [1.0, 0.5, 0.1] {
            let of = |hear: f64| {
                let params = [&params[..], &[("hear", hear)]].concat();
                render(&Path { stages: vec![Stage { mix, ..stage(effect, &params) }] }, &before).after
            };
            let (left, heard, taken) = (of(0.0), of(1.0), of(2.0));
            let whole = before.channels()[1].iter().zip(&left.channels()[1]).zip(&taken.channels()[1]);
            let off = whole.map(|((before, left), taken)| (before - left - taken).abs()).fold(0.0, f32::max);
            assert!(off < 2e-6, "{effect} at {mix}: {off}");
            assert!(taken.channels()[1].iter().any(|x| x.abs() > 1e-3));
            // What the detector hears does not get fainter with the mix.
            if effect == "compressor" && mix < 1.0 {
                let driven =
                    if params.iter().any(|(id, _)| *id == "drive_db") { 10f32.powf(0.6) } else { 1.0 };
                let off = before.channels()[0].iter().zip(&heard.channels()[0]);
                let off = off.map(|(x, y)| (driven * x - y).abs()).fold(0.0, f32::max);
                assert!(off < 1e-5, "{effect} at {mix}: {off}");
            }
        }
    }
}

/// Make-up is no part of what is taken out.
#[test]
fn make_up_does_not_hide_what_is_taken_out() {
    let before = tone(1000.0, -10.0, 1.0);
    let taken = |makeup_db: f64| {
        let params = [
            ("threshold_db", -20.0),
            ("ratio", 2.0),
            ("knee_db", 0.0),
            ("makeup_db", makeup_db),
            ("hear", 2.0),
        ];
        Levels::of(&render(&path("compressor", &params), &before).after.slice(24_000..48_000)).peak_dbfs
    };
    // 10 dB over at 2:1 lose 5 dB: 1 - 10^(-5/20) of the wave.
    let expected = -10.0 + 20.0 * (1.0 - 10f64.powf(-0.25)).log10();
    near(taken(0.0), expected, 0.02);
    near(taken(12.0), expected, 0.02);
}

/// The words on the level of a bent wave, held against what comes out: at eight times the rate nothing passes it;
/// without what lies over the audible range, samples do.
#[test]
fn a_bent_wave_passes_its_level_by_as_much_as_is_said() {
    let over = |sound: &Buffer, drive_db: f64| {
        let params = [("level_db", -12.0), ("drive_db", drive_db), ("corner", 1.0)];
        Levels::of(&render(&path("saturation", &params), sound).after).peak_dbfs + 12.0
    };
    let mut sine: f64 = 0.0;
    for (k, drive_db) in [6.0, 12.0, 24.0, 36.0].into_iter().enumerate() {
        for freq_hz in [100.0, 997.0, 3000.0, 7000.0, 15_000.0] {
            sine = sine.max(over(&tone(freq_hz + k as f64, 0.0, 0.5), drive_db));
        }
    }
    let noise = over(&signal("white-noise", &[("level_dbfs", -5.0), ("seconds", 4.0)], 1), 36.0);
    println!("a hard edge: a sine passes its level by {sine:.2} dB, white noise by {noise:.2} dB");
    assert!((3.0..=4.0).contains(&sine) && (3.0..=5.0).contains(&noise), "{sine} {noise}");
    let level = saturation::EFFECT.params.iter().find(|p| p.id == "level_db").unwrap();
    assert!(level.what.contains("4 dB") && level.what.contains("5 dB"));
}

/// A dark vowel and an s: whatever there is in the vowels, an s that loses 23 dB is no s any more.
#[test]
fn a_lisp_is_seen_beside_vowels_without_highs() {
    let noise = signal("white-noise", &[("level_dbfs", -8.0), ("seconds", 2.0)], 1);
    let vowel = tone(200.0, -12.0, 2.0);
    let voice = |s_db: f64| {
        let gain = 10f64.powf(s_db / 20.0) as f32;
        let samples = (0..96_000).map(|i| {
            // 100 ms of s in the middle of every half second.
            if (9_600..14_400).contains(&(i % 24_000)) {
                gain * noise.channels()[0][i]
            } else {
                vowel.channels()[0][i]
            }
        });
        Buffer::new(RATE, vec![samples.collect()]).unwrap()
    };
    let lisping =
        |s_db: f64, off_db: f64| Sibilants::between(&voice(s_db), &voice(s_db - off_db)).unwrap().lisping;
    assert_eq!(lisping(-6.0, 23.0), 4);
    assert_eq!(lisping(-6.0, 13.0), 4);
    assert_eq!(lisping(-6.0, 6.0), 0);
    assert_eq!(lisping(-6.0, 0.0), 0);
}
