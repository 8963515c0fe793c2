//! Limiter: nothing leaves above the ceiling.
//!
//! A lookahead limiter: the static curve with an infinite ratio (JAES 60(6), 2012, equation 4), its gain held over the
//! lookahead and drawn as moving means. True peaks are read between the samples at four times the rate, as ITU-R
//! BS.1770 Annex 2 asks for.

mod envelope;
mod keeper;
mod processor;

pub use processor::Limiter;

use super::dynamics::{
    HEAR, KEY_HIGH_CUT, KEY_LOW_CUT, ROUNDING, ROUNDING_CORNER, ROUNDING_LEVEL, StaticCurve, bent_tone_dbfs,
};
use super::{Ability, Effect, MIX, OFF_ON};
use crate::catalogue::outcomes;
use crate::catalogue::{Block, Diagram, Hold, KEY, Param, Picture, Scale, StartingPoint, Step, Unit, Usual};
use crate::settings;

/// The longest lookahead, ms. The signal is late by this whatever the lookahead is.
pub const LOOKAHEAD_MS: f64 = 10.0;

/// A limiter's own peaks are never cut out of what it goes by.
const KEY_WORDS: &str = "Cuts the key, 12 dB per octave, where another sound is the key; at the end of its range it is off. The limiter's own peaks always count, so that none of them passes the ceiling.";

settings! {
    /// The settings of a limiter.
    pub struct Settings {
        /// Gain into the limiter, dB.
        drive_db: Param {
            label: "Input gain",
            group: "Level",
            unit: Unit::Db,
            min: -24.0,
            max: 36.0,
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::OverTime),
            what: "Gain in front of the limiter. What it pushes over the ceiling is held there, so everything else gets louder.",
            listen: "Louder at first, then flat: hits lose their front. With level match on, only the loss is left.",
            look: "The quiet parts of the wave grow, the tops stay at the ceiling.",
            mistake: "Judging it by loudness. Match the level, and listen to what the hits have lost.",
            usual: &[
                Usual { value: 0.0, purpose: "safety only" },
                Usual { value: 6.0, purpose: "a louder piece" },
            ],
            ..Param::BLANK
        },
        /// The level that nothing passes, dBFS.
        ceiling_db: Param {
            label: "Ceiling",
            group: "Level",
            unit: Unit::Dbfs,
            min: -24.0,
            max: 0.0,
            default: -1.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "The level that no sample passes, and no true peak where those are read.",
            listen: "Nothing as long as the sound stays under it: a limiter is idle below its ceiling.",
            look: "The line at which the tops of the wave end.",
            mistake: "Setting it to 0 dBFS when the file will be encoded: what is decoded may pass it by a little.",
            usual: &[
                Usual { value: -1.0, purpose: "a finished piece" },
                Usual { value: -0.3, purpose: "right under full scale" },
            ],
            ..Param::BLANK
        },
        /// Width of the bend under the ceiling, dB.
        knee_db: Param {
            label: "Knee",
            group: "Level",
            unit: Unit::Db,
            max: 24.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "How early the gain begins to come down before the ceiling is reached.",
            listen: "With a wide knee the sound leans into the ceiling instead of meeting it.",
            look: "The rounding of the corner of the curve.",
            mistake: "Widening it to protect peaks. They never pass the ceiling with any knee.",
            usual: &[
                Usual { value: 0.0, purpose: "touch peaks only" },
                Usual { value: 6.0, purpose: "a softer hold" },
            ],
            ..Param::BLANK
        },
        /// Whether peaks between the samples count (1).
        true_peak: Param {
            label: "True peak",
            group: "Level",
            choices: OFF_ON,
            default: 1.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "Whether the peaks of the wave between its samples count too. A converter plays the wave, not the samples.",
            listen: "Hardly anything. It is there for what comes after you.",
            look: "The true peak in the table: with it off, it lies over the ceiling.",
            mistake: "Trusting a peak meter that reads samples only.",
            usual: &[Usual { value: 1.0, purpose: "a finished piece" }],
            ..Param::BLANK
        },
        /// How far ahead it sees, ms.
        lookahead_ms: Param {
            label: "Lookahead",
            group: "Time",
            unit: Unit::Ms,
            max: LOOKAHEAD_MS,
            default: 3.0,
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::OverTime),
            what: "How much earlier the gain begins to come down, so that it can do it gently. At 0 it comes down within one sample.",
            listen: "Short is sharp and a little rough on hits; long is soft and takes away some of what comes before them.",
            look: "The slope of the gain before each peak.",
            mistake: "Setting it to 0 to save time. True peaks then pass the ceiling a little, since the gain steps between samples.",
            usual: &[
                Usual { value: 1.0, purpose: "keep hits sharp" },
                Usual { value: 5.0, purpose: "calm, for whole pieces" },
            ],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of a rise of the gain in dB, ms.
        release_ms: Param {
            label: "Release",
            group: "Time",
            unit: Unit::Ms,
            min: 1.0,
            max: 2000.0,
            default: 80.0,
            scale: Scale::Log,
            outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
            picture: Some(Picture::Step),
            what: "How long the gain takes to come back after a peak: the time to 63 % of the way.",
            listen: "Short is loud and, on low notes, rough; long holds down what follows a peak.",
            look: "The slope of the gain after each peak.",
            mistake: "Making it as short as possible for loudness: on a bass it bends single waves.",
            usual: &[
                Usual { value: 30.0, purpose: "drums" },
                Usual { value: 100.0, purpose: "whole pieces" },
            ],
            ..Param::BLANK
        },
        /// Whether the wave is rounded before it is limited (1).
        rounding: Param {
            what: "Bends the wave where it passes a level, in front of the limiter: what is rounded off need not be turned down.",
            ..ROUNDING
        },
        /// Level from which the wave is rounded, dBFS.
        rounding_dbfs: ROUNDING_LEVEL,
        /// Corner of the rounding, 0 very round to 1 a sharp edge.
        rounding_corner: ROUNDING_CORNER,
        /// Low cut of the key, Hz; off at 20 Hz.
        key_low_cut_hz: Param { what: KEY_WORDS, ..KEY_LOW_CUT },
        /// High cut of the key, Hz; off at 20 kHz.
        key_high_cut_hz: Param { what: KEY_WORDS, ..KEY_HIGH_CUT },
        /// What is heard: the result (0), the key or else what comes in (1), what is taken out (2).
        hear: HEAR,
    }
}

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
