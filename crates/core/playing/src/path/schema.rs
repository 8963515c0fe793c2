//! JSON Schemas (draft 2020-12) of what a stage is in files, made from the catalogue. What they accept is read; a reader takes a little more, such as
//! the place of a choice instead of its word, and older versions.

use clear_bend_catalogue::schema::{value_of, values_of};
use clear_bend_effects::{self as effects, Effect};
use clear_bend_signals::SourceDocument;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::{Map, Value, json};

use super::document::StageDocument;

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
        let scope = generator.subschema_for::<clear_bend_sound::scope::Scope>().to_value();
        let source = generator.subschema_for::<SourceDocument>().to_value();
        let stages: Vec<_> = effects::ALL.iter().map(|effect| stage_of(effect, &scope, &source)).collect();
        json_schema!({"description": "One effect in a path", "oneOf": stages})
    }
}
