//! Documents and the catalogue: what is accepted, what is refused and how that is said.

use clear_bend_bench::BenchDocument;
use clear_bend_catalogue::Param;
use clear_bend_catalogue::ear_maps::{
    EarMapDocument, EarRegion, MOST_OVER_EACH_OTHER, MOST_REGIONS, shipped,
};
use clear_bend_effects::offered::catalogue;
use clear_bend_measures::MatchBy;
use clear_bend_playing::live::Hear;
use clear_bend_playing::path::{Path, PathFile, Stage};
use proptest::prelude::*;
use serde_json::{Value, json};

use clear_bend_testing::stage_with;

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
    let again = serde_json::to_string(&PathFile::from(&path)).unwrap();
    assert_eq!(Path::from_json(&again).unwrap(), path);
    assert_eq!(Path::from_document(&path.to_document()).unwrap(), path);
    // Infinity is written as text, and what is left out takes its default.
    let short = r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"compressor","params":{"ratio":"inf"}}]}"#;
    let path = Path::from_json(short).unwrap();
    let stage = &path.stages[0];
    for (param, value) in stage.effect.params.iter().zip(&stage.values) {
        assert_eq!(*value, if param.id == "ratio" { f64::INFINITY } else { param.default }, "{}", param.id);
    }
    assert!(serde_json::to_string(&path.to_document()).unwrap().contains(r#""ratio":"inf""#));
}

/// A band without a Q is as it was where a file of version 1 says so, and does not overshoot in one of today.
#[test]
fn a_file_of_version_1_is_read_as_it_was_meant() {
    let q = |version: u32| {
        let text = format!(
            r#"{{"format": "clear-bend-path", "version": {version}, "stages": [{{"effect": "equaliser", "params": {{"kind_1": 9}}}}]}}"#
        );
        let path = Path::from_json(&text).unwrap();
        let place = path.stages[0].effect.params.iter().position(|p| p.id == "q_1").unwrap();
        path.stages[0].values[place]
    };
    assert_eq!((q(1), q(2)), (1.0, 0.5f64.sqrt()));
}

#[test]
fn every_refusal_names_the_field_the_value_and_what_is_accepted() {
    let with = |pointer: &str, value: Value| {
        let mut document = path_file();
        *document.pointer_mut(pointer).unwrap() = value;
        refusal(&document)
    };
    let today =
        |stage: Value| refusal(&json!({"format": "clear-bend-path", "version": 3, "stages": [stage]}));
    let mut said = vec![
        with("/format", json!("other")),
        with("/version", json!(4)),
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
        with("/stages/0", json!({"effect": "equaliser", "params": {"frequ_1_hz": 3}})),
        with("/stages/0", json!({"effect": "equaliser", "params": {"copies_1": 2.5}})),
        with("/stages/0", json!({"effect": "equaliser", "params": {"slope_1": 13}})),
        with("/stages/0", json!({"effect": "gate", "key": {"kind": "white-noise", "params": {"seed": 1.5}}})),
        with("/stages/0", json!({"effect": "gate", "key": {"kind": "slip-hum", "params": {"mains_hz": 55}}})),
        Path::from_json(r#"{"format": "clear-bend-path", "version": 2, "stages": [{"effect": "gain", "effect": "gate"}]}"#)
            .unwrap_err()
            .to_string(),
        with("/version", json!("3")),
        today(json!({"effect": "gate", "key": {"kind": "sine"}})),
        today(json!({"effect": "gate", "sounds": {"keys": {"kind": "sine"}}})),
        today(json!({"effect": "gain", "sounds": {"key": {"kind": "sine"}}})),
        today(json!({"effect": "gate", "sounds": {"key": {"kind": "stem", "stem": 0}}})),
        today(json!({"effect": "gate", "sounds": {"key": {"kind": "stem"}}})),
        today(json!({"effect": "gate", "sounds": {"key": {"kind": "sine", "stem": 1}}})),
        today(json!({"effect": "equaliser", "params": {"phase": "wobbly"}})),
        today(json!({"effect": "equaliser", "params": {"phase": ["linear"]}})),
        today(json!({"effect": "equaliser", "params": {"input_db": "linear"}})),
        today(json!({"effect": "equaliser", "params": {"bands": 3}})),
        today(json!({"effect": "equaliser", "params": {"bands": [{"freq_hz": 100}]}})),
        today(json!({"effect": "equaliser", "params": {"bands": [{"kind": "bell", "freq": 100}]}})),
        today(json!({"effect": "equaliser", "params": {"bands": [{"kind": "bell"}, {"kind": "bell", "freq_hz": 1}]}})),
        today(json!({"effect": "equaliser", "params": {"bands": vec![json!({"kind": "none"}); 25]}})),
        Path::from_json("").unwrap_err().to_string(),
        Path::from_json(r#"{"stages": [NaN]}"#).unwrap_err().to_string(),
        Path::from_json(&(path_file().to_string() + "{}")).unwrap_err().to_string(),
    ];
    let bench = |change: fn(&mut Value)| {
        let mut document = serde_json::to_value(BenchDocument::fresh()).unwrap();
        change(&mut document);
        BenchDocument::from_json(&document.to_string()).unwrap_err().to_string()
    };
    said.push(bench(|b| b["stems"][0]["snapshots"][0]["stages"][0]["params"] = json!({"ratio": 0})));
    said.push(bench(|b| b["stems"][0]["source"]["kind"] = json!("whistle")));
    said.push(bench(|b| b["stems"][0]["source"]["params"] = json!({"tempo_bpm": 1000})));
    said.push(bench(|b| b["view"]["stage"] = json!(1)));
    said.push(bench(|b| b["view"]["kept"] = json!(1)));
    said.push(bench(|b| b["view"]["spotlight"] = json!("warmth")));
    said.push(bench(|b| b["listening"]["hear"] = json!("both")));
    said.push(bench(|b| b["version"] = json!(4)));
    said.push(bench(|b| b["stems"] = json!([])));
    said.push(bench(|b| b["work"] = json!(1)));
    said.push(bench(|b| b["stems"][0]["snapshot"] = json!(1)));
    said.push(bench(|b| b["stems"][0]["snapshots"] = json!([])));
    said.push(bench(|b| b["stems"][0]["strip"]["pan"] = json!(2)));
    said.push(bench(|b| b["stems"][0]["source"] = json!({"kind": "track", "track": "../etc"})));
    said.push(bench(|b| b["reference"] = json!({"kind": "track"})));
    said.push(bench(|b| b["reference"] = json!({"kind": "stem", "stem": 0})));
    said.push(bench(|b| {
        let key = json!({"kind": "stem", "stem": 1});
        b["stems"][0]["snapshots"][0]["stages"][0]["sounds"] = json!({ "key": key });
    }));
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
    assert_eq!(bench.version, 3);
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

fn regions(of: &[(f64, f64, &str)]) -> Vec<EarRegion> {
    of.iter()
        .map(|(from_hz, to_hz, name)| EarRegion {
            from_hz: *from_hz,
            to_hz: *to_hz,
            name: (*name).to_owned(),
        })
        .collect()
}

#[test]
fn ear_maps_are_accepted_and_refused_by_their_rules() {
    // What is shipped keeps the rules of own maps, and rises without overlaps besides.
    for map in shipped() {
        assert!(map.regions.windows(2).all(|pair| pair[0].to_hz <= pair[1].from_hz), "{}", map.name);
        EarMapDocument::new(map.regions).check().unwrap();
    }
    // Own ones may leave gaps, touch, lie over each other by threes, and come in any order; what is read is what was written.
    let own = EarMapDocument::new(regions(&[
        (300.0, 600.0, "box"),
        (100.0, 400.0, "body"),
        (200.0, 500.0, "mud"),
        (500.0, 900.0, "mud"),
        (5000.0, 20_000.0, "air \u{6f6e}"),
    ]));
    let written = serde_json::to_value(&own).unwrap();
    assert_eq!(EarMapDocument::from_value(written.clone()).unwrap(), own);

    let refusal = |of: &[(f64, f64, &str)]| EarMapDocument::new(regions(of)).check().unwrap_err().to_string();
    let with = |pointer: &str, value: Value| {
        let mut document = written.clone();
        *document.pointer_mut(pointer).unwrap() = value;
        EarMapDocument::from_value(document).unwrap_err().to_string()
    };
    let four = [(100.0, 400.0, "a"), (200.0, 500.0, "b"), (250.0, 300.0, "c"), (260.0, 900.0, "d")];
    let said = [
        refusal(&[]),
        refusal(&vec![(100.0, 200.0, "same"); MOST_REGIONS + 1]),
        refusal(&[(100.0, 200.0, "")]),
        refusal(&[(100.0, 200.0, " \t ")]),
        refusal(&[(100.0, 200.0, "two\nlines")]),
        refusal(&[(100.0, 200.0, &"n".repeat(41))]),
        refusal(&[(19.0, 200.0, "low")]),
        refusal(&[(100.0, 20_001.0, "high")]),
        refusal(&[(100.0, f64::NAN, "no number")]),
        refusal(&[(200.0, 100.0, "backwards")]),
        refusal(&[(200.0, 223.0, "narrow")]),
        refusal(&four),
        with("/format", json!("clear-bend-path")),
        with("/version", json!(2)),
        with("/regions/1", json!({"from_hz": 1, "name": "half"})),
        with("/regions/1", json!({"from_hz": 100, "to_hz": 300, "name": "more", "colour": 1})),
    ];
    insta::assert_snapshot!(said.join("\n"));
}

proptest! {
    #[test]
    fn an_accepted_ear_map_can_be_drawn_and_read(of in prop::collection::vec((10.0f64..25_000.0, 0.5f64..60.0, "[a-z ]{0,5}"), 0..12)) {
        let of: Vec<_> = of.iter().map(|(from, ratio, name)| (*from, from * ratio, name.as_str())).collect();
        let map = EarMapDocument::new(regions(&of));
        if map.check().is_ok() {
            for hz in (20..20_000).step_by(37).map(f64::from) {
                let there = map.regions.iter().filter(|r| r.from_hz <= hz && hz < r.to_hz);
                prop_assert!(there.count() <= MOST_OVER_EACH_OTHER);
            }
            prop_assert!(map.regions.iter().all(|r| !r.name.trim().is_empty() && r.from_hz >= 20.0 && r.to_hz <= 20_000.0));
        } else {
            let span = |from: f64, to: f64| (20.0..20_000.0).contains(&from) && to <= 20_000.0 && to > 1.2 * from;
            let fine = of.iter().all(|(from, to, name)| span(*from, *to) && !name.trim().is_empty());
            prop_assert!(!(fine && (1..=MOST_OVER_EACH_OTHER).contains(&of.len())), "refused without a reason: {of:?}");
        }
    }

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

/// A bench has one tempo: stages that say another one are refused by name; stages without it do not care.
#[test]
fn a_bench_has_one_tempo() {
    let reverb =
        |bpm: f64| json!({ "effect": "reverb", "params": { "predelay_note": "1/16", "tempo_bpm": bpm } });
    let bench = |one: Value, other: Value| {
        let mut bench = serde_json::to_value(BenchDocument::fresh()).unwrap();
        let snapshots = json!([{ "stages": [one] }, { "stages": [{ "effect": "gain" }, other] }]);
        bench["stems"][0]["snapshots"] = snapshots;
        bench["view"] = json!({});
        BenchDocument::from_value(bench)
    };
    assert!(bench(reverb(90.0), reverb(90.0)).is_ok());
    assert!(bench(reverb(90.0), json!({ "effect": "limiter" })).is_ok());
    let refusal = bench(reverb(90.0), reverb(91.0)).unwrap_err().to_string();
    for word in ["stems[0].snapshots[1].stages[1].params.tempo_bpm", "91", "90, as everywhere on this bench"]
    {
        assert!(refusal.contains(word), "{refusal}");
    }
    // What is left out is the default, 120.
    assert!(bench(json!({ "effect": "reverb" }), reverb(119.0)).is_err());
    // A note by its word comes back as its word.
    let file = bench(reverb(90.0), reverb(90.0)).unwrap().to_file().unwrap();
    let params = serde_json::to_value(&file.stems[0].snapshots[0].stages[0].params).unwrap();
    assert_eq!(params, json!({ "predelay_note": "1/16", "tempo_bpm": 90.0 }));
}

/// A step of the guided order stands at plain values, by its own signal and without a mix; what the bench shares stays.
#[test]
fn a_step_is_explained_at_plain_values() {
    let mut stage = stage_with("reverb", &[("decay_s", 4.0), ("tempo_bpm", 77.0), ("width", 0.3)]);
    (stage.mix, stage.on) = (0.2, false);
    let step = stage.effect.order.iter().find(|step| step.param == "predelay_ms").unwrap();
    let plain = stage.explained(step);
    let value = |id: &str| plain.values[stage.effect.params.iter().position(|p| p.id == id).unwrap()];
    assert_eq!((plain.mix, plain.on), (1.0, true));
    assert_eq!((value("tempo_bpm"), value("width")), (77.0, 1.0));
    assert_eq!((value("early_count"), value("decay_s")), (0.0, 0.8));
}

/// What passes the check fits into what is sent: one limit, said with what to do.
#[test]
fn a_bench_that_is_too_large_is_refused_by_its_size() {
    let mut bands = serde_json::Map::new();
    for k in 1..=24 {
        bands.insert(format!("kind_{k}"), json!(6));
        for (id, value) in
            [("freq_#_hz", 2_345.678_912_345), ("gain_#_db", 4.567_891_234_567), ("q_#", 1.234_567_890_123)]
        {
            bands.insert(id.replace('#', &k.to_string()), json!(value));
        }
    }
    let bench = |snapshots: usize| {
        let mut bench = serde_json::to_value(BenchDocument::fresh()).unwrap();
        let stage = json!({"effect": "equaliser", "params": &bands});
        bench["view"] = json!({});
        bench["stems"][0]["snapshots"] = json!(vec![json!({"stages": vec![stage; 8]}); snapshots]);
        BenchDocument::from_value(bench).and_then(|bench| bench.check().map(|_| ()))
    };
    bench(20).unwrap();
    let said = bench(99).unwrap_err().to_string();
    assert!(
        said.starts_with("bench is 1")
            && said.ends_with("kB; accepted: at most 1000 kB; fewer snapshots, stages or bands take less"),
        "{said}"
    );
}
