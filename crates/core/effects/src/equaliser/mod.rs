//! Equaliser: up to 24 bands in minimum, linear or balanced phase.
//!
//! `section.rs` makes a digital section of an analogue one, `design.rs` the sections of a band; `bank.rs` runs them,
//! `voice.rs` moves them, `linear.rs` makes a kernel of the whole curve instead. The second-order types are those of
//! the "Audio EQ Cookbook" (W3C Working Group Note, 2021).

mod bank;
mod curves;
mod design;
mod kernel;
mod linear;
mod nearness;
mod processor;
mod section;
mod settings;
mod shape;
mod starting;
mod voice;
mod words;

pub use curves::band_response;
pub use design::Kind;
pub use settings::{BAND_IDS, MOST_BANDS, PARAMS};

use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Hold, Param, Picture, Usual};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "equaliser",
    label: "Equaliser",
    purpose: "Raises and lowers ranges of frequency, each by itself.",
    params: PARAMS,
    mix: Param {
        group: "All bands",
        picture: Some(Picture::Curve),
        what: "How much of the equalised signal is heard. Minimum phase turns the signal, so a mix between 0 and 100 % bends the curve in its own way; with linear phase it only flattens it.",
        listen: "All bands at once become gentler.",
        look: "The measured curve leaves the predicted one where phases differ.",
        mistake: "Using it for the gain of single bands. Each has a gain of its own.",
        usual: &[Usual { value: 1.0, purpose: "nearly everything" }],
        ..MIX
    },
    pictures: &[
        Picture::Curve,
        Picture::Phase,
        Picture::Ringing,
        Picture::NearTop,
        Picture::Octaves,
        Picture::Spectrogram,
        Picture::Parts,
        Picture::OverTime,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Input", params: &["input_db"], beside: false },
            Block { label: "Bands", params: BAND_IDS, beside: false },
            Block { label: "Curve", params: &["phase", "formula", "q_rule"], beside: false },
            Block { label: "Hear", params: &["hear", "hear_band"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: processor::build,
    form: curves::form,
    idle: |values, _| starting::idle(values),
    remark: curves::remark,
    abilities: &[Ability::Response(curves::curves)],
    sounds: &[],
    holds: &[
        Hold::Bands {
            kind: "kind_#",
            on: "on_#",
            freq: "freq_#_hz",
            gain: "gain_#_db",
            q: "q_#",
            slope: "slope_#",
            scope: "scope_#",
        },
        Hold::Hear { param: "hear", band: Some("hear_band") },
    ],
    order: starting::ORDER,
    begins: &[],
    starting: starting::POINTS,
};
