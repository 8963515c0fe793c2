//! Effects through the public door, one module per subject. One program, so that it is linked once.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::cast_possible_truncation,
    clippy::cast_precision_loss,
    clippy::cast_sign_loss,
    reason = "a test stops on the first surprise"
)]

mod any_bands;
mod compressor;
mod convolution;
mod dynamics;
mod equaliser;
mod gains;
mod modulation;
mod reverb;
mod reverb_sound;
mod shapes;
mod timing;
mod true_peaks;
mod turns;
