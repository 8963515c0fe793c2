//! Building blocks that effects share.

mod between;
mod blocks;
mod delay;
mod fir;
mod lanes;
pub mod oversample;
mod ramp;
mod sliding_max;
mod svf;
mod taps;

pub use between::Between;
pub use blocks::{energy, peak};
pub use delay::Delay;
pub use fir::symmetric;
pub use lanes::{LOG2_TO_DB, exp2, larger, log2, smaller};
pub use ramp::Ramp;
pub use sliding_max::SlidingMax;
pub use svf::{Corner, StateVariable};
pub use taps::MovedDelay;
