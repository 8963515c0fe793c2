//! What moves: the oscillator's own swing, the notches that it carries along, and what it does to a held tone.

mod envelope;
mod held_wave;
mod movement;
mod notches;
mod pitch;
mod predicted;
mod swing;
mod tone;
mod traces;
mod view;

pub use envelope::{ModulationSpectrum, RateMark};
pub use held_wave::{WaveLook, wave_looks};
pub use movement::{Movement, lowest_through_cycle, notches_now};
pub use notches::{Notches, lowest_notches};
pub use pitch::{PitchView, VoiceView};
pub use predicted::{predicted, predicted_lines, predicted_notches};
pub use swing::SwingShape;
pub(super) use tone::through;
pub use tone::{Sideband, Sidebands, Sway, sides, tone_sway};
pub use traces::Traces;
pub use view::{NotchMoment, SwingView};
