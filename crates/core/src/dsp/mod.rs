//! Building blocks that effects share.

mod lanes;
mod ramp;
mod sliding_max;

pub use lanes::{LOG2_TO_DB, exp2, log2};
pub use ramp::Ramp;
pub use sliding_max::SlidingMax;
