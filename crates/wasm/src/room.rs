//! Rooms by their measures: what the page draws at once, and what its measuring worker measures in their responses.

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_explaining::report::{RoomBendPoint, RoomMeasured, RoomPlan, brought_within, room_of};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};

/// The plan of a room.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomPlan)]
pub fn room_plan(room: &js::Source) -> Result<js::RoomPlan, JsError> {
    given(&RoomPlan::of(&room_of(&taken(room)?)?))
}

/// A room that has been changed, with source and listener inside of it.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomWithin)]
pub fn room_within(room: &js::Source) -> Result<js::Source, JsError> {
    given(&brought_within(&taken(room)?)?)
}

/// What is measured in the response of a room.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomMeasured)]
pub fn room_measured(room: &js::Source) -> Result<js::RoomMeasured, JsError> {
    given(&RoomMeasured::of(&room_of(&taken(room)?)?, BENCH_RATE_HZ))
}

/// How long a room rings with one of its measures at one of so many places along its control.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = roomBendPoint)]
pub fn room_bend_point(
    room: &js::Source,
    measure: &str,
    place: usize,
    of: usize,
) -> Result<js::RoomBendPoint, JsError> {
    given(&RoomBendPoint::of(&room_of(&taken(room)?)?, measure, place, of, BENCH_RATE_HZ)?)
}
