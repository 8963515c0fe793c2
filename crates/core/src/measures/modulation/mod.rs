//! What moves: the oscillator's own swing, the notches that it carries along, and what it does to a held tone.

mod notches;
mod swing;
mod tone;

pub use notches::{Notches, lowest_notches};
pub use swing::SwingShape;
pub use tone::{Sidebands, Sideband, Sway, sides, tone_sway};
