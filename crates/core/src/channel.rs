//! The parts of a stereo signal.

use serde::{Deserialize, Serialize};

/// What of a stereo signal is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Channel {
    /// Both channels, by their mean power.
    #[default]
    Both,
    /// Left only.
    Left,
    /// Right only.
    Right,
    /// Half the sum.
    Mid,
    /// Half the difference.
    Side,
}

impl Channel {
    /// The channels of a stereo signal whose powers are averaged for it.
    #[must_use]
    pub fn parts(self) -> &'static [Self] {
        match self {
            Self::Both => &[Self::Left, Self::Right],
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
            Self::Both | Self::Mid => 0.5 * (left + right),
            Self::Side => 0.5 * (left - right),
        }
    }
}
