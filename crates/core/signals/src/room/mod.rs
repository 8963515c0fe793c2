//! A room by its measures: a box with walls, a source and two ears, and the response that follows.
//!
//! `measures.rs` says what can be set, `mirrors.rs` where the first reflections come from, `decays.rs` how long such a room rings by
//! the formulas, `energies.rs` by all images, `air.rs` what air takes on the way, and `answer.rs` makes the response of both: mirror images, and a diffuse tail joined to them.

mod air;
mod answer;
mod decays;
mod energies;
mod measures;
mod mirrors;
mod surfaces;

pub use air::{AIRS, Air, air_db_per_m};
pub use answer::{BEFORE, LATEST_S, answer};
pub use decays::{RoomDecays, decays};
pub use energies::{ImageEnergies, STEP_S};
pub use measures::{BANDS_HZ, EARS_M, MOST_ORDER, PARAMS, RoomMeasures, WALLS, distance, unheard, within};
pub use mirrors::{MirrorImage, complete_m, images, way};
pub use surfaces::{SURFACES, Surface};

use super::{Family, Material, SignalKind, at_peak};

/// The response of a room by its measures.
pub const ROOM: SignalKind = SignalKind {
    id: "response-of-a-room",
    label: "Room by its measures",
    family: Family::Response,
    material: Material::Clicks,
    purpose: "A box with walls of your choice: its first reflections by mirror images, then a diffuse tail. Two ears 17 cm apart, without a head between them.",
    params: PARAMS,
    highest: |_| None,
    fits: |values| RoomMeasures::from_values(values).check(),
    make: |values, rate_hz, channels| at_peak(answer(&RoomMeasures::from_values(values), rate_hz, channels)),
};
