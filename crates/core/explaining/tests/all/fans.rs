//! Fans: values proposed for an even spread, brought to the same amount where asked, each a render of its own; and
//! lists of what differs between two paths.

use clear_bend_effects as effects;
use clear_bend_explaining::bend::{BendOf, USUAL_POINTS};
use clear_bend_explaining::fan::{Equal, FanOf, propose};
use clear_bend_explaining::report::{Looking, report};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Path, Stage, differences};
use clear_bend_playing::render::render;
use clear_bend_testing::{compressor, demo_loop, near, place};

#[test]
fn proposed_values_spread_the_outcome_evenly() {
    let passage = Passage::new(demo_loop());
    let path = compressor(&[("threshold_db", -24.0)]);
    for param in ["threshold_db", "ratio", "attack_ms", "release_ms", "makeup_db"] {
        let bend = BendOf::new(&path, 0, param).unwrap();
        let points = bend.measure(&passage, USUAL_POINTS);
        let values = propose(&bend, &points, 5);
        assert_eq!(values.len(), 5);
        let outcomes: Vec<f64> = values
            .iter()
            .map(|&v| bend.point(&mut Looking::default(), &passage, v).outcome.unwrap())
            .collect();
        let whole = (outcomes[4] - outcomes[0]).abs();
        for step in outcomes.windows(2) {
            let share = (step[1] - step[0]).abs() / whole;
            assert!((share - 0.25).abs() < 0.08, "{param}: {outcomes:?}");
        }
    }
    // Where nothing moves, the control itself is spread.
    let idle = BendOf::new(&compressor(&[("threshold_db", 0.0), ("ratio", 1.0)]), 0, "knee_db").unwrap();
    let points = idle.measure(&passage, USUAL_POINTS);
    assert_eq!(propose(&idle, &points, 3), [0.0, 20.0, 40.0]);
}

#[test]
fn all_values_reach_the_same_amount_where_they_can() {
    let passage = Passage::new(demo_loop());
    let path = compressor(&[("threshold_db", -30.0), ("ratio", 4.0), ("attack_ms", 10.0)]);
    let (_, now) = report(&path, &passage);
    let amount = now.reductions[0].unwrap().mean_db;
    let fan = FanOf::new(&path, 0, "ratio", Some("threshold_db"), &passage).unwrap();
    for ratio in [2.0, 4.0, 8.0, f64::INFINITY] {
        let (rendered, row) = fan.row(&mut Looking::default(), &passage, ratio);
        // Thresholds are written to a tenth of a decibel, which moves the mean by less than this.
        near(row.reduction.unwrap().mean_db, amount, 0.1);
        assert!(row.reached && row.moved_to.is_some());
        let path = Path::from_document(&row.path).unwrap();
        assert_eq!(path.stages[0].values[place("ratio")], ratio);
        assert!(rendered.after == render(&path, &passage.buffer).after);
    }
    // A ratio of 1 reduces nothing, wherever the threshold is.
    assert!(!fan.row(&mut Looking::default(), &passage, 1.0).1.reached);
    let refusal = |same| FanOf::new(&path, 0, "ratio", Some(same), &passage).unwrap_err().to_string();
    assert_eq!(refusal("ratio"), "same is \u{201c}ratio\u{201d}; accepted: another parameter than the first");
    assert!(refusal("warmth").starts_with("same is \u{201c}warmth\u{201d}; accepted: "));
    assert!(fan.check(&[2.0]).is_err() && fan.check(&[0.5, 2.0]).is_err() && fan.check(&[2.0, 3.0]).is_ok());
}

/// The levels along the path of a value are those of that path's own report, from the stage on that the fan is of.
#[test]
fn levels_along_the_path_are_those_of_the_value() {
    let passage = Passage::new(demo_loop());
    let stages = ["gate", "compressor", "saturation", "limiter"];
    let stages = stages.map(|id| Stage::new(effects::find(id).unwrap(), &[]).unwrap()).to_vec();
    for stage in [0, 1, 3] {
        let path = Path { stages: stages.clone() };
        let param = ["threshold_db", "threshold_db", "", "ceiling_db"][stage];
        let fan = FanOf::new(&path, stage, param, None, &passage).unwrap();
        let row = fan.row(&mut Looking::default(), &passage, -20.0).1;
        let own = report(&Path::from_document(&row.path).unwrap(), &passage).1.points;
        assert_eq!((row.points.len(), own.len()), (4 - stage, 5));
        for (row, own) in row.points.iter().zip(&own[1 + stage..]) {
            near(row.peak_dbfs, own.peak_dbfs, 1e-9);
            near(row.loudness_lufs, own.loudness_lufs, 1e-6);
        }
    }
}

/// A parameter is moved until its outcome is that of another path, which its own report says too.
#[test]
fn a_stage_does_as_much_as_that_of_another_path() {
    let passage = Passage::new(demo_loop());
    let soft = compressor(&[("threshold_db", -30.0), ("ratio", 2.0)]);
    let hard = compressor(&[("threshold_db", -12.0), ("ratio", 8.0), ("attack_ms", 2.0)]);
    let mean = |path: &Path| report(path, &passage).1.reductions[0].unwrap().mean_db;
    let found = Equal::find(&hard, &soft, 0, "threshold_db", &passage).unwrap();
    assert!(found.reached && (mean(&hard) - mean(&soft)).abs() > 0.5);
    near(found.outcome, mean(&soft), 1e-6);
    let mut equal = hard.clone();
    equal.stages[0].values[place("threshold_db")] = found.value.0;
    near(mean(&equal), mean(&soft), 0.1);
    // A ratio of 1 reduces nothing, wherever the threshold is; and another effect has no such parameter.
    let idle = compressor(&[("ratio", 1.0)]);
    assert!(!Equal::find(&idle, &soft, 0, "threshold_db", &passage).unwrap().reached);
    let gain = Path { stages: vec![Stage::new(effects::find("gain").unwrap(), &[]).unwrap()] };
    assert!(Equal::find(&soft, &gain, 0, "threshold_db", &passage).is_err());
    assert!(Equal::find(&soft, &gain, 3, "threshold_db", &passage).is_err());
}

#[test]
fn differences_name_every_setting() {
    let one = compressor(&[("threshold_db", -24.0)]);
    let mut other = compressor(&[("threshold_db", -20.0), ("ratio", f64::INFINITY)]);
    assert!(differences(&one, &one).is_empty());
    other.stages[0].on = false;
    other.stages[0].mix = 0.5;
    other.stages.push(Stage::of(effects::find("gain").unwrap()));
    let said: Vec<String> = differences(&one, &other)
        .into_iter()
        .map(|d| format!("{} {} {}: {} / {}", d.stage, d.effect, d.label, d.one, d.other))
        .collect();
    insta::assert_snapshot!(said.join("\n"));
}
