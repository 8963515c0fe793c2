//! The files that people read and write: the examples of docs/files.md, the schemas, and what any path becomes in a file.
#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    missing_docs,
    reason = "tests may stop on the first error"
)]

use clear_bend_bench::BenchDocument;
use clear_bend_bench::schema::SCHEMAS;
use clear_bend_catalogue::Values;
use clear_bend_catalogue::ear_maps::EarMapDocument;
use clear_bend_effects as effects;
use clear_bend_playing::path::{Path, PathFile, Sound, Stage};
use clear_bend_signals::{self as signals, Source, SourceDocument};
use clear_bend_sound::scope::Scope;
use jsonschema::Validator;
use proptest::prelude::*;
use serde_json::{Value, json};

const PAGE: &str = include_str!("../../../docs/files.md");

fn schema(kind: &str) -> Value {
    SCHEMAS.iter().find(|(known, _)| *known == kind).unwrap().1()
}

fn validator(kind: &str) -> Validator {
    jsonschema::draft202012::new(&schema(kind)).unwrap()
}

/// What stands between the fences of JSON on the page.
fn examples() -> Vec<&'static str> {
    PAGE.split("```json\n").skip(1).map(|after| after.split("```").next().unwrap()).collect()
}

/// Reads a file by its format as the application does, and gives it as it would be written today.
fn rewritten(text: &str) -> Result<Value, String> {
    let value: Value = serde_json::from_str(text).unwrap();
    match value["format"].as_str() {
        Some("clear-bend-path") => {
            let path = Path::from_json(text).map_err(|e| e.to_string())?;
            Ok(serde_json::to_value(PathFile::from(&path)).unwrap())
        }
        Some("clear-bend-bench") => {
            let bench = BenchDocument::from_json(text).map_err(|e| e.to_string())?;
            Ok(serde_json::to_value(bench.to_file().unwrap()).unwrap())
        }
        _ => {
            let map = EarMapDocument::from_value(value).map_err(|e| e.to_string())?;
            Ok(serde_json::to_value(map).unwrap())
        }
    }
}

fn kind_of(value: &Value) -> &str {
    value["format"].as_str().unwrap().trim_start_matches("clear-bend-")
}

#[test]
fn every_example_on_the_page_is_read_and_fits_its_schema() {
    let examples = examples();
    assert_eq!(examples.len(), 6);
    for text in &examples {
        let value: Value = serde_json::from_str(text).unwrap();
        let written = rewritten(text).unwrap();
        for file in [&value, &written] {
            let kind = validator(kind_of(file));
            let errors: Vec<String> = kind.iter_errors(file).map(|e| e.to_string()).collect();
            assert!(errors.is_empty(), "{errors:?}\n{file:#}");
        }
        // Paths and ear maps stand there as they are written, in the same order; of a bench, all that is said is kept.
        if kind_of(&value) == "bench" {
            assert!(holds(&written, &value), "{written:#}\n{value:#}");
        } else {
            assert_eq!(written.to_string(), value.to_string());
        }
    }
    assert!(examples[0].trim().lines().count() == 1 && examples[0].len() < 100, "the smallest path");
}

/// Whether all that one value says, another says too.
fn holds(all: &Value, some: &Value) -> bool {
    match (all, some) {
        (Value::Object(all), Value::Object(some)) => {
            some.iter().all(|(name, value)| all.get(name).is_some_and(|found| holds(found, value)))
        }
        (Value::Array(all), Value::Array(some)) => {
            all.len() == some.len() && all.iter().zip(some).all(|(all, some)| holds(all, some))
        }
        (all, some) => all == some,
    }
}

#[test]
fn the_schemas_in_the_project_are_those_of_today() {
    for (kind, make) in SCHEMAS {
        let file = format!("{}/../../docs/schemas/{kind}.json", env!("CARGO_MANIFEST_DIR"));
        let kept: Value = serde_json::from_str(&std::fs::read_to_string(&file).unwrap()).unwrap();
        assert_eq!(kept, make(), "clear-bend schema {kind} > docs/schemas/{kind}.json");
    }
}

/// What is no file of ours is no file by its schema either.
#[test]
fn what_the_readers_refuse_the_schemas_refuse() {
    let path = |stage: Value| json!({"format": "clear-bend-path", "version": 3, "stages": [stage]});
    let wrong = [
        json!({"format": "clear-bend-path", "version": 9, "stages": []}),
        json!({"format": "clear-bend-path", "version": 3, "stages": [], "colour": "red"}),
        json!({"format": "clear-bend-path", "version": 3, "stages": vec![json!({"effect": "gain"}); 65]}),
        path(json!({"effect": "warmth"})),
        path(json!({"effect": "gain", "mix": 1.5})),
        path(json!({"effect": "gain", "scope": "centre"})),
        path(json!({"effect": "gain", "sounds": {"key": {"kind": "sine"}}})),
        path(json!({"effect": "compressor", "params": {"ratio": 0.5}})),
        path(json!({"effect": "compressor", "params": {"threshold_db": "inf"}})),
        path(json!({"effect": "compressor", "params": {"detector": "loud"}})),
        path(json!({"effect": "compressor", "sounds": {"key": {"kind": "track", "track": "../etc"}}})),
        path(json!({"effect": "equaliser", "params": {"bands": [{"freq_hz": 100}]}})),
        path(json!({"effect": "equaliser", "params": {"bands": [{"kind": "bell", "slope": 13}]}})),
        path(json!({"effect": "equaliser", "params": {"bands": vec![json!({"kind": "none"}); 25]}})),
        json!({"format": "clear-bend-bench", "version": 3}),
        json!({"format": "clear-bend-bench", "version": 3, "stems": [{"snapshots": []}]}),
        json!({"format": "clear-bend-bench", "version": 3, "stems": [], "view": {"picture": "cloud"}}),
        json!({"format": "clear-bend-ear-map", "version": 1, "regions": [{"from_hz": 100}]}),
    ];
    for file in wrong {
        assert!(!validator(kind_of(&file)).is_valid(&file), "{file:#}");
        assert!(rewritten(&file.to_string()).is_err(), "{file:#}");
    }
}

/// A stage whose values are anywhere along their controls; half of them are at their defaults.
fn any_stage() -> impl Strategy<Value = Stage> {
    let places = prop::collection::vec(prop_oneof![Just(f64::NAN), 0.0f64..1.0, Just(0.0), Just(1.0)], 60);
    let scopes = vec![Scope::Stereo, Scope::Left, Scope::Right, Scope::Mid, Scope::Side];
    let scope = prop::sample::select(scopes);
    let source = (0..signals::ALL.len(), 0.0f64..1.0).prop_map(|(kind, place)| {
        let kind = signals::ALL[kind];
        let values = kind.params.iter().map(|p| p.value_at(place)).collect();
        let anywhere = Source::from_document(&Source::Made(kind, values).to_document());
        // Settings that do not fit each other, as a source in a wall, are none.
        let usual = || Source::from_document(&SourceDocument::of_kind(kind.id, Values::default()));
        anywhere.or_else(|_| usual()).unwrap()
    });
    let key = prop::option::of(source);
    (0..effects::ALL.len(), places, any::<bool>(), 0.0f64..=1.0, scope, key).prop_map(
        |(effect, places, on, mix, scope, key)| {
            let mut stage = Stage::of(effects::ALL[effect]);
            for (i, (value, param)) in stage.values.iter_mut().zip(effects::ALL[effect].params).enumerate() {
                let place = places[(i * 7 + i / 60) % 60];
                *value = if place.is_nan() { param.default } else { param.value_at(place) };
            }
            (stage.on, stage.mix, stage.scope) = (on, mix, scope);
            if let Some(slot) = stage.effect.slot("key") {
                stage.sounds[slot] = key.map(Sound::of);
            }
            stage
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn any_path_comes_back_from_its_file_and_from_the_page(stages in prop::collection::vec(any_stage(), 0..4)) {
        let path = Path { stages };
        let file = serde_json::to_value(PathFile::from(&path)).unwrap();
        prop_assert!(validator("path").is_valid(&file), "{file:#}");
        prop_assert_eq!(&Path::from_json(&file.to_string()).unwrap(), &path);
        let page = serde_json::to_string(&path.to_document()).unwrap();
        prop_assert_eq!(&Path::from_document(&serde_json::from_str(&page).unwrap()).unwrap(), &path);
        // The page says every value as a number, and both in the order of the catalogue.
        let words = file["stages"].as_array().unwrap().iter().zip(&path.stages);
        for (written, stage) in words {
            let order = |id: &str| stage.effect.params.iter().position(|p| p.id == id);
            let ids: Vec<_> = written["params"].as_object().into_iter().flat_map(|p| p.keys()).filter_map(|id| order(id)).collect();
            prop_assert!(ids.is_sorted());
        }
    }

    /// Where a choice stands in a file by its place, or a band by its numbered parameters, the same is meant.
    #[test]
    fn words_and_places_mean_the_same(stage in any_stage()) {
        let params: serde_json::Map<String, Value> = stage.effect.params.iter().zip(&stage.values)
            .map(|(param, value)| (param.id.to_owned(), if value.is_infinite() { json!("inf") } else { json!(value) }))
            .collect();
        let plain = json!({"format": "clear-bend-path", "version": 3, "stages": [{"effect": stage.effect.id, "mix": stage.mix,
            "on": stage.on, "scope": stage.scope, "params": params}]});
        let read = Path::from_json(&plain.to_string()).unwrap();
        prop_assert_eq!(&read.stages[0].values, &stage.values);
    }
}
