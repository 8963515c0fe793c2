//! Ear maps: named ranges of frequency, for any material and for single instruments.
//!
//! The ranges are common practice; the words are ours.

use serde::Serialize;

/// A named range.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct EarRegion {
    /// Where it begins, Hz.
    pub from_hz: f64,
    /// Where it ends, Hz.
    pub to_hz: f64,
    /// What one hears there, in a word or two.
    pub name: &'static str,
}

/// Named ranges, rising and without overlaps.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct EarMap {
    /// Its name.
    pub name: &'static str,
    /// Its ranges.
    pub regions: &'static [EarRegion],
}

const fn at(from_hz: f64, to_hz: f64, name: &'static str) -> EarRegion {
    EarRegion { from_hz, to_hz, name }
}

/// The maps that are shipped.
pub const EAR_MAPS: &[EarMap] = &[
    EarMap {
        name: "Any sound",
        regions: &[
            at(20.0, 60.0, "felt"),
            at(60.0, 120.0, "weight"),
            at(120.0, 250.0, "warmth"),
            at(250.0, 500.0, "thick"),
            at(500.0, 1000.0, "hollow"),
            at(1000.0, 2000.0, "honk"),
            at(2000.0, 4000.0, "bite"),
            at(4000.0, 7000.0, "near"),
            at(7000.0, 12_000.0, "hiss"),
            at(12_000.0, 20_000.0, "air"),
        ],
    },
    EarMap {
        name: "Voice",
        regions: &[
            at(20.0, 80.0, "rumble, steps"),
            at(80.0, 160.0, "chest"),
            at(160.0, 350.0, "body"),
            at(350.0, 800.0, "box"),
            at(800.0, 1500.0, "nose"),
            at(1500.0, 4000.0, "words"),
            at(4000.0, 9000.0, "s and t"),
            at(9000.0, 20_000.0, "breath"),
        ],
    },
    EarMap {
        name: "Plucked bass",
        regions: &[
            at(30.0, 80.0, "ground"),
            at(80.0, 200.0, "note"),
            at(200.0, 500.0, "wood"),
            at(500.0, 1200.0, "growl"),
            at(1200.0, 4000.0, "finger"),
            at(4000.0, 8000.0, "string noise"),
        ],
    },
    EarMap {
        name: "Low drum",
        regions: &[
            at(30.0, 50.0, "felt"),
            at(50.0, 100.0, "thump"),
            at(100.0, 250.0, "round"),
            at(250.0, 600.0, "carton"),
            at(2000.0, 5000.0, "click"),
            at(5000.0, 12_000.0, "skin"),
        ],
    },
    EarMap {
        name: "Rattling drum",
        regions: &[
            at(100.0, 250.0, "punch"),
            at(250.0, 600.0, "shell ring"),
            at(600.0, 2000.0, "tin"),
            at(2000.0, 5000.0, "crack"),
            at(5000.0, 12_000.0, "rattle"),
        ],
    },
    EarMap {
        name: "Strummed strings",
        regions: &[
            at(80.0, 200.0, "boom"),
            at(200.0, 500.0, "body"),
            at(500.0, 1500.0, "wood"),
            at(1500.0, 4000.0, "pick"),
            at(4000.0, 9000.0, "wire"),
            at(9000.0, 18_000.0, "shimmer"),
        ],
    },
    EarMap {
        name: "Keys",
        regions: &[
            at(30.0, 100.0, "left hand"),
            at(100.0, 300.0, "warmth"),
            at(300.0, 900.0, "middle"),
            at(900.0, 2500.0, "hammer"),
            at(2500.0, 6000.0, "clarity"),
            at(6000.0, 16_000.0, "sheen"),
        ],
    },
    EarMap {
        name: "Metal plates",
        regions: &[
            at(200.0, 500.0, "gong"),
            at(500.0, 2000.0, "clank"),
            at(2000.0, 6000.0, "stick"),
            at(6000.0, 12_000.0, "wash"),
            at(12_000.0, 20_000.0, "sizzle"),
        ],
    },
];
