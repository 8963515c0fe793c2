//! Building blocks that effects share.

mod between;
mod blocks;
mod convolver;
mod delay;
mod fir;
mod immediate;
mod kaiser;
mod lanes;
mod octaves;
pub mod oversample;
pub mod plans;
mod ramp;
mod resample;
mod sliding_max;
mod svf;
mod taps;
mod widest;

pub use between::Between;
pub use blocks::{energy, peak};
pub use convolver::{Convolver, NewKernel, Routes};
pub use delay::Delay;
pub use fir::symmetric;
pub use immediate::{Immediate, NewKernels, WHOLE};
pub use kaiser::Kaiser;
pub use lanes::{db_from_linear, exp2, larger, linear_from_db, log2, smaller, tangent_share};
pub use octaves::{InOctaves, OCTAVES_HZ, Octave, exact_middle, has_octave, octave_weight, octaves};
pub use ramp::Ramp;
pub use resample::Resampler;
pub use sliding_max::SlidingMax;
pub use svf::{BUTTERWORTH_4, Corner, StateVariable, advance, twice_share};
pub use taps::MovedDelay;
pub use widest::widest;
