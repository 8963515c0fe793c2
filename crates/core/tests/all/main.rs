//! The core through its public door, one module per subject. One program, so that it is linked once.
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
mod any_path;
mod arrows;
mod bends;
mod common;
mod compressor;
mod controls;
mod convolution;
mod designed;
mod documents;
mod dynamics;
mod equaliser;
mod explaining;
mod fans;
mod gains;
mod house;
mod judged;
mod live;
mod measures;
mod modulation;
mod movement_seen;
mod processing;
mod reverb;
mod reverb_sound;
mod room_measures;
mod rooms;
mod rounds;
mod sends;
mod shapes;
mod sounds;
mod sources;
mod sweeps;
mod timing;
mod true_decays;
mod true_dynamics;
mod true_movement;
mod true_peaks;
mod true_reverbs;
mod turns;
