//! Designed responses: what the page draws while a hand moves their curves.

use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::document::parse_json;
use clear_bend_core::report::{DesignView, design_of};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;

/// What is seen of a designed response (a source as JSON), its wave in so many columns, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = designViewJson)]
pub fn design_view_json(design: &str, columns: usize) -> Result<String, JsError> {
    json(&DesignView::of(&design_of(&parse_json(design)?)?, BENCH_RATE_HZ, columns)?)
}
