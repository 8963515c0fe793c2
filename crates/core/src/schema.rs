//! JSON Schemas (draft 2020-12) of the files, made from their types and from the catalogue. What they accept is read; a reader
//! takes a little more, such as the place of a choice instead of its word, and older versions.

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::{Map, Value, json};

use crate::bench::{BENCH_FORMAT, BENCH_VERSION, BenchDocument, MOST_STEMS};
use crate::catalogue::{List, Number, Param, name_in_list};
use crate::ear_maps::{EAR_MAP_FORMAT, EAR_MAP_VERSION, EarMapDocument};
use crate::effects::{self, Effect};
use crate::path::{PATH_FORMAT, PATH_VERSION, PathFile, StageDocument};
use crate::signals::design::{CURVES, DESIGNED, MOST_PLACED, MOST_POINTS, PLACED};
use crate::signals::{self, LONGEST_RESPONSE_S, SENT, STEM, SourceDocument, TRACK};

/// Makes a schema.
pub type MakeSchema = fn() -> Value;

/// The kinds of file that have a schema, by name, with what makes it.
pub const SCHEMAS: [(&str, MakeSchema); 3] = [("path", path), ("bench", bench), ("ear-map", ear_map)];

fn path() -> Value {
    with_head(schemars::schema_for!(PathFile), PATH_FORMAT, PATH_VERSION)
}

fn bench() -> Value {
    with_head(schemars::schema_for!(BenchDocument), BENCH_FORMAT, BENCH_VERSION)
}

fn ear_map() -> Value {
    with_head(schemars::schema_for!(EarMapDocument), EAR_MAP_FORMAT, EAR_MAP_VERSION)
}

/// Says which format and version it is.
fn with_head(schema: Schema, format: &str, version: u32) -> Value {
    let mut schema = schema.to_value();
    schema["properties"]["format"] = json!({ "const": format });
    schema["properties"]["version"] = json!({ "const": version });
    schema
}

/// A value of a parameter as it is written.
fn value_of(param: &Param) -> Value {
    let mut value = if param.choices.is_empty() {
        let mut number = json!({"type": "number", "minimum": param.min});
        if param.max.is_finite() {
            number["maximum"] = json!(param.max);
        }
        if param.step > 0.0 {
            number["multipleOf"] = json!(param.step);
        }
        if param.max.is_finite() { number } else { json!({"anyOf": [number, {"const": "inf"}]}) }
    } else {
        json!({ "enum": param.choices })
    };
    value["description"] = json!(param.what);
    value["default"] = if param.choices.is_empty() {
        json!(Number(param.default))
    } else {
        json!(param.choices[crate::cast::floor(param.default)])
    };
    value
}

/// Values by id, those of a list in one.
fn values_of(params: &[Param], list: Option<List>) -> Value {
    let mut properties = Map::new();
    let mut element = Map::new();
    let mut most = 0;
    for param in params {
        match list.and_then(|_| name_in_list(param.id)) {
            Some((number, name)) => {
                most = most.max(number);
                element.entry(name).or_insert_with(|| value_of(param));
            }
            None => drop(properties.insert(param.id.to_owned(), value_of(param))),
        }
    }
    if let Some(list) = list {
        let items = json!({"type": "object", "required": [list.there], "additionalProperties": false,
            "properties": element});
        properties.insert(list.id.to_owned(), json!({"type": "array", "maxItems": most, "items": items}));
    }
    json!({"type": "object", "additionalProperties": false, "properties": properties})
}

fn stage_of(effect: &Effect, scope: &Value, source: &Value) -> Value {
    let sounds: Map<_, _> = effect.sounds.iter().map(|slot| (slot.id.to_owned(), source.clone())).collect();
    json!({
        "title": effect.label, "description": effect.purpose, "type": "object",
        "required": ["effect"], "additionalProperties": false,
        "properties": {
            "effect": {"const": effect.id},
            "on": {"type": "boolean", "default": true},
            "scope": scope,
            "mix": value_of(&effect.mix),
            "params": values_of(effect.params, effect.list()),
            "sounds": {"type": "object", "additionalProperties": false, "properties": sounds},
        },
    })
}

impl JsonSchema for StageDocument {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Stage".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        let scope = generator.subschema_for::<crate::scope::Scope>().to_value();
        let source = generator.subschema_for::<SourceDocument>().to_value();
        let stages: Vec<_> = effects::ALL.iter().map(|effect| stage_of(effect, &scope, &source)).collect();
        json_schema!({"description": "One effect in a path", "oneOf": stages})
    }
}

/// What is drawn and placed in a designed response.
fn design() -> Value {
    let point = |value: Value| {
        let at_s =
            json!({"type": "number", "minimum": 0, "maximum": LONGEST_RESPONSE_S, "description": "Time, s"});
        json!({"type": "array", "prefixItems": [at_s, value], "items": false, "minItems": 2})
    };
    let curve = |param: &Param| {
        let points = json!({"type": "array", "minItems": 1, "maxItems": MOST_POINTS,
            "description": param.what, "items": point(value_of(param))});
        (param.id.to_owned(), points)
    };
    let curves: Map<_, _> = CURVES.iter().map(curve).collect();
    let mut placed = values_of(&PLACED, None);
    placed["required"] = json!([PLACED[0].id]);
    json!({"type": "object", "additionalProperties": false, "properties": {
        "curves": {"type": "object", "additionalProperties": false, "properties": curves},
        "placed": {"type": "array", "maxItems": MOST_PLACED, "items": placed},
    }})
}

impl JsonSchema for SourceDocument {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Source".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        let made = signals::ALL.iter().map(|kind| {
            let mut properties = json!({"kind": {"const": kind.id}, "params": values_of(kind.params, None)});
            if **kind == DESIGNED {
                properties["design"] = design();
            }
            json!({
                "title": kind.label, "description": kind.purpose, "type": "object",
                "required": ["kind"], "additionalProperties": false, "properties": properties,
            })
        });
        let other = |kind: &str, what: &str, of: Value| {
            json!({
                "title": what, "type": "object", "required": ["kind", kind], "additionalProperties": false,
                "properties": {"kind": {"const": kind}, kind: of},
            })
        };
        let mut track = other(TRACK, "A kept track", json!({"type": "string", "pattern": "^[0-9a-f]{64}$"}));
        track["properties"]["name"] = json!({"type": "string", "minLength": 1, "maxLength": 255,
            "description": "What it is called where it is kept"});
        let stems = json!({"type": "integer", "minimum": 0, "maximum": MOST_STEMS - 1});
        let mut stem =
            other(STEM, "A stem of the bench, before or after its path; only as a sound of a stage", stems);
        stem["properties"]["after"] = json!({"type": "boolean", "default": false});
        let sent = json!({"type": "object", "description": "What others send to it; only as the source of a stem, which is a shared path then",
            "properties": {"kind": {"const": SENT}}, "required": ["kind"], "additionalProperties": false});
        json_schema!({"oneOf": made.chain([track, stem, sent]).collect::<Vec<_>>()})
    }
}

impl JsonSchema for Number {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Number".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({"anyOf": [{"type": "number"}, {"const": "inf"}]})
    }
}
