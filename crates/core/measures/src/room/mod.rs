//! Rooms and reverbs: what is read off the response to an impulse.

mod decay;
mod density;
mod energy;
mod falling;
mod modes;
mod phases;
mod picture;
mod record;
mod reflections;
mod sides;
mod under_hits;
mod view;
mod wobble;

pub use clear_bend_sound::dsp::{OCTAVES_HZ, Octave, octaves};
pub use decay::{Decay, DecayFit, DecayTimes, Ground, TwoSlopes};
pub use density::{Density, DensityPoint};
pub use energy::{CorrelationPoint, Energies, correlation, correlation_over_time};
pub use falling::{Falling, FallingLine};
pub use modes::ringing_db;
pub use phases::{OverPhases, Spread};
pub use picture::{
    CorrelationView, DecayView, DensityView, LevelPoint, OctavesView, PartColumns, PartsView, RoomView,
};
pub use record::{LONGEST_S, RoomResponse, record};
pub use reflections::{Reflection, reflections};
pub(super) use sides::hann;
pub use sides::{energies, first_heard, first_heard_ms, highest};
pub use under_hits::UnderHits;
pub use view::{DENSITY_S, OctaveDecay, Room, decay_of_octave, scatter, t30s_by_steep_octaves, t30s_of};
pub use wobble::wobble_cents;
