//! Rooms and reverbs: what is read off the response to an impulse.

mod bands;
mod decay;
mod density;
mod energy;
mod modes;
mod picture;
mod record;
mod reflections;
mod view;
mod wobble;

pub use bands::{OCTAVES_HZ, Octave, octaves};
pub use decay::{Decay, DecayFit, DecayTimes};
pub use density::first_heard;
pub use density::{Density, DensityPoint};
pub use energy::{CorrelationPoint, Energies, correlation, correlation_over_time};
pub use modes::ringing_db;
pub use picture::{FallingLine, LevelPoint, PartColumns, RoomView};
pub use record::{LONGEST_S, RoomResponse, record};
pub use reflections::{Reflection, reflections};
pub use view::{
    DENSITY_S, JND_C80_DB, JND_CENTRE_MS, JND_D50, JND_DECAY, OctaveDecay, Room, decay_of, decay_of_octave,
};
pub use wobble::wobble_cents;
