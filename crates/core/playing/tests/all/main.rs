//! Paths, mixing and playing through the public door, one module per subject. One program, so that it is linked once.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::cast_possible_truncation,
    clippy::cast_precision_loss,
    clippy::cast_sign_loss,
    reason = "a test stops on the first surprise"
)]

mod live;
mod processing;
mod rounds;
