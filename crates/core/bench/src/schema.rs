//! JSON Schemas (draft 2020-12) of the files, made from their types and from the catalogue. What they accept is read; a reader
//! takes a little more, such as the place of a choice instead of its word, and older versions.

use schemars::Schema;
use serde_json::{Value, json};

use crate::{BENCH_FORMAT, BENCH_VERSION, BenchDocument};
use clear_bend_catalogue::ear_maps::{EAR_MAP_FORMAT, EAR_MAP_VERSION, EarMapDocument};
use clear_bend_playing::path::{PATH_FORMAT, PATH_VERSION, PathFile};

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
