//! What moves: the oscillator's own swing, the notches that it carries along, and what it does to a held tone.

mod movement;
mod notches;
mod swing;
mod tone;
mod view;

pub use movement::{Movement, lowest_through_cycle, notches_now};
pub use notches::{Notches, lowest_notches};
pub use swing::SwingShape;
pub use tone::{Sideband, Sidebands, Sway, sides, tone_sway};
pub use view::{NotchMoment, NotchView, SwingView};
