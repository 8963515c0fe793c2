//! JSON Schemas (draft 2020-12) of what values are in files, made from the catalogue. What they accept is read; a reader takes a little more, such as
//! the place of a choice instead of its word, and older versions.

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::{Map, Value, json};

use super::values::name_in_list;
use super::{List, Number, Param};

/// A value of a parameter as it is written.
#[must_use]
pub fn value_of(param: &Param) -> Value {
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
        json!(param.choices[clear_bend_sound::cast::floor(param.default)])
    };
    value
}

/// Values by id, those of a list in one.
#[must_use]
pub fn values_of(params: &[Param], list: Option<List>) -> Value {
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

impl JsonSchema for Number {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Number".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({"anyOf": [{"type": "number"}, {"const": "inf"}]})
    }
}
