//! What a limiter can be set to.

use super::super::OFF_ON;
use super::super::dynamics::{HEAR, KEY_HIGH_CUT, KEY_LOW_CUT, ROUNDING, ROUNDING_CORNER, ROUNDING_LEVEL};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};

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
