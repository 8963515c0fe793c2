//! What is explained through the public door, one module per subject. One program, so that it is linked once.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::cast_possible_truncation,
    clippy::cast_precision_loss,
    clippy::cast_sign_loss,
    reason = "a test stops on the first surprise"
)]

mod any_path;
mod bends;
mod explaining;
mod fans;
mod house;
mod true_dynamics;
mod true_movement;
mod true_reverbs;
