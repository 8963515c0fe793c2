//! What the effects share that move: one oscillator, whose phase follows the passage, and delays that are read between samples.

mod delay;
pub mod moment;
mod oscillator;
mod settings;
mod swayed;
mod swung_gain;
mod wave;
pub mod words;

pub use moment::Moment;
pub(crate) use oscillator::swing_of;
pub use oscillator::{Swing, Swings};
pub use settings::BLOCK;
pub(crate) use settings::moving_settings;
pub use swayed::{OPEN_HZ, Sway, Swayed};
pub use swung_gain::{GainSway, Law, SwungGain};
pub use wave::Wave;

/// How often a sound goes round with a feedback of this size until it is 60 dB down, the first time included.
#[must_use]
pub fn rounds(feedback: f64) -> f64 {
    if feedback == 0.0 { 1.0 } else { 1.0 - 3.0 * std::f64::consts::LN_10 / feedback.ln() }
}
