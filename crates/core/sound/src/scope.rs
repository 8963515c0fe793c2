//! The part of a stereo signal that is worked on or looked at.

use serde::{Deserialize, Serialize};

use crate::Refusal;

/// A part of a stereo signal. Of a mono signal, `stereo`, `left` and `mid` are all of it, `right` and `side` are empty.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Scope {
    /// Both channels: with one detector, or by their mean power.
    #[default]
    Stereo,
    /// The left channel only.
    Left,
    /// The right channel only.
    Right,
    /// Half the sum of left and right.
    Mid,
    /// Half the difference of left and right.
    Side,
}

impl Scope {
    /// All of them, in the order of [`Scope::WORDS`].
    pub const ALL: [Self; 5] = [Self::Stereo, Self::Left, Self::Right, Self::Mid, Self::Side];

    /// Their words.
    pub const WORDS: &'static [&'static str] = &["stereo", "left", "right", "mid", "side"];

    /// The word on the screen and in files.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Stereo => "stereo",
            Self::Left => "left",
            Self::Right => "right",
            Self::Mid => "mid",
            Self::Side => "side",
        }
    }

    /// Whether it is of mid and side rather than left and right.
    #[must_use]
    pub fn is_sum(self) -> bool {
        matches!(self, Self::Mid | Self::Side)
    }

    /// Its share on the first and the second channel: left and right, or mid and side.
    #[must_use]
    pub fn shares(self) -> [f64; 2] {
        match self {
            Self::Stereo => [1.0, 1.0],
            Self::Left | Self::Mid => [1.0, 0.0],
            Self::Right | Self::Side => [0.0, 1.0],
        }
    }

    /// What has to be on the left and on the right, so that something is in it: the same on both sides, or opposite for the side.
    #[must_use]
    pub fn reached(self) -> [f32; 2] {
        if self == Self::Side { [1.0, -1.0] } else { [1.0, 1.0] }
    }

    /// The channel, left or right, on which what works on it is heard.
    #[must_use]
    pub fn heard_on(self) -> usize {
        usize::from(self == Self::Right)
    }

    /// Whether what works on it changes a channel, left or right.
    #[must_use]
    pub fn changes(self, channel: usize) -> bool {
        !matches!((self, channel), (Self::Left, 1) | (Self::Right, 0))
    }

    /// The channels whose powers are averaged for it.
    #[must_use]
    pub fn parts(self) -> &'static [Self] {
        match self {
            Self::Stereo => &[Self::Left, Self::Right],
            Self::Left => &[Self::Left],
            Self::Right => &[Self::Right],
            Self::Mid => &[Self::Mid],
            Self::Side => &[Self::Side],
        }
    }

    /// Its sample for samples of left and right; that of both is that of mid.
    #[must_use]
    pub fn of(self, left: f32, right: f32) -> f64 {
        let (left, right) = (f64::from(left), f64::from(right));
        match self {
            Self::Left => left,
            Self::Right => right,
            Self::Stereo | Self::Mid => 0.5 * (left + right),
            Self::Side => 0.5 * (left - right),
        }
    }
}

impl std::str::FromStr for Scope {
    type Err = Refusal;

    fn from_str(word: &str) -> Result<Self, Refusal> {
        let found = Self::ALL.into_iter().find(|scope| scope.word() == word);
        found.ok_or_else(|| Refusal::new("scope", format!("\u{201c}{word}\u{201d}"), Self::WORDS.join(", ")))
    }
}

impl std::fmt::Display for Scope {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.word())
    }
}
