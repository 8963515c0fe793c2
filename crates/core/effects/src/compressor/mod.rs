//! Compressor: lowers what is over a threshold by a ratio.
//!
//! A feed-forward design in the logarithmic domain after Giannoulis, Massberg and Reiss, "Digital Dynamic
//! Range Compressor Design", JAES 60(6), 2012: level, static curve, then a smoother of the gain in dB that branches
//! between attack and release. The parts are in `effects/dynamics`; what only a compressor has is here.

mod crest;
mod curve;
mod guard;
mod processor;
mod settings;
mod starting;

pub use processor::Compressor;
pub use settings::{LOOKAHEAD_MS, Settings};

use super::dynamics::bent_tone_dbfs;
use super::{Ability, Effect, MIX};
use clear_bend_catalogue::Step;
use clear_bend_catalogue::{Block, Diagram, Hold, KEY, Param, Picture, Usual, decimal};
use curve::{curve_gain_db, makeup_db};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "compressor",
    label: "Compressor",
    purpose: "Lowers what is loud, so that loud and quiet come closer together.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the compressed signal is heard. Below 100 %, the untouched signal is laid under it: parallel compression.",
        listen: "The untouched hits come back in while the quiet parts stay lifted.",
        look: "The peaks of the two waveforms draw together as the mix goes down.",
        mistake: "Expecting 50 % to be half the compression in dB. It is half of each signal, added.",
        usual: &[
            Usual { value: 1.0, purpose: "plain compression" },
            Usual { value: 0.5, purpose: "parallel compression" },
        ],
        ..MIX
    },
    pictures: &[
        Picture::OverTime,
        Picture::InToOut,
        Picture::Step,
        Picture::Onsets,
        Picture::Levels,
        Picture::Harmonics,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Drive", params: &["drive_db"], beside: false },
            Block {
                label: "Level",
                params: &["key_low_cut_hz", "key_high_cut_hz", "hear", "detector", "rms_window_ms", "link"],
                beside: true,
            },
            Block { label: "Curve", params: &["threshold_db", "ratio", "knee_db", "range_db"], beside: true },
            Block {
                label: "Timing",
                params: &[
                    "attack_ms",
                    "attack_shape",
                    "hold_ms",
                    "release_ms",
                    "release_shape",
                    "auto_release",
                    "lookahead_ms",
                    "guard_ms",
                ],
                beside: true,
            },
            Block { label: "Gain", params: &[], beside: false },
            Block { label: "Make-up", params: &["makeup_db", "auto_makeup"], beside: false },
            Block {
                label: "Corner",
                params: &["rounding", "rounding_dbfs", "rounding_corner"],
                beside: false,
            },
            Block { label: "Mix", params: &["mix", "output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Compressor::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        if settings.rounding != 0.0 || settings.hear != 0.0 || passed.reduces() {
            return None;
        }
        let moved = passed.only_gain();
        if settings.ratio == 1.0 {
            return Some(format!("The ratio is 1 : 1, so no level is reduced.{moved}"));
        }
        let knee = if settings.knee_db > 0.0 { " and its knee" } else { "" };
        let under = passed.stays_under("threshold", settings.threshold_db, settings.drive_db);
        Some(format!("Nothing is reduced: {under}{knee}.{moved}"))
    },
    remark: |values, _| {
        let settings = Settings::from_values(values);
        let gain = -curve_gain_db(&settings, 0.0);
        (settings.auto_makeup != 0.0).then(|| {
            format!(
                "The automatic make-up adds *{} dB*, as much as the curve takes from a steady level of 0 dBFS.",
                decimal(gain, 1)
            )
        })
    },
    abilities: &[Ability::StaticCurve(|values, input_dbfs| {
        let settings = Settings::from_values(values);
        let asked_dbfs = input_dbfs + curve_gain_db(&settings, input_dbfs) + makeup_db(&settings);
        let bent_dbfs = if settings.rounding == 0.0 {
            asked_dbfs
        } else {
            bent_tone_dbfs(asked_dbfs, settings.rounding_dbfs, settings.rounding_corner).0
        };
        (settings.hear == 0.0).then_some(bent_dbfs)
    })],
    sounds: &[KEY],
    holds: &[
        Hold::Level { param: "threshold_db", knee: Some("knee_db") },
        Hold::Hear { param: "hear", band: None },
    ],
    order: &[
        Step { param: "threshold_db", plain: &[("ratio", 8.0), ("attack_ms", 1.0), ("knee_db", 0.0)] },
        Step { param: "ratio", plain: &[("threshold_db", -24.0), ("attack_ms", 1.0), ("knee_db", 0.0)] },
        Step { param: "attack_ms", plain: &[("threshold_db", -30.0), ("ratio", 8.0), ("release_ms", 80.0)] },
        Step { param: "release_ms", plain: &[("threshold_db", -30.0), ("ratio", 8.0), ("attack_ms", 1.0)] },
        Step { param: "hold_ms", plain: &[("threshold_db", -30.0), ("ratio", 8.0), ("release_ms", 50.0)] },
        Step { param: "knee_db", plain: &[("threshold_db", -24.0), ("ratio", 4.0)] },
        Step { param: "detector", plain: &[("threshold_db", -30.0), ("ratio", 4.0)] },
        Step { param: "lookahead_ms", plain: &[("threshold_db", -30.0), ("ratio", 8.0), ("attack_ms", 5.0)] },
        Step { param: "guard_ms", plain: &[("threshold_db", -30.0), ("ratio", 8.0), ("attack_ms", 0.0)] },
        Step { param: "makeup_db", plain: &[("threshold_db", -24.0), ("ratio", 4.0)] },
        Step { param: "mix", plain: &[("threshold_db", -36.0), ("ratio", 10.0), ("attack_ms", 1.0)] },
    ],
    begins: &[],
    starting: starting::POINTS,
};
