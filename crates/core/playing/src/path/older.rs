//! Older path files, brought up to the present form.

use serde_json::{Map, Value, json};

use super::PATH_VERSION;
use clear_bend_effects as effects;

/// A path of version 1 or 2 as one of today; any other value as it is.
///
/// In version 1 some defaults were others, and what was left out is meant as it was then. Until version 2, a stage had one
/// sound, its key.
pub fn brought_up(mut path: Value) -> Value {
    let version = path.get("version").and_then(Value::as_u64).filter(|version| (1..=2).contains(version));
    let (Some(version), Some(fields)) = (version, path.as_object_mut()) else { return path };
    fields.insert("version".to_owned(), json!(PATH_VERSION));
    let stages = fields.get_mut("stages").and_then(Value::as_array_mut).into_iter().flatten();
    for stage in stages.filter_map(Value::as_object_mut) {
        if version == 1 {
            spell_out(stage);
        }
        match stage.remove("key") {
            Some(Value::Null) | None => {}
            Some(key) => drop(stage.insert("sounds".to_owned(), json!({ "key": key }))),
        }
    }
    path
}

/// Writes out what a stage of version 1 has left out and what has another default today.
fn spell_out(stage: &mut Map<String, Value>) {
    let effect = stage.get("effect").and_then(Value::as_str).and_then(effects::find);
    let others = effect.into_iter().flat_map(|effect| effect.params);
    let others = others.filter_map(|param| Some((param.id, param.default_in_1?)));
    let params = stage.entry("params").or_insert_with(|| json!({}));
    for (id, default) in others {
        if let Some(params) = params.as_object_mut().filter(|params| !params.contains_key(id)) {
            params.insert(id.to_owned(), json!(default));
        }
    }
}
