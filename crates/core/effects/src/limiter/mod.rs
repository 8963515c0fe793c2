//! Limiter: nothing leaves above the ceiling.
//!
//! A lookahead limiter: the static curve with an infinite ratio (JAES 60(6), 2012, equation 4), its gain held over the
//! lookahead and drawn as moving means. True peaks are read between the samples at four times the rate, as ITU-R
//! BS.1770 Annex 2 asks for.

mod envelope;
mod keeper;
mod processor;
mod settings;

pub use processor::Limiter;
pub use settings::{LOOKAHEAD_MS, Settings};

use super::dynamics::{StaticCurve, bent_tone_dbfs};
use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Hold, KEY, Param, Picture, StartingPoint, Step, Usual};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "limiter",
    label: "Limiter",
    purpose: "Lets nothing pass a ceiling, and sees peaks coming.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the limited signal is heard. Below 100 %, untouched peaks pass the ceiling again.",
        listen: "The hits come back, over the ceiling.",
        look: "The tops of the wave pass the line of the ceiling.",
        mistake: "Mixing a limiter that is there for safety. It is safe at 100 % only.",
        usual: &[Usual { value: 1.0, purpose: "always, for safety" }],
        ..MIX
    },
    pictures: &[
        Picture::OverTime,
        Picture::InToOut,
        Picture::Step,
        Picture::Levels,
        Picture::Onsets,
        Picture::Harmonics,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Input gain", params: &["drive_db"], beside: false },
            Block {
                label: "Corner",
                params: &["rounding", "rounding_dbfs", "rounding_corner"],
                beside: false,
            },
            Block {
                label: "Peaks",
                params: &["true_peak", "key_low_cut_hz", "key_high_cut_hz", "hear"],
                beside: true,
            },
            Block { label: "Curve", params: &["ceiling_db", "knee_db"], beside: true },
            Block { label: "Timing", params: &["lookahead_ms", "release_ms"], beside: true },
            Block { label: "Gain", params: &[], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Limiter::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        if settings.rounding != 0.0 || settings.hear != 0.0 || passed.reduces() {
            return None;
        }
        let knee = if settings.knee_db > 0.0 { " and its knee" } else { "" };
        let under = passed.stays_under("ceiling", settings.ceiling_db, settings.drive_db);
        Some(format!("Nothing is limited: {under}{knee}.{}", passed.only_gain()))
    },
    remark: |_, _| None,
    abilities: &[Ability::StaticCurve(|values, input_dbfs| {
        let settings = Settings::from_values(values);
        let driven = input_dbfs + settings.drive_db;
        // What is bent enters the limiter: the tone is as loud as its RMS level says, and limited by the peak that is left.
        let (level, peak) = if settings.rounding == 0.0 {
            (driven, driven)
        } else {
            bent_tone_dbfs(driven, settings.rounding_dbfs, settings.rounding_corner)
        };
        (settings.hear == 0.0).then(|| level + curve(&settings).gain_db(peak))
    })],
    sounds: &[KEY],
    holds: &[
        Hold::Level { param: "ceiling_db", knee: Some("knee_db") },
        Hold::Hear { param: "hear", band: None },
    ],
    order: &[
        Step { param: "ceiling_db", plain: &[("drive_db", 6.0), ("lookahead_ms", 3.0)] },
        Step { param: "drive_db", plain: &[("ceiling_db", -6.0)] },
        Step { param: "release_ms", plain: &[("ceiling_db", -12.0), ("drive_db", 6.0)] },
        Step { param: "lookahead_ms", plain: &[("ceiling_db", -12.0), ("drive_db", 6.0)] },
        Step { param: "true_peak", plain: &[("ceiling_db", -6.0), ("drive_db", 6.0)] },
        Step { param: "knee_db", plain: &[("ceiling_db", -12.0)] },
        Step {
            param: "rounding",
            plain: &[("ceiling_db", -6.0), ("drive_db", 6.0), ("rounding_dbfs", -6.0)],
        },
    ],
    begins: &[("drive_db", 6.0)],
    starting: &[
        StartingPoint {
            name: "Safety limiter",
            purpose: "The last stage before anything leaves. Listen for nothing: if you hear it, turn down what comes in.",
            values: &[("ceiling_db", -1.0), ("lookahead_ms", 3.0), ("release_ms", 100.0)],
            mix: 1.0,
        },
        StartingPoint {
            name: "Catching peaks only",
            purpose: "Takes a few dB off the highest hits, so that the rest can come up. Listen to the front of the loudest hits with level match on.",
            values: &[("drive_db", 4.0), ("ceiling_db", -1.0), ("lookahead_ms", 1.5), ("release_ms", 50.0)],
            mix: 1.0,
        },
    ],
};

fn curve(settings: &Settings) -> StaticCurve {
    StaticCurve { threshold_db: settings.ceiling_db, knee_db: settings.knee_db, slope: -1.0 }
}
