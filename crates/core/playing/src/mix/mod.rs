//! Stems that play together: level, pan, solo, mute, what they send to shared paths, and the sum of all.

mod desk;

pub use desk::{Beside, Desk, Playing, ThereAndBack, add};

use serde::{Deserialize, Serialize};

use clear_bend_catalogue::{Param, Unit};
use clear_bend_sound::level::gain_from_db;
use clear_bend_sound::refusal::Refusal;

/// The most shared paths of a bench.
pub const MOST_SHARED: usize = 4;

/// How a stem sits among the others.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Strip {
    /// Level, dB.
    pub level_db: f64,
    /// Place from left (-1) to right (1).
    pub pan: f64,
    /// Whether it is silent among the others.
    pub mute: bool,
    /// Whether only it, and others like it, are heard.
    pub solo: bool,
}

/// The level of a stem.
pub const LEVEL: Param = Param {
    id: "level_db",
    label: "Level",
    unit: Unit::Db,
    min: -60.0,
    max: 12.0,
    what: "How loud the stem is among the others.",
    ..Param::BLANK
};

/// The place of a stem.
pub const PAN: Param = Param {
    id: "pan",
    label: "Pan",
    unit: Unit::Percent,
    min: -1.0,
    max: 1.0,
    what: "Where the stem sits: \u{2212}100 % is left, 100 % right. The far side is turned down, the near one stays.",
    ..Param::BLANK
};

impl Strip {
    /// Checks the numbers.
    ///
    /// # Errors
    /// Refuses a level or a pan out of range.
    pub fn check(&self) -> Result<(), Refusal> {
        LEVEL.check(self.level_db)?;
        PAN.check(self.pan)?;
        Ok(())
    }

    /// The gains of left and right: the far side falls like a cosine, the near one stays.
    #[must_use]
    pub fn gains(&self) -> [f64; 2] {
        let level = gain_from_db(self.level_db);
        let far = (self.pan.abs() * std::f64::consts::FRAC_PI_2).cos();
        if self.pan > 0.0 { [level * far, level] } else { [level, level * far] }
    }
}

/// What a stem sends to a shared path.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Send {
    /// The place of the shared path among the stems.
    pub to: usize,
    /// Level, dB.
    #[serde(default)]
    pub level_db: f64,
    /// Whether it is taken before the level and the pan of the strip, and not after them.
    #[serde(default)]
    pub before_strip: bool,
}

/// The level of what is sent.
pub const SEND_LEVEL: Param = Param {
    id: "send_db",
    label: "Send",
    what: "How loud the stem is sent to the shared path, beside the level at which it is heard itself.",
    ..LEVEL
};

impl Send {
    /// The gains of left and right from what leaves the path of a stem to what comes into the shared path.
    #[must_use]
    pub fn gains(&self, strip: &Strip) -> [f64; 2] {
        let level = gain_from_db(self.level_db);
        let strip = if self.before_strip { [1.0; 2] } else { strip.gains() };
        strip.map(|gain| level * gain)
    }
}

/// How what stems send is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum SendsAs {
    /// Through one path that all stems share.
    #[default]
    Shared,
    /// Through an insert beside every stem: a copy of the shared path of its own, at the same levels.
    Inserts,
}

/// What is heard of a stem among the others.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Audible {
    /// Whether it is heard itself; of a shared path, whether what comes back is.
    pub heard: bool,
    /// Whether what it sends is.
    pub sends: bool,
}

/// Which of the stems are heard together: those with solo if there are any, never those that are muted. A shared path, said by the
/// second of each pair, stays when stems are soloed, so that they are heard in their room; where it is soloed itself, all go on
/// sending to it.
#[must_use]
pub fn audible(strips: &[(Strip, bool)]) -> Vec<Audible> {
    let any_solo = |of: bool| strips.iter().any(|(strip, shared)| *shared == of && strip.solo && !strip.mute);
    let [solo_stems, solo_shared] = [any_solo(false), any_solo(true)];
    let audible = |(strip, shared): &(Strip, bool)| {
        let others = if *shared { solo_shared } else { solo_stems || solo_shared };
        Audible {
            heard: !strip.mute && (strip.solo || !others),
            sends: !strip.mute && (strip.solo || !solo_stems),
        }
    };
    strips.iter().map(audible).collect()
}
