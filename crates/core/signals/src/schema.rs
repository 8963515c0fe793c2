//! JSON Schemas (draft 2020-12) of what a source is in files, made from the catalogue. What they accept is read; a reader takes a little more, such as
//! the place of a choice instead of its word, and older versions.

use clear_bend_catalogue::Param;
use clear_bend_catalogue::schema::{value_of, values_of};
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::{Map, Value, json};

use crate::design::{CURVES, DESIGNED, MOST_PLACED, MOST_POINTS, PLACED};
use crate::kind::LONGEST_RESPONSE_S;
use crate::source::{MOST_STEMS, SENT, STEM, SourceDocument, TRACK};

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
        let made = crate::ALL.iter().map(|kind| {
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
