//! Gate and downward expander: lowers what is under a threshold.
//!
//! The static curve is that of JAES 60(6), 2012, turned over: under the threshold, every dB becomes `ratio` dB. With an
//! infinite ratio it is a gate: under the threshold, the whole range is taken.

mod processor;
mod settings;

pub use processor::Gate;
pub use settings::Settings;

use super::{Ability, Effect, MIX};
use crate::LevelStep;
use clear_bend_catalogue::{Block, Diagram, Hold, KEY, Param, Picture, StartingPoint, Step, Unit, Usual};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "gate",
    label: "Gate",
    purpose: "Lowers what is quiet: noise, room, and breaths between sounds.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the gated signal is heard. Below 100 %, some of what was taken stays.",
        listen: "The room comes back under the hits.",
        look: "The quiet parts of the two waveforms draw together.",
        mistake: "Using it as a range. The range says in dB how far down the gate goes.",
        usual: &[Usual { value: 1.0, purpose: "a plain gate" }],
        ..MIX
    },
    pictures: &[Picture::OverTime, Picture::InToOut, Picture::Step, Picture::Onsets, Picture::Levels],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Level", params: &["key_low_cut_hz", "key_high_cut_hz", "hear"], beside: true },
            Block {
                label: "Curve",
                params: &["threshold_db", "hysteresis_db", "ratio", "range_db"],
                beside: true,
            },
            Block { label: "Timing", params: &["attack_ms", "hold_ms", "release_ms"], beside: true },
            Block { label: "Gain", params: &[], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Gate::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        let (least_db, _) = passed.reduced_db?;
        if settings.hear != 0.0 {
            return None;
        }
        let moved = passed.only_gain();
        if settings.ratio == 1.0 {
            Some(format!("The ratio is 1 : 1, so no level is lowered.{moved}"))
        } else if settings.range_db == 0.0 {
            Some(format!("The range is 0 dB, so nothing can be lowered.{moved}"))
        } else if !passed.reduces() {
            let threshold = Unit::Dbfs.text(settings.threshold_db);
            Some(format!(
                "The gate stays open: what it goes by never falls under the threshold of {threshold}.{moved}"
            ))
        } else {
            let under = passed.stays_under("threshold", settings.threshold_db, 0.0);
            let lowered = Unit::Db.text(least_db);
            (least_db > 0.5)
                .then(|| format!("The gate never opens: {under}. Everything is lowered by *{lowered}*."))
        }
    },
    remark: |_, _| None,
    abilities: &[
        Ability::StaticCurve(|values, input_dbfs| {
            let settings = Settings::from_values(values);
            let under = (settings.threshold_db - input_dbfs).max(0.0);
            // 0 dB under the threshold is open, whatever the ratio.
            let taken = if under > 0.0 { under * (settings.ratio - 1.0) } else { 0.0 };
            (settings.hear == 0.0).then(|| input_dbfs - taken.min(settings.range_db))
        }), // Far enough over the threshold to open it and under it to close it, wherever it is.
        Ability::Step(|values| {
            let settings = Settings::from_values(values);
            LevelStep {
                quiet_dbfs: settings.threshold_db - settings.hysteresis_db - 30.0,
                loud_dbfs: settings.threshold_db + 20.0,
            }
        }),
    ],
    sounds: &[KEY],
    holds: &[Hold::Level { param: "threshold_db", knee: None }, Hold::Hear { param: "hear", band: None }],
    order: &[
        Step {
            param: "threshold_db",
            plain: &[("hysteresis_db", 0.0), ("hold_ms", 0.0), ("release_ms", 30.0)],
        },
        Step { param: "range_db", plain: &[("threshold_db", -30.0), ("release_ms", 30.0)] },
        Step { param: "attack_ms", plain: &[("threshold_db", -30.0), ("release_ms", 30.0)] },
        Step { param: "release_ms", plain: &[("threshold_db", -30.0), ("hold_ms", 0.0)] },
        Step { param: "hold_ms", plain: &[("threshold_db", -30.0), ("release_ms", 10.0)] },
        Step {
            param: "hysteresis_db",
            plain: &[("threshold_db", -30.0), ("hold_ms", 0.0), ("release_ms", 5.0)],
        },
        Step { param: "ratio", plain: &[("threshold_db", -20.0), ("release_ms", 80.0)] },
    ],
    begins: &[],
    starting: &[
        StartingPoint {
            name: "Room after heavy compression",
            purpose: "Takes back what make-up gain has raised between the hits. Listen for the room to sink without being cut off.",
            values: &[
                ("threshold_db", -32.0),
                ("ratio", 2.0),
                ("range_db", 12.0),
                ("attack_ms", 0.5),
                ("hold_ms", 40.0),
                ("release_ms", 150.0),
            ],
            mix: 1.0,
        },
        StartingPoint {
            name: "Breaths of a voice",
            purpose: "Lowers breaths and pauses without removing them. Listen to the first consonant after each pause.",
            values: &[
                ("threshold_db", -38.0),
                ("ratio", 1.5),
                ("range_db", 10.0),
                ("attack_ms", 2.0),
                ("hold_ms", 100.0),
                ("release_ms", 250.0),
            ],
            mix: 1.0,
        },
        StartingPoint {
            name: "One drum alone",
            purpose: "Opens for one drum and shuts out the others. Hear what the detector hears and set its cuts first.",
            values: &[
                ("threshold_db", -24.0),
                ("range_db", 60.0),
                ("attack_ms", 0.1),
                ("hold_ms", 60.0),
                ("release_ms", 90.0),
                ("key_high_cut_hz", 300.0),
            ],
            mix: 1.0,
        },
    ],
};
