//! Paths of effects: [`path`] is the document of a signal path and the chain of processors that runs it, [`render`](mod@render) runs
//! it over a passage, [`mix`] lets stems play together, and [`live`] plays the same chain for the ear.

pub mod live;
pub mod mix;
pub mod path;
pub mod render;
