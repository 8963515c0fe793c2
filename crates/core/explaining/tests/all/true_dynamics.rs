//! What is told of dynamics and levels, against readings of the samples themselves.

use std::f64::consts::TAU;
use std::sync::Arc;

use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::fan::FanOf;
use clear_bend_explaining::report::{Looking, report};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{Hum, Levels, Pumping, find_onsets, measure_static_curve};
use clear_bend_playing::path::{Path, Sound, Stage};
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;

use clear_bend_testing::decays::Gauss;
use clear_bend_testing::{RATE, cases, demo_loop, near, signal, source, stage_with};

fn told(path: &Path, source: &Buffer) -> String {
    let (_, report) = report(path, &Passage::new(source.clone()));
    report.sentences.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
}

fn path(stage: Stage) -> Path {
    Path { stages: vec![stage] }
}

/// A fixed gain is what it comes to, mix and all.
#[test]
fn a_fixed_gain_is_told_as_it_is_heard() {
    let drums = demo_loop();
    for (makeup_db, mix) in [(6.0, 0.5), (6.0, 1.0), (-12.0, 0.5), (3.0, 0.2)] {
        let stage = Stage { mix, ..stage_with("compressor", &[("ratio", 1.0), ("makeup_db", makeup_db)]) };
        let wanted = 20.0 * (mix * 10f64.powf(makeup_db / 20.0) + 1.0 - mix).log10();
        let said = told(&path(stage), &drums);
        let number = format!("{:.1} dB", wanted.abs());
        assert!(said.contains("Only a fixed gain of") && said.contains(&number), "{said} for {wanted}");
    }
}

/// A wave is bent between its samples too: nothing is told to be straight that is not.
#[test]
fn what_is_bent_between_samples_is_bent() {
    // At a quarter of the rate with half of a right angle, every sample is 3 dB under the wave.
    let side: Vec<f32> =
        (0..RATE as usize).map(|i| 0.999 * (TAU * (0.25 * i as f64 + 0.125)).sin() as f32).collect();
    let tone = Buffer::new(RATE, vec![side.clone(), side]).unwrap();
    let bent = path(stage_with("saturation", &[("level_db", -1.5), ("corner", 1.0), ("drive_db", 0.0)]));
    let (rendered, _) = report(&bent, &Passage::new(tone.clone()));
    let (x, y) = (&tone.channels()[0], &rendered.after.channels()[0]);
    let changed: f64 = x.iter().zip(y).map(|(x, y)| f64::from(x - y).powi(2)).sum::<f64>();
    assert!(changed > 1.0);
    assert!(!told(&bent, &tone).contains("Nothing is bent"), "{}", told(&bent, &tone));
}

/// A gain that moves by 8 dB twice a second is told to, however the onsets between lie.
#[test]
fn pumping_is_found_at_the_beat() {
    let gain: Vec<f32> = (0..8 * RATE as usize)
        .map(|i| (-4.0 + 4.0 * (TAU * 2.0 * i as f64 / 48_000.0).sin()) as f32)
        .collect();
    for pattern in [vec![0.0, 0.125, 0.25], vec![0.0], vec![0.0, 0.3], vec![0.0, 0.0625, 0.125, 0.375]] {
        let onsets: Vec<usize> = (0..16)
            .flat_map(|beat| pattern.iter().map(move |at| ((0.5 * f64::from(beat) + at) * 48_000.0) as usize))
            .collect();
        let found = Pumping::of(&gain, &onsets, RATE).unwrap();
        near(found.rate_hz, 2.0, 0.01);
        near(found.depth_db, 8.0, 0.2);
    }
}

/// The loudness range of the same noise is the same wherever it is cut: windows begin ten times a second (EBU Tech 3342), and those of a
/// slow reading by powers give the same.
#[test]
fn the_loudness_range_does_not_hang_on_the_cut() {
    let mut gauss = Gauss::new(9);
    // Noise whose level goes up and down by 8 dB in four seconds.
    let whole: Vec<f32> = (0..14 * RATE as usize)
        .map(|i| {
            let db = -26.0 + 4.0 * (TAU * i as f64 / 48_000.0 / 7.0).sin();
            (10f64.powf(db / 20.0) * gauss.next()) as f32
        })
        .collect();
    let range = |from_s: f64| {
        let from = (from_s * 48_000.0) as usize;
        let part = whole[from..from + 12 * RATE as usize].to_vec();
        Levels::of(&Buffer::new(RATE, vec![part]).unwrap()).range_lu.unwrap()
    };
    let all: Vec<f64> = (0..7).map(|k| range(0.25 * f64::from(k))).collect();
    let (low, high) = all.iter().fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
    assert!(high - low < 0.5, "{all:?}");
}

/// By the formula a rounded wave is as loud as the tone that leaves.
#[test]
fn rounding_is_part_of_the_predicted_curve() {
    for (effect, params) in [
        (
            "compressor",
            vec![("ratio", 1.0), ("rounding", 1.0), ("rounding_dbfs", -12.0), ("rounding_corner", 0.3)],
        ),
        (
            "compressor",
            vec![
                ("threshold_db", -30.0),
                ("ratio", 2.0),
                ("makeup_db", 12.0),
                ("rounding", 1.0),
                ("rounding_dbfs", -10.0),
                ("rounding_corner", 0.8),
            ],
        ),
        (
            "limiter",
            vec![
                ("ceiling_db", -3.0),
                ("rounding", 1.0),
                ("rounding_dbfs", -14.0),
                ("rounding_corner", 0.5),
                ("drive_db", 6.0),
            ],
        ),
    ] {
        for point in measure_static_curve(&stage_with(effect, &params), RATE, 6) {
            near(point.predicted_dbfs.unwrap(), point.output_dbfs, 0.15);
        }
    }
}

/// Hum that is opposite on both sides is hum; notes that stop are none.
#[test]
fn hum_never_stops_and_has_no_sides() {
    let tone = |hz: f64, i: usize| (TAU * hz * i as f64 / 48_000.0).sin();
    let mut gauss = Gauss::new(4);
    let noise: Vec<f64> = (0..8 * RATE as usize).map(|_| 0.003 * gauss.next()).collect();
    let hum = |i: usize| [1.0, 2.0, 3.0, 5.0].iter().map(|k| 0.02 * tone(50.0 * k, i)).sum::<f64>();
    let sides = |sign: f64, on: &dyn Fn(usize) -> f64| {
        let side = |sign: f64| (0..noise.len()).map(|i| (sign * on(i) * hum(i) + noise[i]) as f32).collect();
        Buffer::new(RATE, vec![side(1.0), side(sign)]).unwrap()
    };
    for sign in [1.0, -1.0] {
        let found = Hum::find(&sides(sign, &|_| 1.0)).unwrap();
        assert!(found.mains_hz == 50.0 && found.multiples.contains(&3), "{found:?}");
    }
    // The same as a note that sounds for 30 % of every second.
    assert_eq!(Hum::find(&sides(1.0, &|i| f64::from(u8::from((i % RATE as usize) < 14_400)))), None);
}

/// Clicks have the mean distance that is set, also where it is no whole number of samples.
#[test]
fn clicks_keep_their_distance() {
    for (rate_hz, interval_ms) in [(44_100u32, 1.01), (48_000, 1.37), (22_050, 3.33), (96_000, 10.0)] {
        let made = clear_bend_testing::signal_at(
            rate_hz,
            "clicks",
            &[("interval_ms", interval_ms), ("seconds", 5.0)],
            1,
        );
        let places: Vec<usize> =
            made.channels()[0].iter().enumerate().filter(|(_, x)| **x != 0.0).map(|(i, _)| i).collect();
        let mean = (places[places.len() - 1] - places[0]) as f64 / (places.len() - 1) as f64;
        near(1000.0 * mean / f64::from(rate_hz) / interval_ms, 1.0, 1e-3);
    }
}

/// All values of a fan come to the same largest reduction where the control can bring them there.
#[test]
fn the_same_amount_is_reached_where_it_can_be() {
    let passage = Passage::new(demo_loop());
    let stage = stage_with("compressor", &[("threshold_db", -24.0), ("ratio", 2.5), ("knee_db", 0.0)]);
    let fan = FanOf::new(&path(stage), 0, "threshold_db", Some("ratio"), &passage).unwrap();
    let mut run = Looking::default();
    for threshold in [-30.0, -27.0, -21.0] {
        let (_, row) = fan.row(&mut run, &passage, threshold);
        assert!(row.reached, "{row:?}");
    }
    // Its bend is no staircase: neighbours differ all along.
    let bend = BendOf::new(fan.path(), 0, "ratio").unwrap().measure(&passage, 17);
    let steps: Vec<f64> =
        bend.windows(2).map(|pair| pair[1].outcome.unwrap() - pair[0].outcome.unwrap()).collect();
    assert!(steps.iter().all(|step| *step > 0.0), "{steps:?}");
}

/// The gain that makes one sound the other, dB, and what is left beside it, dB.
fn fitted(before: &Buffer, after: &Buffer) -> (f64, f64) {
    let pairs = || before.channels().iter().flatten().zip(after.channels().iter().flatten());
    let xx: f64 = pairs().map(|(x, _)| f64::from(*x).powi(2)).sum();
    let xy: f64 = pairs().map(|(x, y)| f64::from(*x) * f64::from(*y)).sum();
    let gain = xy / xx;
    let left: f64 = pairs().map(|(x, y)| (f64::from(*y) - gain * f64::from(*x)).powi(2)).sum();
    let all: f64 = pairs().map(|(_, y)| f64::from(*y).powi(2)).sum();
    (20.0 * gain.abs().log10(), 10.0 * (left / all.max(1e-30)).log10())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(cases(100)))]

    /// Whatever the settings, the key and the scope: where nothing is told to happen, nothing does, and where a gate is told to stay
    /// open or shut, it does.
    #[test]
    fn any_stage_that_is_called_idle_is(
        effect in prop::sample::select(vec!["compressor", "limiter", "gate", "de-esser", "saturation"]),
        places in prop::collection::vec(0.0f64..1.0, 30),
        mix in prop_oneof![Just(1.0), 0.05f64..1.0],
        scope in prop::sample::select(Scope::ALL.to_vec()),
        level_db in -40.0f64..0.0,
        keyed in prop::bool::weighted(0.4),
        kind in 0usize..3,
    ) {
        let mut stage = stage_with(effect, &[]);
        for (i, (value, param)) in stage.values.iter_mut().zip(stage.effect.params).enumerate() {
            // Half of them stay where they are.
            if places[i % 30] > 0.5 && param.id != "hear" {
                *value = param.value_at(2.0 * places[i % 30] - 1.0);
            }
        }
        (stage.mix, stage.scope) = (mix, scope);
        let gain = 10f64.powf(level_db / 20.0) as f32;
        let mut sound = match kind {
            0 => demo_loop().slice(0..96_000),
            1 => signal("white-noise", &[("seconds", 1.0), ("level_dbfs", -5.0)], 2),
            _ => signal("sine", &[("seconds", 1.0), ("freq_hz", 440.0), ("level_dbfs", 0.0)], 2),
        };
        sound.channels_mut().iter_mut().flatten().for_each(|x| *x *= gain);
        if keyed && !stage.effect.sounds.is_empty() {
            let key = signal("pink-noise", &[("seconds", 1.0), ("level_dbfs", -20.0)], 2);
            let laid = stage.effect.sounds[0].laid(&key, sound.frames());
            let noise = source("pink-noise", &[("seconds", 1.0), ("level_dbfs", -20.0)]);
            stage.sounds[0] = Some(Sound { source: noise, samples: Some(Arc::new(laid)) });
        }
        let passage = Passage::new(sound.clone());
        let (rendered, report) = report(&path(stage.clone()), &passage);
        let said: Vec<String> = report.sentences.iter().map(ToString::to_string).collect();
        let said = said.join(" ");
        let idle = ["Nothing is", "no level is", "nothing can be", "stays open", "nothing is reduced", "changes nothing", "stays under"];
        if idle.iter().any(|words| said.contains(words)) && !said.contains("never opens") {
            let (gain_db, left_db) = fitted(&sound, &rendered.after);
            prop_assert!(left_db < -50.0, "{said} while {left_db} dB are left beside {gain_db} dB");
            if !said.contains("fixed gain") {
                prop_assert!(gain_db.abs() < 0.1, "{said} while it is {gain_db} dB");
            }
            if let Some(reduction) = report.reductions[0] {
                prop_assert!(reduction.largest_db < 0.06, "{said} while {} dB are reduced", reduction.largest_db);
            }
        }
        if said.contains("never opens") {
            prop_assert!(rendered.gain_db(0).unwrap().iter().all(|gain| *gain < -0.4), "{said}");
        }
        prop_assert!(!said.contains("to 0.0 dB of gain are taken") && !said.contains("by +0.0 dB"), "{said}");
    }
}

/// Onsets are where they are, so that what is told of hits is of hits (the demo loop has thirty).
#[test]
fn the_loop_has_its_hits() {
    assert_eq!(find_onsets(&demo_loop()).len(), 30);
}
