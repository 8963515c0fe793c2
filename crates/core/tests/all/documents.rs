//! Documents and the catalogue: what is accepted, what is refused and how that is said.

use clear_bend_core::bench::{BenchDocument, Hear};
use clear_bend_core::catalogue::{Param, catalogue};
use clear_bend_core::measures::MatchBy;
use clear_bend_core::path::{Path, Stage};
use proptest::prelude::*;
use serde_json::{Value, json};

/// The path file of docs/architecture.md.
fn path_file() -> Value {
    json!({"format": "clear-bend-path", "version": 1, "stages": [{"effect": "compressor", "on": true,
        "scope": "stereo", "mix": 1.0, "params": {"threshold_db": -24, "ratio": 4, "knee_db": 6,
        "attack_ms": 10, "release_ms": 100, "makeup_db": 0}}]})
}

fn refusal(document: &Value) -> String {
    Path::from_json(&document.to_string()).unwrap_err().to_string()
}

#[test]
fn a_path_file_round_trips() {
    let path = Path::from_json(&path_file().to_string()).unwrap();
    let again = serde_json::to_string(&path.to_document()).unwrap();
    assert_eq!(Path::from_json(&again).unwrap(), path);
    // Infinity is written as text, and what is left out takes its default.
    let short = r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"compressor","params":{"ratio":"inf"}}]}"#;
    let path = Path::from_json(short).unwrap();
    let stage = &path.stages[0];
    for (param, value) in stage.effect.params.iter().zip(&stage.values) {
        assert_eq!(*value, if param.id == "ratio" { f64::INFINITY } else { param.default }, "{}", param.id);
    }
    assert!(serde_json::to_string(&path.to_document()).unwrap().contains(r#""ratio":"inf""#));
}

#[test]
fn every_refusal_names_the_field_the_value_and_what_is_accepted() {
    let with = |pointer: &str, value: Value| {
        let mut document = path_file();
        *document.pointer_mut(pointer).unwrap() = value;
        refusal(&document)
    };
    let mut said = vec![
        with("/format", json!("other")),
        with("/version", json!(2)),
        with("/stages", json!(vec![path_file()["stages"][0].clone(); 65])),
        with("/stages/0/effect", json!("warmth")),
        with("/stages/0/scope", json!("centre")),
        with("/stages/0/mix", json!(1.5)),
        with("/stages/0/params/ratio", json!(0.5)),
        with("/stages/0/params/ratio", json!("NaN")),
        with("/stages/0/params/attack_ms", json!(-1)),
        with("/stages/0/params/threshold_db", json!(1e300)),
        with("/stages/0/params/threshold_db", json!("inf")),
        with("/stages/0/params", json!({"warmth": 3})),
        with("/stages/0", json!({"effect": "compressor", "colour": "red"})),
        with("/stages", json!("none")),
        Path::from_json("").unwrap_err().to_string(),
        Path::from_json(r#"{"stages": [NaN]}"#).unwrap_err().to_string(),
        Path::from_json(&(path_file().to_string() + "{}")).unwrap_err().to_string(),
    ];
    let bench = |change: fn(&mut Value)| {
        let mut document = serde_json::to_value(BenchDocument::fresh()).unwrap();
        change(&mut document);
        BenchDocument::from_json(&document.to_string()).unwrap_err().to_string()
    };
    said.push(bench(|b| b["stems"][0]["snapshots"][0]["stages"][0]["params"]["ratio"] = json!(0)));
    said.push(bench(|b| b["stems"][0]["source"]["kind"] = json!("whistle")));
    said.push(bench(|b| b["stems"][0]["source"]["params"] = json!({"tempo_bpm": 1000})));
    said.push(bench(|b| b["view"]["stage"] = json!(1)));
    said.push(bench(|b| b["view"]["spotlight"] = json!("warmth")));
    said.push(bench(|b| b["listening"]["hear"] = json!("both")));
    said.push(bench(|b| b["version"] = json!(3)));
    said.push(bench(|b| b["stems"] = json!([])));
    said.push(bench(|b| b["work"] = json!(1)));
    said.push(bench(|b| b["stems"][0]["snapshot"] = json!(1)));
    said.push(bench(|b| b["stems"][0]["snapshots"] = json!([])));
    said.push(bench(|b| b["stems"][0]["strip"]["pan"] = json!(2)));
    said.push(bench(|b| b["stems"][0]["source"] = json!({"kind": "track", "track": "../etc"})));
    said.push(bench(|b| b["reference"] = json!({"kind": "track"})));
    said.push(bench(|b| b["region"] = json!({"from_s": 3, "to_s": 2})));
    said.push(bench(|b| b["region"] = json!({"from_s": 0, "to_s": 61})));
    said.push(bench(|b| b["view"]["fan"] = json!({"count": 10, "values": null, "same": null})));
    insta::assert_snapshot!(said.join("\n"));
}

#[test]
fn a_fresh_bench_is_accepted() {
    let fresh = BenchDocument::fresh();
    assert_eq!(BenchDocument::from_json(&serde_json::to_string(&fresh).unwrap()).unwrap(), fresh);
}

#[test]
fn a_bench_of_the_first_version_is_still_read() {
    let old = json!({"format": "clear-bend-bench", "version": 1, "source": {"kind": "sine", "params": {"freq_hz": 100}},
        "path": path_file(), "listening": {"hear": "before", "level_match": false},
        "view": {"picture": "in-to-out", "stage": 0, "spotlight": "ratio"}});
    let bench = BenchDocument::from_json(&old.to_string()).unwrap();
    assert_eq!(bench.version, 2);
    let stem = bench.stem_at_work().unwrap();
    assert_eq!(stem.source.kind, "sine");
    assert_eq!(
        serde_json::to_value(&stem.snapshots).unwrap()[0]["stages"][0]["params"]["threshold_db"],
        -24.0
    );
    assert_eq!(bench.listening.level_match, MatchBy::Off);
    assert_eq!(bench.listening.hear, Hear::Before);
}

#[test]
fn the_catalogue_is_complete() {
    let line = |of: &str, p: &Param| {
        let bends = p.outcome.map_or("nothing", |outcome| outcome.label);
        format!(
            "{of}: {} ({}), {}, usually {}, bends {bends}",
            p.id,
            p.label,
            p.range_text(),
            p.text(p.default)
        )
    };
    // The bands of an equaliser are all alike: the first one stands for them.
    let shown =
        |of: &str, p: &Param| of != "equaliser" || !p.group.starts_with("Band ") || p.group == "Band 1";
    let effects = catalogue()
        .effects
        .iter()
        .flat_map(|e| e.all_params().filter(|p| shown(e.id, p)).map(|p| line(e.id, p)).collect::<Vec<_>>());
    let signals = catalogue().signals.iter().flat_map(|s| s.params.iter().map(|p| line(s.id, p)));
    insta::assert_snapshot!(effects.chain(signals).collect::<Vec<_>>().join("\n"));
    for effect in catalogue().effects {
        for param in effect.params.iter().chain([&effect.mix]) {
            for (name, words) in [
                ("what", param.what),
                ("listen", param.listen),
                ("look", param.look),
                ("mistake", param.mistake),
            ] {
                assert!(words.ends_with('.'), "{} of {} says nothing: {words:?}", name, param.id);
            }
            assert!(
                param.outcome.is_some() && param.picture.is_some() && !param.usual.is_empty(),
                "{}",
                param.id
            );
            assert!(param.usual.iter().all(|usual| param.check(usual.value).is_ok()), "{}", param.id);
            let blocks = effect.diagram.blocks.iter().flat_map(|block| block.params);
            assert_eq!(blocks.filter(|id| **id == param.id).count(), 1, "{} in the diagram", param.id);
        }
        // What is offered can be set, and what is explained is there.
        for point in effect.starting {
            let stage = Stage::new(effect, point.values).unwrap();
            assert!(point.values.iter().all(|(_, value)| value.is_finite()), "{}", point.name);
            assert!(effect.mix.check(point.mix).is_ok() && point.purpose.ends_with('.'), "{stage:?}");
        }
        for step in effect.order {
            Stage::new(effect, step.plain).unwrap();
            assert!(effect.all_params().any(|p| p.id == step.param), "{}", step.param);
            assert!(step.plain.iter().all(|(id, _)| *id != step.param), "{}", step.param);
            assert!(step.plain.iter().all(|(_, value)| value.is_finite()), "{}", step.param);
        }
    }
}

proptest! {
    #[test]
    fn no_text_makes_the_reader_fail_otherwise_than_by_refusing(text in "\\PC*", at in 0usize..300, with in "[0-9a-z\"{}\\[\\]:,]{0,3}") {
        let _ = Path::from_json(&text);
        let mut document = path_file().to_string();
        let at = at.min(document.len());
        document.insert_str(at, &with);
        let _ = Path::from_json(&document);
        let _ = BenchDocument::from_json(&document);
    }
}
