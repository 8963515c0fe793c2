//! `clear-bend measure room`: a room by its measures.

use std::path::PathBuf;

use clap::Args;
use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_explaining::report::{RoomBendPoint, RoomMeasured, RoomPlan, room_bend, room_of};
use clear_bend_signals::room::ROOM;
use serde::Serialize;

use crate::fault::Fault;

/// Which room, and what of it.
#[derive(Args)]
pub struct Arguments {
    /// Its measures as they stand in a path file: `{"kind": "response-of-a-room", "params": {"length_m": 9}}`; the usual room without
    #[arg(long)]
    source: Option<PathBuf>,
    /// One of its measures over whose range the decay time is measured as well
    #[arg(long)]
    bend: Option<String>,
    /// At how many values
    #[arg(long, default_value_t = 9, value_parser = clap::value_parser!(u16).range(2..=100))]
    points: u16,
}

#[derive(Serialize)]
struct Measured {
    plan: RoomPlan,
    response: RoomMeasured,
    #[serde(skip_serializing_if = "Option::is_none")]
    bend: Option<Vec<RoomBendPoint>>,
}

/// Measures and prints.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let Arguments { source, bend, points } = arguments;
    let named = |e: clear_bend_sound::Refusal| Fault::input("--source", e);
    let values = room_of(&super::read_source("--source", source.as_deref(), ROOM.id)?).map_err(named)?;
    let over = |measure: &String| room_bend(&values, measure, usize::from(*points), BENCH_RATE_HZ);
    super::print_json(&Measured {
        plan: RoomPlan::of(&values),
        response: RoomMeasured::of(&values, BENCH_RATE_HZ),
        bend: bend.as_ref().map(over).transpose().map_err(|e| Fault::input("--bend", e))?,
    })
}
