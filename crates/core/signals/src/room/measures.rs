//! The measures of a room: what can be set, and what fits into it.

use super::air::{AIRS, Air};
use super::surfaces::SURFACES;
use crate::SEED;
use clear_bend_catalogue::{Number, Param, Scale, Unit};
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;

/// Walls, in the order of their settings: across the length, across the width, across the height.
pub const WALLS: [&str; 6] = ["front wall", "back wall", "left wall", "right wall", "floor", "ceiling"];
/// Octaves in which walls are given, Hz; lower and higher ones are taken as the nearest.
pub const BANDS_HZ: [f64; 6] = [125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0];
/// The highest order that a room may have.
pub const MOST_ORDER: usize = 20;
/// The distance of the ears from each other, m.
pub const EARS_M: f64 = 0.17;
/// Sources and listeners keep so far from walls, m: ears still lie in the room.
const CLEAR_M: f64 = 0.1;
/// And so far from each other, m.
const APART_M: f64 = 0.3;

/// The measures of a room.
#[derive(Debug, Clone, PartialEq)]
pub struct RoomMeasures {
    /// Length, width and height, m.
    pub size_m: [f64; 3],
    /// Where the source is: from the front wall, from the left wall, from the floor, m.
    pub source_m: [f64; 3],
    /// Where the middle between the ears is, likewise.
    pub listener_m: [f64; 3],
    /// Where the listener looks: 0 to the front wall, 90 to the right wall, degrees.
    pub facing_deg: f64,
    /// Sound that has met more walls than this is part of the tail.
    pub order: u32,
    /// Seed of the tail.
    pub seed: u64,
    /// What air takes something on the way; none where it takes nothing.
    pub air: Option<Air>,
    /// The share of the sound that every wall takes in every octave.
    pub absorption: [[f64; 6]; 6],
}

const LENGTHS: Param =
    Param { unit: Unit::M, min: 1.5, max: 60.0, scale: Scale::Log, group: "Room", ..Param::BLANK };
const PLACES: Param =
    Param { unit: Unit::M, min: CLEAR_M, max: 60.0 - CLEAR_M, group: "Places", ..Param::BLANK };
const SHARE: Param = Param { unit: Unit::Percent, max: 1.0, default: 0.1, group: "Walls", ..Param::BLANK };

/// How a wall is given: by its own values, or as a kind of surface.
const KINDS: &[&str] = &{
    let mut kinds = ["by hand"; SURFACES.len() + 1];
    let mut k = 0;
    while k < SURFACES.len() {
        kinds[k + 1] = SURFACES[k].name;
        k += 1;
    }
    kinds
};

/// What air takes: nothing, or what it does by its humidity.
const KINDS_OF_AIR: &[&str] = &{
    let mut kinds = ["takes nothing"; AIRS.len() + 1];
    let mut k = 0;
    while k < AIRS.len() {
        kinds[k + 1] = AIRS[k].name;
        k += 1;
    }
    kinds
};

/// The settings of one wall.
macro_rules! wall {
    ($id:literal, $label:literal, $usual:literal) => {
        [
            Param {
                id: concat!($id, "_surface"),
                label: $label,
                group: "Walls",
                choices: KINDS,
                default: $usual,
                what: concat!("What the ", $id, " is made of, or that its values are set by hand."),
                ..Param::BLANK
            },
            wall!($id, $label, "125", "125 Hz"),
            wall!($id, $label, "250", "250 Hz"),
            wall!($id, $label, "500", "500 Hz"),
            wall!($id, $label, "1000", "1 kHz"),
            wall!($id, $label, "2000", "2 kHz"),
            wall!($id, $label, "4000", "4 kHz"),
        ]
    };
    ($id:literal, $label:literal, $hz:literal, $said:literal) => {
        Param {
            id: concat!($id, "_absorption_", $hz),
            label: concat!($label, ", ", $said),
            what: concat!(
                "The share of the sound that it takes in the octave at ",
                $said,
                ", where it is set by hand."
            ),
            ..SHARE
        }
    };
}

/// Settings ahead of those of the walls.
const FIRST: [Param; 13] = [
    Param {
        id: "length_m",
        label: "Length",
        default: 7.2,
        what: "From the front wall to the back wall.",
        ..LENGTHS
    },
    Param {
        id: "width_m",
        label: "Width",
        default: 5.1,
        what: "From the left wall to the right wall.",
        ..LENGTHS
    },
    Param {
        id: "height_m",
        label: "Height",
        default: 3.1,
        max: 30.0,
        what: "From the floor to the ceiling.",
        ..LENGTHS
    },
    Param {
        id: "source_from_front_m",
        label: "Source from the front",
        default: 1.6,
        what: "How far the source is from the front wall.",
        ..PLACES
    },
    Param {
        id: "source_from_left_m",
        label: "Source from the left",
        default: 2.1,
        what: "How far the source is from the left wall.",
        ..PLACES
    },
    Param {
        id: "source_height_m",
        label: "Source height",
        default: 1.4,
        max: 30.0 - CLEAR_M,
        what: "How high the source is over the floor.",
        ..PLACES
    },
    Param {
        id: "listener_from_front_m",
        label: "Listener from the front",
        default: 5.0,
        what: "How far the listener is from the front wall.",
        ..PLACES
    },
    Param {
        id: "listener_from_left_m",
        label: "Listener from the left",
        default: 2.8,
        what: "How far the listener is from the left wall.",
        ..PLACES
    },
    Param {
        id: "listener_height_m",
        label: "Listener height",
        default: 1.2,
        max: 30.0 - CLEAR_M,
        what: "How high the ears are over the floor.",
        ..PLACES
    },
    Param {
        id: "facing_deg",
        label: "Facing",
        group: "Places",
        unit: Unit::Degrees,
        max: 360.0,
        what: "Where the listener looks: 0\u{b0} to the front wall, 90\u{b0} to the right wall.",
        ..Param::BLANK
    },
    Param {
        id: "order",
        label: "Order",
        group: "Room",
        max: cast::real(MOST_ORDER),
        default: 8.0,
        step: 1.0,
        what: "How many walls sound may meet on its way and still be a reflection of its own; what has met more is part of the tail.",
        ..Param::BLANK
    },
    Param { id: "seed", group: "Room", ..SEED },
    Param {
        id: "air",
        label: "Air",
        group: "Room",
        choices: KINDS_OF_AIR,
        what: "What air of 20 °C takes of the highs on their way: dry with 20 % humidity, usual with 50 %, damp with 80 %.",
        ..Param::BLANK
    },
];

const BY_WALL: usize = 1 + BANDS_HZ.len();
const COUNT: usize = FIRST.len() + WALLS.len() * BY_WALL;

/// All settings of a room: its own, then seven of every wall.
pub const PARAMS: &[Param] = &{
    let walls = [
        wall!("front", "Front wall", 3.0),
        wall!("back", "Back wall", 9.0),
        wall!("left", "Left wall", 7.0),
        wall!("right", "Right wall", 3.0),
        wall!("floor", "Floor", 6.0),
        wall!("ceiling", "Ceiling", 4.0),
    ];
    let mut params = [Param::BLANK; COUNT];
    let mut k = 0;
    while k < COUNT {
        params[k] = if k < FIRST.len() {
            FIRST[k]
        } else {
            walls[(k - FIRST.len()) / BY_WALL][(k - FIRST.len()) % BY_WALL]
        };
        k += 1;
    }
    params
};

impl RoomMeasures {
    /// From values in catalogue order.
    #[must_use]
    pub fn from_values(values: &[f64]) -> Self {
        let value = |k: usize| values.get(k).copied().unwrap_or(PARAMS[k].default);
        let three = |k: usize| [value(k), value(k + 1), value(k + 2)];
        let wall = |wall: usize| {
            let first = FIRST.len() + wall * BY_WALL;
            match cast::floor(value(first)).checked_sub(1).and_then(|kind| SURFACES.get(kind)) {
                Some(surface) => surface.absorption,
                None => [0, 1, 2, 3, 4, 5].map(|band| value(first + 1 + band)),
            }
        };
        Self {
            size_m: three(0),
            source_m: three(3),
            listener_m: three(6),
            facing_deg: value(9),
            order: cast::small(cast::floor(value(10))),
            seed: cast::seed(value(11)),
            air: cast::floor(value(12)).checked_sub(1).and_then(|kind| AIRS.get(kind)).copied(),
            absorption: [0, 1, 2, 3, 4, 5].map(wall),
        }
    }

    /// Accepts a room in which source and listener have room.
    ///
    /// # Errors
    /// Refuses places outside of the room or in a wall, and both in one place.
    pub fn check(&self) -> Result<(), Refusal> {
        for (from, places) in [(3, self.source_m), (6, self.listener_m)] {
            for (axis, (place, size)) in places.into_iter().zip(self.size_m).enumerate() {
                let most = hundredths(size - CLEAR_M);
                if !(CLEAR_M..=most).contains(&place) {
                    let accepted = format!("{CLEAR_M} to {} m, inside the room", Number(most));
                    return Err(Refusal::new(
                        PARAMS[from + axis].id,
                        format!("{} m", Number(place)),
                        accepted,
                    ));
                }
            }
        }
        let apart = hundredths(distance(self.source_m, self.listener_m));
        if apart < APART_M {
            let found = format!("{} m from the source", Number(apart));
            return Err(Refusal::new("listener", found, format!("at least {APART_M} m")));
        }
        Ok(())
    }

    /// The ears: the left one, and the right one.
    #[must_use]
    pub fn ears_m(&self) -> [[f64; 3]; 2] {
        let (sin, cos) = self.facing_deg.to_radians().sin_cos();
        let [x, y, z] = self.listener_m;
        // Over the right shoulder of who looks along the length, towards its beginning, the width grows.
        [-0.5, 0.5].map(|side| [x + side * EARS_M * sin, y + side * EARS_M * cos, z])
    }

    /// What the air takes at a frequency (Hz), dB for every metre.
    #[must_use]
    pub fn air_db_per_m(&self, freq_hz: f64) -> f64 {
        self.air.map_or(0.0, |air| air.db_per_m(freq_hz))
    }

    /// Volume, m³.
    #[must_use]
    pub fn volume_m3(&self) -> f64 {
        self.size_m.iter().product()
    }

    /// The surface of every wall, m².
    #[must_use]
    pub fn walls_m2(&self) -> [f64; 6] {
        let [length, width, height] = self.size_m;
        let [across, along, flat] = [width * height, length * height, length * width];
        [across, across, along, along, flat, flat]
    }
}

/// Values of a room that has been changed, with source and listener brought inside and apart: the room was made smaller, or one of
/// them was put upon the other. Values that are nowhere near a room stay as they are.
#[must_use]
pub fn within(values: &[f64]) -> Vec<f64> {
    let mut values: Vec<f64> =
        PARAMS.iter().enumerate().map(|(k, p)| values.get(k).copied().unwrap_or(p.default)).collect();
    for from in [3, 6] {
        for axis in 0..3 {
            let most = hundredths(values[axis] - CLEAR_M);
            values[from + axis] = values[from + axis].min(most).max(CLEAR_M);
        }
    }
    let room = RoomMeasures::from_values(&values);
    if hundredths(distance(room.source_m, room.listener_m)) < APART_M {
        // Along the length, to where there is more of it.
        let ahead = room.source_m[0] < 0.5 * room.size_m[0];
        let away = if ahead { APART_M } else { -APART_M };
        values[6] = hundredths(room.source_m[0] + away);
    }
    values
}

/// The walls of which something is set by hand that is not heard, as each is made of a surface: its place, the setting and the surface.
#[must_use]
pub fn unheard(values: &[f64]) -> Vec<(usize, &'static Param, &'static str)> {
    let wall = |wall: usize| {
        let first = FIRST.len() + wall * BY_WALL;
        let kind = KINDS.get(cast::floor(*values.get(first)?)).filter(|kind| **kind != KINDS[0])?;
        let set = |k: &usize| values.get(*k).is_some_and(|value| *value != PARAMS[*k].default);
        let set = (first + 1..first + BY_WALL).find(set)?;
        Some((wall, &PARAMS[set], *kind))
    };
    (0..WALLS.len()).filter_map(wall).collect()
}

fn hundredths(value: f64) -> f64 {
    (100.0 * value).round() / 100.0
}

/// The distance of two places, m.
#[must_use]
pub fn distance(a: [f64; 3], b: [f64; 3]) -> f64 {
    a.into_iter().zip(b).map(|(a, b)| (a - b).powi(2)).sum::<f64>().sqrt()
}
