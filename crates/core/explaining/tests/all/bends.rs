//! Bends: each point is one render, and the curve says what the trade says.

use clear_bend_explaining::bend::{BendOf, BendPoint, USUAL_POINTS};
use clear_bend_explaining::report::report;
use clear_bend_measures::Reduction;
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Path, Play};
use clear_bend_playing::render::render;
use clear_bend_testing::{RATE, compressor, demo_loop, near, signal, stage_with, steady_level_dbfs, tone};

fn outcomes(points: &[BendPoint]) -> Vec<f64> {
    points.iter().map(|p| p.outcome.unwrap()).collect()
}

#[test]
fn a_bend_agrees_with_single_renders_at_its_points_exactly() {
    let passage = Passage::new(demo_loop());
    // A second stage, so that the bend is of one stage among others.
    let mut path = compressor(&[("threshold_db", -24.0), ("makeup_db", 3.0)]);
    path.stages.extend(compressor(&[("threshold_db", -30.0), ("ratio", 2.0)]).stages);
    let effect = path.stages[1].effect;
    for param in effect.params.iter().chain([&effect.mix]) {
        let bend = BendOf::new(&path, 1, param.id).unwrap();
        let points = bend.measure(&passage, 5);
        let last = if param.choices.is_empty() { 4 } else { param.choices.len() - 1 };
        assert_eq!(points.len(), last + 1);
        for (i, point) in points.iter().enumerate() {
            assert_eq!(point.value.0, param.place_value(i as f64 / last as f64));
            let (_, report) = report(&bend.path_at(point.value.0), &passage);
            let single = report.outcomes[1][bend.outcome.id].unwrap();
            assert!((point.outcome.unwrap() - single).abs() < 1e-9, "{} at {:?}: {single}", param.id, point);
        }
    }
}

#[test]
fn bends_on_a_staircase_are_what_the_static_curve_predicts() {
    let stairs = [("freq_hz", 1000.0), ("from_dbfs", -48.0), ("step_db", 12.0), ("hold_s", 1.0)];
    let passage = Passage::new(signal("staircase", &stairs, 1));
    let levels = [-48.0, -36.0, -24.0, -12.0, 0.0, -12.0, -24.0, -36.0, -48.0];
    let path = compressor(&[("threshold_db", -24.0), ("knee_db", 6.0), ("attack_ms", 5.0)]);
    for param in ["threshold_db", "ratio"] {
        let bend = BendOf::new(&path, 0, param).unwrap();
        for point in bend.measure(&passage, USUAL_POINTS) {
            let path = bend.path_at(point.value.0);
            let stage = &path.stages[0];
            let predicted = |level: f64| stage.effect.asked_dbfs(&stage.values, level).unwrap();
            // Each step, once it has settled.
            let after = render(&path, &passage.buffer).after;
            for (k, level) in levels.into_iter().enumerate() {
                let step = after.slice(k * 48_000..(k + 1) * 48_000);
                near(steady_level_dbfs(&step), predicted(level), 0.1);
            }
            // The largest reduction is that of the loudest step.
            if param == "ratio" {
                near(point.outcome.unwrap(), -predicted(0.0), 0.1);
            }
        }
    }
}

#[test]
fn bends_say_what_the_trade_says() {
    let passage = Passage::new(demo_loop());
    let path = compressor(&[("threshold_db", -24.0)]);
    let bend = |param: &str| outcomes(&BendOf::new(&path, 0, param).unwrap().measure(&passage, USUAL_POINTS));
    // Common practice: a lower threshold takes more, a higher ratio too, and 1:1 takes nothing.
    assert!(bend("threshold_db").windows(2).all(|w| w[0] >= w[1]));
    let by_ratio = bend("ratio");
    assert!(by_ratio[0] == 0.0 && by_ratio.windows(2).all(|w| w[0] <= w[1]));
    // A longer attack lets more of the first crack through; a longer release leaves more at the next hit.
    assert!(bend("attack_ms").windows(2).all(|w| w[0] <= w[1] + 1e-9));
    assert!(bend("release_ms").windows(2).all(|w| w[0] <= w[1] + 1e-9));
    // Make-up gain moves the loudness by as much as it says.
    let by_makeup = bend("makeup_db");
    assert!((by_makeup[USUAL_POINTS - 1] - by_makeup[0] - 48.0).abs() < 0.1);
    // A mix of 0 changes no crest factor.
    assert!(bend("mix")[0].abs() < 1e-9);
}

#[test]
fn a_passage_that_does_not_show_an_outcome_gives_none() {
    let path = compressor(&[("threshold_db", -40.0)]);
    let steady = Passage::new(tone(1000.0, -10.0, 1.0));
    let bend = BendOf::new(&path, 0, "release_ms").unwrap();
    assert!(bend.measure(&steady, 3).iter().all(|p| p.outcome.is_none()));
    // A stage that is switched off reduces nothing.
    let mut off = path;
    off.stages[0].on = false;
    assert_eq!(outcomes(&BendOf::new(&off, 0, "ratio").unwrap().measure(&steady, 2)), [0.0, 0.0]);
    assert_eq!(Reduction::of(&[0.0], &[], 0, RATE).mean_db, 0.0);
}

#[test]
fn what_has_no_bend_is_refused() {
    let refusal = |path: &Path, stage, param| BendOf::new(path, stage, param).unwrap_err().to_string();
    let path = compressor(&[]);
    let unknown = refusal(&path, 0, "warmth");
    assert!(unknown.starts_with("param is \u{201c}warmth\u{201d}; accepted: ") && unknown.len() < 120);
    assert!(unknown.ends_with(" and 22 others"), "{unknown}");
    assert_eq!(refusal(&path, 1, "ratio"), "stage is 1; accepted: 0 to 0");
    assert_eq!(refusal(&Path::default(), 0, "ratio"), "stage is 0; accepted: a path with a stage");
}

/// A bend stays when its own parameter moves, and with nothing else.
#[test]
fn a_bend_belongs_to_all_but_its_own_parameter() {
    let path = |threshold_db, ratio| compressor(&[("threshold_db", threshold_db), ("ratio", ratio)]);
    let bend = |param: &str| BendOf::new(&path(-20.0, 4.0), 0, param).unwrap();
    assert!(bend("threshold_db").is_that_of(&path(-31.0, 4.0)));
    assert!(!bend("threshold_db").is_that_of(&path(-31.0, 4.1)));
    assert!(!bend("ratio").is_that_of(&path(-31.0, 4.0)));
    assert!(bend("ratio").is_that_of(&path(-20.0, 4.1)));
    let passage = Passage::new(demo_loop());
    let of = |path: &Path| BendOf::new(path, 0, "threshold_db").unwrap().measure(&passage, 5);
    assert_eq!(of(&path(-20.0, 4.0)), of(&path(-31.0, 4.0)));
}

/// It also stays when another stage moves on which its outcome does not depend; then the whole path has the same bend.
#[test]
fn a_bend_belongs_to_the_stages_that_it_depends_on() {
    let path = |before_db: f64, ratio: f64, after_db: f64| {
        let gain = |db| stage_with("gain", &[("gain_db", db)]);
        let middle = [stage_with("compressor", &[("threshold_db", -30.0), ("ratio", ratio)])];
        let moving = stage_with("flanger", &[]);
        Path { stages: [&[gain(before_db)], &middle[..], &[moving, gain(after_db)]].concat() }
    };
    let passage = Passage::played(demo_loop(), Play::Round);
    let stays = |stage, param: &str, other: &Path| {
        let bend = BendOf::new(&path(0.0, 4.0, 0.0), stage, param).unwrap();
        let same =
            bend.measure(&passage, 3) == BendOf::new(other, stage, param).unwrap().measure(&passage, 3);
        // What is said to stay is the same when it is measured anew.
        assert!(!bend.is_that_of(other) || same, "{param}");
        (bend.is_that_of(other), same)
    };
    let (earlier, later) = (path(-12.0, 4.0, 0.0), path(0.0, 4.0, -12.0));
    // The gain of a compressor hears what comes, and not what is done to it afterwards.
    assert_eq!(stays(1, "threshold_db", &later), (true, true));
    assert_eq!(stays(1, "threshold_db", &earlier), (false, false));
    // Loudness at the end depends on everything.
    assert_eq!(stays(1, "makeup_db", &later), (false, false));
    // Notches are those of the flanger, whatever runs through it.
    assert_eq!(stays(2, "delay_ms", &later), (true, true));
    assert_eq!(stays(2, "delay_ms", &earlier), (true, true));
    assert_eq!(stays(2, "delay_ms", &path(0.0, 8.0, 0.0)), (true, true));
}
