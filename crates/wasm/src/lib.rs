//! The core for the browser, as one module with three faces.
//!
//! [`live`] runs in the audio thread, where there is no text decoder: numbers in, numbers out, and views
//! of memory. [`page`] answers what the page asks, [`measure`], [`ahead`], [`together`], [`spectra`], [`stage`], [`room`] and [`design`] what
//! its measuring worker asks, and
//! [`range`] what its bend worker asks: JSON text and typed arrays.

pub mod ahead;
pub mod design;
mod live;
pub mod measure;
pub mod page;
pub mod range;
pub mod room;
pub mod spectra;
pub mod stage;
pub mod together;

use wasm_bindgen::prelude::JsError;

/// A value as JSON text.
fn json(value: &impl serde::Serialize) -> Result<String, JsError> {
    Ok(serde_json::to_string(value)?)
}
