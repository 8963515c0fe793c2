//! The sentences: measured numbers, correct plurals, and a reason where nothing happens.

use clear_bend_core::Buffer;
use clear_bend_core::passage::Passage;
use clear_bend_core::path::Path;
use clear_bend_core::report::report;

use crate::common::{RATE, compressor, demo_loop, near, signal, tone};
use serde_json::Value;

fn said(path: &Path, source: &Buffer) -> String {
    let (_, report) = report(path, &Passage::new(source.clone()));
    report.sentences.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
}

#[test]
fn what_happens_and_why_nothing_does() {
    let drums = demo_loop();
    let switched_off = |mix, on| {
        let mut path = compressor(&[]);
        (path.stages[0].mix, path.stages[0].on) = (mix, on);
        path
    };
    let two_hits = signal("clicks", &[("interval_ms", 500.0), ("seconds", 1.0), ("level_dbfs", 0.0)], 1);
    let two_off = Path {
        stages: vec![switched_off(1.0, false).stages.remove(0), switched_off(0.0, true).stages.remove(0)],
    };
    let all = [
        ("loop, firm", said(&compressor(&[("threshold_db", -20.0), ("release_ms", 100.0)]), &drums)),
        ("loop, loud hits only", said(&compressor(&[("threshold_db", -14.0), ("release_ms", 20.0)]), &drums)),
        (
            "loop, make-up",
            said(&compressor(&[("threshold_db", -6.0), ("makeup_db", 6.0), ("release_ms", 20.0)]), &drums),
        ),
        ("tone", said(&compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0)]), &tone(1000.0, -8.0, 4.0))),
        ("two clicks", said(&compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0)]), &two_hits)),
        ("threshold over every peak", said(&compressor(&[("threshold_db", 0.0)]), &drums)),
        ("knee over every peak", said(&compressor(&[("threshold_db", 0.0), ("knee_db", 2.0)]), &drums)),
        ("ratio one", said(&compressor(&[("ratio", 1.0)]), &drums)),
        ("ratio one, make-up", said(&compressor(&[("ratio", 1.0), ("makeup_db", -3.0)]), &drums)),
        ("mix zero", said(&switched_off(0.0, true), &drums)),
        ("off", said(&switched_off(1.0, false), &drums)),
        ("two off", said(&two_off, &drums)),
        ("empty path", said(&Path::default(), &drums)),
        ("silence", said(&compressor(&[]), &Buffer::new(RATE, vec![vec![0.0; 48_000]]).unwrap())),
    ];
    insta::assert_snapshot!(all.map(|(name, said)| format!("{name}: {said}")).join("\n"));
}

/// Every number to three decimals: what is written down must not hang on the last bit.
fn rounded(value: Value) -> Value {
    match value {
        Value::Number(n) => n.as_f64().map_or(Value::Null, |n| ((n * 1000.0).round() / 1000.0).into()),
        Value::Array(items) => items.into_iter().map(rounded).collect(),
        Value::Object(fields) => fields.into_iter().map(|(name, value)| (name, rounded(value))).collect(),
        other => other,
    }
}

#[test]
fn a_report_of_three_hits() {
    let hits = [("interval_ms", 1000.0), ("seconds", 3.0), ("level_dbfs", 0.0)];
    let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0), ("release_ms", 400.0)]);
    let (_, report) = report(&path, &Passage::new(signal("clicks", &hits, 2)));
    insta::assert_json_snapshot!(rounded(serde_json::to_value(report).unwrap()));
}

#[test]
fn the_level_line_shows_where_a_gain_was_applied() {
    let mut path = compressor(&[("ratio", 1.0), ("makeup_db", 6.0)]);
    path.stages
        .extend(compressor(&[("threshold_db", -20.0), ("ratio", f64::INFINITY), ("attack_ms", 0.0)]).stages);
    let (_, report) = report(&path, &Passage::new(tone(1000.0, -20.0, 4.0)));
    let peaks: Vec<f64> = report.points.iter().map(|p| p.peak_dbfs).collect();
    for (found, expected) in peaks.iter().zip([-20.0, -14.0, -20.0]) {
        near(*found, expected, 0.05);
    }
    assert_eq!(report.points.len(), 3);
    near(report.level_matches.loudness.gain_db, 0.0, 0.05);
}
