//! The core for the browser, as one module with three faces.
//!
//! [`live`] runs in the audio thread, where there is no text decoder: numbers in, numbers out, and views
//! of memory. [`page`] answers what the page asks, [`measure`], [`ahead`], [`together`], [`spectra`], [`stage`], [`room`] and [`design`] what
//! its measuring worker asks, and
//! [`range`] what its bend worker asks: objects and typed arrays, whose types are declared in [`crossing`]. What the audio thread
//! and the page have agreed on is in [`contract`].

pub mod ahead;
pub mod contract;
pub mod crossing;
pub mod design;
pub mod exports;
pub mod live;
pub mod measure;
pub mod page;
pub mod played;
pub mod range;
pub mod room;
pub mod spectra;
pub mod stage;
pub mod together;

/// The word by which something is known in documents.
fn word(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|value| value.as_str().map(str::to_owned)).unwrap_or_default()
}
