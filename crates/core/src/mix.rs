//! Stems that play together: level, pan, solo, mute, and the sum of all.

use serde::{Deserialize, Serialize};

use crate::audio::Buffer;
use crate::cast;
use crate::catalogue::{Param, Unit};
use crate::level::gain_from_db;
use crate::path::Path;
use crate::path::Play;
use crate::refusal::Refusal;
use crate::render::render_with;

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

/// Which of the stems are heard together: those with solo if there are any, never those that are muted.
#[must_use]
pub fn audible(strips: &[Strip]) -> Vec<bool> {
    let any_solo = strips.iter().any(|strip| strip.solo && !strip.mute);
    strips.iter().map(|strip| !strip.mute && (strip.solo || !any_solo)).collect()
}

/// Adds a stem to a sum in its strip; what the one is longer than the other is left out.
pub fn add(sum: &mut Buffer, stem: &Buffer, strip: &Strip) {
    let mono = stem.channels().len() - 1;
    for (c, (out, gain)) in sum.channels_mut().iter_mut().zip(strip.gains()).enumerate() {
        let gain = cast::sample(gain);
        for (out, x) in out.iter_mut().zip(&stem.channels()[c.min(mono)]) {
            *out += gain * x;
        }
    }
}

/// The stereo sum of stems, each through its path, which are played in the same way; `frames` long.
#[must_use]
pub fn sum<'a>(
    rate_hz: u32,
    frames: usize,
    play: Play,
    stems: impl Iterator<Item = (&'a Buffer, &'a Path, &'a Strip)>,
) -> Option<Buffer> {
    let mut sum = Buffer::new(rate_hz, vec![vec![0.0; frames]; 2]).ok()?;
    for (source, path, strip) in stems {
        add(&mut sum, &render_with(path, source, play, |_| {}).after, strip);
    }
    Some(sum)
}
