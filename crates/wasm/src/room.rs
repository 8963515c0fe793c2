//! Rooms by their measures: what the page draws at once, and what its measuring worker measures in their responses.

use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::document::parse_json;
use clear_bend_core::report::{RoomBendPoint, RoomMeasured, RoomPlan, brought_within, room_of};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;

/// The plan of a room (a source as JSON) as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomPlanJson)]
pub fn room_plan_json(room: &str) -> Result<String, JsError> {
    json(&RoomPlan::of(&room_of(&parse_json(room)?)?))
}

/// A room (a source as JSON) that has been changed, with source and listener inside of it, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomWithinJson)]
pub fn room_within_json(room: &str) -> Result<String, JsError> {
    json(&brought_within(&parse_json(room)?)?)
}

/// What is measured in the response of a room (a source as JSON), as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomMeasuredJson)]
pub fn room_measured_json(room: &str) -> Result<String, JsError> {
    json(&RoomMeasured::of(&room_of(&parse_json(room)?)?, BENCH_RATE_HZ))
}

/// How long a room (a source as JSON) rings with one of its measures at one of so many places along its control, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomBendPointJson)]
pub fn room_bend_point_json(room: &str, measure: &str, place: usize, of: usize) -> Result<String, JsError> {
    json(&RoomBendPoint::of(&room_of(&parse_json(room)?)?, measure, place, of, BENCH_RATE_HZ)?)
}
