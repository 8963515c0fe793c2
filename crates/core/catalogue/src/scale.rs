//! How the range of a parameter is laid along its control.

use serde::Serialize;

/// The map between a value and a position from 0 to 1 along the control.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case", tag = "kind")]
pub enum Scale {
    /// Equal steps of the value.
    Linear,
    /// Equal ratios of the value; the range starts above zero.
    Log,
    /// Linear near zero, equal ratios far above `knee`: for times that may be zero.
    SoftLog {
        /// Where the one turns into the other, in the parameter's unit.
        knee: f64,
    },
    /// Position 1 - min/value, for ratios: equal steps of the slope above the threshold, infinity at the end.
    Slope,
}

impl Scale {
    /// Position of a value, 0 at `min` and 1 at `max`.
    #[must_use]
    pub fn position(self, min: f64, max: f64, value: f64) -> f64 {
        match self {
            Self::Linear => (value - min) / (max - min),
            Self::Log => (value / min).ln() / (max / min).ln(),
            Self::SoftLog { knee } => ((value - min) / knee).ln_1p() / ((max - min) / knee).ln_1p(),
            Self::Slope => (1.0 - min / value) / (1.0 - min / max),
        }
    }

    /// The value at a position.
    #[must_use]
    pub fn value(self, min: f64, max: f64, position: f64) -> f64 {
        match self {
            Self::Linear => min + position * (max - min),
            Self::Log => min * (max / min).powf(position),
            Self::SoftLog { knee } => min + knee * (position * ((max - min) / knee).ln_1p()).exp_m1(),
            Self::Slope => min / (1.0 - position * (1.0 - min / max)),
        }
    }
}
