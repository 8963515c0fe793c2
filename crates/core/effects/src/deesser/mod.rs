//! De-esser: lowers one band of the sound while that band is loud.
//!
//! The band is taken out by a linear-phase filter, so that what is left is the sound without a part of it and nothing
//! else: no phase is shifted, and while nothing is reduced, nothing is changed. Its level goes through the static curve
//! of JAES 60(6), 2012, equation 4.

mod band;
mod processor;
mod settings;

pub use processor::DeEsser;
pub use settings::{Settings, edges_hz};

use super::{Ability, Effect, MIX};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{
    Block, Diagram, Hold, KEY, Param, Picture, SoundSlot, StartingPoint, Step, Usual,
};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "de-esser",
    label: "De-esser",
    purpose: "Softens the s and the sh of a voice and leaves the rest of it alone.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the softened signal is heard; the rest is the untouched one.",
        listen: "Sharper sibilants as it goes down.",
        look: "Less difference where the gain moves.",
        mistake: "Using it instead of the range, which says in dB what may be taken.",
        usual: &[Usual { value: 1.0, purpose: "as it is" }],
        outcome: Some(outcomes::PEAK_CHANGE),
        ..MIX
    },
    pictures: &[Picture::OverTime, Picture::Bands, Picture::Levels],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block {
                label: "Band",
                params: &["shape", "freq_hz", "width_oct", "key_low_cut_hz", "key_high_cut_hz", "hear"],
                beside: true,
            },
            Block { label: "Curve", params: &["threshold_db", "ratio", "knee_db", "range_db"], beside: true },
            Block { label: "Timing", params: &["attack_ms", "release_ms"], beside: true },
            Block { label: "Band gain", params: &[], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(DeEsser::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        if settings.output_db != 0.0 || settings.hear != 0.0 || passed.reduces() {
            None
        } else if settings.ratio == 1.0 {
            Some("The ratio is 1 : 1, so nothing is reduced.".to_owned())
        } else {
            (settings.range_db == 0.0).then(|| "The range is 0 dB, so nothing can be reduced.".to_owned())
        }
    },
    remark: |_, _| None,
    abilities: &[
        Ability::Bands(|values| {
            let (low, high) = edges_hz(&Settings::from_values(values));
            [low, high].into_iter().filter(|hz| hz.is_finite()).collect()
        }),
        Ability::Sibilants,
    ],
    sounds: &[SoundSlot { channels: 1, ..KEY }],
    holds: &[Hold::Hear { param: "hear", band: None }],
    order: &[
        Step { param: "freq_hz", plain: &[("threshold_db", -40.0), ("hear", 1.0)] },
        Step { param: "threshold_db", plain: &[("ratio", 4.0), ("range_db", 24.0)] },
        Step { param: "ratio", plain: &[("threshold_db", -40.0), ("range_db", 24.0)] },
        Step { param: "range_db", plain: &[("threshold_db", -45.0), ("ratio", 8.0)] },
        Step { param: "attack_ms", plain: &[("threshold_db", -40.0), ("ratio", 8.0)] },
        Step { param: "release_ms", plain: &[("threshold_db", -40.0), ("ratio", 8.0)] },
        Step { param: "shape", plain: &[("threshold_db", -40.0), ("freq_hz", 7000.0)] },
        Step { param: "width_oct", plain: &[("threshold_db", -40.0), ("shape", 1.0), ("freq_hz", 7000.0)] },
    ],
    begins: &[],
    starting: &[
        StartingPoint {
            name: "Taming sibilants",
            purpose: "About 3 dB off the s of a voice. Hear what is taken out first: it should be sibilants and no vowels.",
            values: &[("freq_hz", 5500.0), ("threshold_db", -30.0), ("ratio", 4.0), ("range_db", 6.0)],
            mix: 1.0,
        },
        StartingPoint {
            name: "One whistle",
            purpose: "A narrow band for a voice that whistles at one place. Move the frequency while you hear what the detector hears.",
            values: &[
                ("shape", 1.0),
                ("freq_hz", 7000.0),
                ("width_oct", 0.5),
                ("threshold_db", -36.0),
                ("ratio", 6.0),
                ("range_db", 9.0),
            ],
            mix: 1.0,
        },
    ],
};
