//! Ear maps: named ranges of frequency, for any material and for single instruments. Some are shipped; anybody may make
//! own ones.
//!
//! The rules of an own map: regions lie between 20 Hz and 20 kHz, are a sixth of an octave wide or more, and each has a
//! name. Their order does not matter. They may leave gaps and lie over each other, since what one hears as body and as box
//! shares frequencies; but no frequency belongs to more than three, which is what can be drawn and read.
//!
//! The ranges of the shipped maps are common practice; the words are ours.

use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::document::{check_format, check_version, parse_value};
use crate::{Param, Scale, Unit};
use clear_bend_sound::refusal::Refusal;

/// The `format` of an ear map.
pub const EAR_MAP_FORMAT: &str = "clear-bend-ear-map";

/// The version that is written.
pub const EAR_MAP_VERSION: u32 = 1;

/// Where regions lie, Hz.
pub const EAR_MAP_SPAN_HZ: [f64; 2] = [20.0, 20_000.0];

/// An end of a region, as it is typed.
pub const EDGE: Param = Param {
    id: "edge_hz",
    label: "Edge",
    unit: Unit::Hz,
    min: EAR_MAP_SPAN_HZ[0],
    max: EAR_MAP_SPAN_HZ[1],
    default: 1000.0,
    scale: Scale::Log,
    ..Param::BLANK
};

/// The most regions of a map.
pub const MOST_REGIONS: usize = 32;

/// So many regions may share a frequency.
pub const MOST_OVER_EACH_OTHER: usize = 3;

/// Longest name of a region, in characters.
pub const LONGEST_REGION_NAME: usize = 40;

/// The least width of a region: a sixth of an octave, as a ratio of its ends.
const LEAST_RATIO: f64 = 1.122_462_048_309_373;

/// A named range.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct EarRegion {
    /// Where it begins, Hz.
    pub from_hz: f64,
    /// Where it ends, Hz.
    pub to_hz: f64,
    /// What one hears there, in a word or two.
    pub name: String,
}

/// A map that is shipped.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct EarMap {
    /// Its name.
    pub name: &'static str,
    /// Its ranges, rising.
    pub regions: Vec<EarRegion>,
}

/// An own map as it is saved; its name is kept beside it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct EarMapDocument {
    /// Always [`EAR_MAP_FORMAT`].
    pub format: String,
    /// [`EAR_MAP_VERSION`].
    pub version: u32,
    /// Its ranges, in any order.
    pub regions: Vec<EarRegion>,
}

impl EarMapDocument {
    /// A map of some regions.
    #[must_use]
    pub fn new(regions: Vec<EarRegion>) -> Self {
        Self { format: EAR_MAP_FORMAT.to_owned(), version: EAR_MAP_VERSION, regions }
    }

    /// Reads and checks a map out of a JSON value.
    ///
    /// # Errors
    /// Refuses another format or version, unknown fields, and what [`EarMapDocument::check`] refuses.
    pub fn from_value(value: Value) -> Result<Self, Refusal> {
        let document: Self = parse_value(value)?;
        document.check()?;
        Ok(document)
    }

    /// Checks the rules of an own map.
    ///
    /// # Errors
    /// Refuses no region or more than 32; a region without a name, out of 20 Hz to 20 kHz, or narrower than a sixth of an
    /// octave; and more than three over each other, with the path to the field.
    pub fn check(&self) -> Result<(), Refusal> {
        check_format(&self.format, EAR_MAP_FORMAT)?;
        check_version(self.version, EAR_MAP_VERSION)?;
        if !(1..=MOST_REGIONS).contains(&self.regions.len()) {
            return Err(Refusal::new("regions", self.regions.len(), format!("1 to {MOST_REGIONS}")));
        }
        for (i, region) in self.regions.iter().enumerate() {
            region.check().map_err(|e| e.within(&format!("regions[{i}]")))?;
        }
        // Where the most share a frequency, one of them begins.
        let over = |hz: f64| self.regions.iter().filter(|r| r.from_hz <= hz && hz < r.to_hz).count();
        match self.regions.iter().position(|r| over(r.from_hz) > MOST_OVER_EACH_OTHER) {
            Some(i) => Err(Refusal::new(
                format!("regions[{i}]"),
                format!(
                    "over {} others at {} Hz",
                    over(self.regions[i].from_hz) - 1,
                    self.regions[i].from_hz
                ),
                format!("at most {MOST_OVER_EACH_OTHER} regions over each other"),
            )),
            None => Ok(()),
        }
    }
}

impl EarRegion {
    fn check(&self) -> Result<(), Refusal> {
        let length = self.name.trim().chars().count();
        if length == 0 || length > LONGEST_REGION_NAME || self.name.chars().any(char::is_control) {
            let found = if length == 0 {
                "empty".to_owned()
            } else {
                format!("\u{201c}{}\u{201d}", self.name.escape_debug())
            };
            return Err(Refusal::new(
                "name",
                found,
                format!("1 to {LONGEST_REGION_NAME} characters on one line"),
            ));
        }
        let [lowest, highest] = EAR_MAP_SPAN_HZ;
        for (field, hz) in [("from_hz", self.from_hz), ("to_hz", self.to_hz)] {
            if !(lowest..=highest).contains(&hz) {
                return Err(Refusal::new(field, hz, format!("{lowest} to {highest} Hz")));
            }
        }
        if self.to_hz < self.from_hz * LEAST_RATIO {
            let least = (self.from_hz * LEAST_RATIO).ceil();
            let accepted = format!("{least} Hz or more, a sixth of an octave over from_hz");
            return Err(Refusal::new("to_hz", self.to_hz, accepted));
        }
        Ok(())
    }
}

/// The rules of own maps, in a sentence for who makes one.
#[must_use]
pub fn rules() -> String {
    let [lowest, highest] = EAR_MAP_SPAN_HZ.map(|hz| Unit::Hz.text(hz));
    format!(
        "Regions lie between {lowest} and {highest} and are a sixth of an octave wide or more; every one has a name. They may leave \
         gaps and lie over each other, at most {MOST_OVER_EACH_OTHER} in one place. A map has at most {MOST_REGIONS}."
    )
}

/// A region to begin with after others: an octave, where the last one ends.
#[must_use]
pub fn next_region(regions: &[EarRegion]) -> EarRegion {
    let from_hz = regions.last().map_or(200.0, |last| last.to_hz).min(EAR_MAP_SPAN_HZ[1] / 2.0);
    EarRegion { from_hz, to_hz: 2.0 * from_hz, name: String::new() }
}

/// The maps that are shipped.
#[must_use]
pub fn shipped() -> Vec<EarMap> {
    let region =
        |&(from_hz, to_hz, name): &(f64, f64, &str)| EarRegion { from_hz, to_hz, name: name.to_owned() };
    SHIPPED
        .iter()
        .map(|(name, regions)| EarMap { name, regions: regions.iter().map(region).collect() })
        .collect()
}

/// Names and regions of the shipped maps: from and to in Hz, and the word.
type Shipped = (&'static str, &'static [(f64, f64, &'static str)]);

const SHIPPED: &[Shipped] = &[
    (
        "Any sound",
        &[
            (20.0, 60.0, "felt"),
            (60.0, 120.0, "weight"),
            (120.0, 250.0, "warmth"),
            (250.0, 500.0, "thick"),
            (500.0, 1000.0, "hollow"),
            (1000.0, 2000.0, "honk"),
            (2000.0, 4000.0, "bite"),
            (4000.0, 7000.0, "near"),
            (7000.0, 12_000.0, "hiss"),
            (12_000.0, 20_000.0, "air"),
        ],
    ),
    (
        "Voice",
        &[
            (20.0, 80.0, "rumble, steps"),
            (80.0, 160.0, "chest"),
            (160.0, 350.0, "body"),
            (350.0, 800.0, "box"),
            (800.0, 1500.0, "nose"),
            (1500.0, 4000.0, "words"),
            (4000.0, 9000.0, "s and t"),
            (9000.0, 20_000.0, "breath"),
        ],
    ),
    (
        "Plucked bass",
        &[
            (30.0, 80.0, "ground"),
            (80.0, 200.0, "note"),
            (200.0, 500.0, "wood"),
            (500.0, 1200.0, "growl"),
            (1200.0, 4000.0, "finger"),
            (4000.0, 8000.0, "string noise"),
        ],
    ),
    (
        "Low drum",
        &[
            (30.0, 50.0, "felt"),
            (50.0, 100.0, "thump"),
            (100.0, 250.0, "round"),
            (250.0, 600.0, "carton"),
            (2000.0, 5000.0, "click"),
            (5000.0, 12_000.0, "skin"),
        ],
    ),
    (
        "Rattling drum",
        &[
            (100.0, 250.0, "punch"),
            (250.0, 600.0, "shell ring"),
            (600.0, 2000.0, "tin"),
            (2000.0, 5000.0, "crack"),
            (5000.0, 12_000.0, "rattle"),
        ],
    ),
    (
        "Strummed strings",
        &[
            (80.0, 200.0, "boom"),
            (200.0, 500.0, "body"),
            (500.0, 1500.0, "wood"),
            (1500.0, 4000.0, "pick"),
            (4000.0, 9000.0, "wire"),
            (9000.0, 18_000.0, "shimmer"),
        ],
    ),
    (
        "Keys",
        &[
            (30.0, 100.0, "left hand"),
            (100.0, 300.0, "warmth"),
            (300.0, 900.0, "middle"),
            (900.0, 2500.0, "hammer"),
            (2500.0, 6000.0, "clarity"),
            (6000.0, 16_000.0, "sheen"),
        ],
    ),
    (
        "Metal plates",
        &[
            (200.0, 500.0, "gong"),
            (500.0, 2000.0, "clank"),
            (2000.0, 6000.0, "stick"),
            (6000.0, 12_000.0, "wash"),
            (12_000.0, 20_000.0, "sizzle"),
        ],
    ),
];
