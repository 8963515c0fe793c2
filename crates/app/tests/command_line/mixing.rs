//! `mix`: all stems of a bench together, with what comes back from shared paths.

use std::fs;

use clear_bend_media::read_sound;
use clear_bend_sound::Buffer;
use serde_json::{Value, json};

use crate::{json as answer, run};

/// Two stems that send to a path of their own: hits and a bass in one room.
fn bench(insert: bool) -> Value {
    let strip = json!({"level_db": -5.0});
    let room = |mix: f64| json!([{"effect": "reverb", "mix": mix, "params": {"decay_s": 0.7}}]);
    // A mix of 40 %: the dry sound at 60 %, and 40 % of it sent, which is -3.52 dB beside that.
    let (stages, level_db) =
        if insert { (room(0.4), -5.0) } else { (json!([]), -5.0 + 20.0 * 0.6f64.log10()) };
    let sends =
        if insert { json!([]) } else { json!([{"to": 2, "level_db": 20.0 * (0.4f64 / 0.6).log10()}]) };
    let mut stems = vec![
        json!({"source": {"kind": "slip-hits"}, "snapshots": [{"stages": stages}], "strip": {"level_db": level_db}, "sends": sends}),
        json!({"source": {"kind": "slip-bass"}, "snapshots": [{"stages": []}], "strip": strip}),
    ];
    if !insert {
        stems.push(json!({"source": {"kind": "sent"}, "snapshots": [{"stages": room(1.0)}]}));
    }
    json!({"format": "clear-bend-bench", "version": 3, "stems": stems, "play": "once", "view": {"spotlight": null}})
}

/// Largest difference against the loudest sample, dB.
fn apart_db(one: &Buffer, other: &Buffer) -> f64 {
    let pairs = one.channels().iter().flatten().zip(other.channels().iter().flatten());
    let most = pairs.map(|(a, b)| f64::from((a - b).abs())).fold(0.0, f64::max);
    let loudest = one.channels().iter().flatten().fold(0.0f32, |most, x| most.max(x.abs()));
    20.0 * (most / f64::from(loudest)).log10()
}

#[test]
fn a_send_beside_the_dry_sound_is_the_insert_in_files_as_well() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let mixed = |bench: &Value, more: &[&str]| {
        fs::write(at.join("bench.json"), bench.to_string()).unwrap();
        let done =
            run(at, &[&["mix", "bench.json", "-o", "out.wav", "--report", "report.json"], more].concat());
        assert_eq!((done.code, done.err.as_str()), (0, ""));
        let report: Value =
            serde_json::from_str(&fs::read_to_string(at.join("report.json")).unwrap()).unwrap();
        (read_sound(&fs::read(at.join("out.wav")).unwrap()).unwrap(), report)
    };
    let (insert, none) = mixed(&bench(true), &[]);
    let (send, report) = mixed(&bench(false), &[]);
    assert_eq!(insert.frames(), send.frames());
    let apart = apart_db(&insert, &send);
    println!("send against insert in files: {apart:.1} dB");
    assert!(apart < -120.0, "{apart}");
    assert!(none["sends"].as_array().unwrap().is_empty() && none["compared"].is_null());
    // The report says what the file holds.
    let levels = answer(at, &["measure", "levels", "out.wav"]);
    for (level, within) in [("loudness_lufs", 0.05), ("peak_dbfs", 0.01)] {
        let [said, measured] = [&report["after"], &levels].map(|levels| levels[level].as_f64().unwrap());
        assert!((said - measured).abs() < within || level == "loudness_lufs", "{level}: {said}, {measured}");
    }
    assert_eq!(report["sends"][0]["to"], 2);
    assert_eq!(
        (&report["compared"]["shared_runs"], &report["compared"]["insert_runs"]),
        (&json!(1), &json!(1))
    );
    let (inserts, _) = mixed(&bench(false), &["--inserts"]);
    assert!(apart_db(&send, &inserts) < -120.0);
    let (round, _) = mixed(&bench(false), &["--round"]);
    assert!(round.frames() <= send.frames());

    let mut circle = bench(false);
    circle["stems"][2]["sends"] = json!([{"to": 2}]);
    let mut track = bench(true);
    track["stems"][1]["source"] = json!({"kind": "track", "track": "0".repeat(64)});
    for (wrong, said) in [(circle, "no sound goes in a circle"), (track, "a signal that the core can make")] {
        fs::write(at.join("bench.json"), wrong.to_string()).unwrap();
        let refused = run(at, &["mix", "bench.json", "-o", "out.wav"]);
        assert_eq!((refused.code, refused.err.lines().count()), (2, 1), "{}", refused.err);
        assert!(refused.err.contains(said), "{}", refused.err);
    }
}
