//! The core for the browser, as one module with two faces.
//!
//! [`live`] runs in the audio thread, where there is no text decoder: numbers in, numbers out, and views
//! of memory. [`measure`] runs in the measuring worker and on the page: JSON text and typed arrays.

pub mod live;
pub mod measure;
