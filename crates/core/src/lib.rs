//! Everything Clear Bend computes: signals, effects, paths, measures, comparisons and explanations.
//!
//! No I/O, no clock, no threads, no interface. The same input gives the same output, natively and in
//! the browser. Data flows one way: settings, processor, report, measure, picture.
//!
//! Where to start reading:
//! - [`catalogue`] says what an effect and a parameter are; [`effects`] and [`signals`] list them.
//! - [`path`] is the document of a signal path and the chain of processors that runs it.
//! - [`render`](mod@render) runs a path over a passage; [`measures`] reads numbers off the result.
//! - [`bend`] measures an outcome over the whole range of one parameter; [`fan`] sets a few of its values side by side.
//! - [`region`] cuts the loop out of a source; [`mix`] lets stems play together.
//! - [`report`] gathers those numbers and turns them into sentences; [`live`] plays the same chain for the ear.

pub mod agreed;
pub mod audio;
pub mod bench;
pub mod bend;
pub mod cast;
pub mod catalogue;
pub mod document;
pub mod dsp;
pub mod ear_maps;
pub mod effects;
pub mod export;
pub mod fan;
pub mod level;
pub mod live;
pub mod measures;
pub mod mix;
pub mod offered;
pub mod origin;
pub mod outcomes;
pub mod passage;
pub mod path;
pub mod refusal;
pub mod region;
pub mod render;
pub mod report;
pub mod responses;
#[cfg(feature = "schema")]
pub mod schema;
pub mod scope;
pub mod signals;
pub mod sweeps;

pub use audio::Buffer;
pub use refusal::Refusal;
