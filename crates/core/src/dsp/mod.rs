//! Building blocks that effects share.

mod blocks;
mod delay;
mod lanes;
mod ramp;
mod sliding_max;

pub use blocks::{energy, peak};
pub use delay::Delay;
pub use lanes::{LOG2_TO_DB, exp2, larger, log2, smaller};
pub use ramp::Ramp;
pub use sliding_max::SlidingMax;
