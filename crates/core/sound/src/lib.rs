//! Sound as numbers: buffers of samples, decibels, the parts of a stereo signal, loops, and signal processing that knows no effect.
//!
//! With the crates beside it, this is the core of Clear Bend: no I/O, no clock, no threads, no interface. The same input gives the
//! same output, natively and in the browser.

pub mod agreed;
pub mod audio;
pub mod cast;
pub mod dsp;
pub mod level;
pub mod refusal;
pub mod region;
pub mod scope;

pub use audio::Buffer;
pub use refusal::Refusal;
