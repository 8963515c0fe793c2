//! The settings of a compressor and their catalogue entries.

use crate::dynamics::{HEAR, KEY_HIGH_CUT, KEY_LOW_CUT, ROUNDING, ROUNDING_CORNER, ROUNDING_LEVEL};
use crate::{OFF_ON, OUTPUT};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};

/// The longest lookahead, ms. The signal is late by this whatever the lookahead is, so that it can be moved while
/// sound runs.
pub const LOOKAHEAD_MS: f64 = 10.0;

settings! {
    /// The settings of a compressor.
    pub struct Settings {
        /// Gain into the compressor, taken back behind it, dB.
        drive_db: Param {
            label: "Drive",
            group: "Level",
            unit: Unit::Db,
            min: -24.0,
            max: 36.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "Gain in front of the compressor that is taken back behind it. The threshold stays where it is and the sound is pushed into it.",
            listen: "The same as lowering the threshold: more of the sound is held, and the level before and after stays comparable.",
            look: "The curve of input against output moves to the left by the drive and down by as much.",
            mistake: "Pushing until it sounds louder. Here it cannot: only what the curve takes is left to hear.",
            usual: &[
                Usual { value: 0.0, purpose: "work with the threshold instead" },
                Usual { value: 12.0, purpose: "a fixed threshold, a quiet source" },
            ],
            ..Param::BLANK
        },
        /// Level above which the gain is reduced, dBFS.
        threshold_db: Param {
            label: "Threshold",
            group: "Level",
            unit: Unit::Dbfs,
            min: -60.0,
            max: 0.0,
            default: -20.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "The level at which compression begins. What stays under it is left alone; what rises over it is turned down.",
            listen: "Lower it until the loud parts stop jumping out, then until the sound starts to feel held.",
            look: "The line across the waveform: only what crosses it bends the gain.",
            mistake: "Setting it by the number. What counts is where it lies in the levels of this source.",
            usual: &[
                Usual { value: -22.0, purpose: "drums, with a low ratio" },
                Usual { value: -12.0, purpose: "catching the loudest words only" },
            ],
            ..Param::BLANK
        },
        /// Decibels of input over the threshold for one decibel of output; infinity limits.
        ratio: Param {
            label: "Ratio",
            group: "Level",
            unit: Unit::Ratio,
            min: 1.0,
            max: f64::INFINITY,
            default: 4.0,
            scale: Scale::Slope,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "How many dB over the threshold come out as one. At 4 : 1, a peak 12 dB over leaves 3 dB over.",
            listen: "Low ratios lean on the sound; high ones hold it at a line.",
            look: "The slope above the threshold in the picture of input against output.",
            mistake: "Reading 2 : 1 as half the sound. It halves the dB over the threshold, not the wave.",
            usual: &[
                Usual { value: 2.0, purpose: "gentle levelling" },
                Usual { value: 4.0, purpose: "a voice" },
                Usual { value: 8.0, purpose: "firm control" },
                Usual { value: 20.0, purpose: "practically limiting" },
            ],
            ..Param::BLANK
        },
        /// Width of the bend around the threshold, dB.
        knee_db: Param {
            label: "Knee",
            group: "Level",
            unit: Unit::Db,
            max: 40.0,
            default: 6.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "How wide the bend around the threshold is. 0 dB is a corner; a wide knee begins early and gently.",
            listen: "With a wide knee, it is hard to say when compression starts.",
            look: "The rounding of the corner. The time picture hardly changes: a knee bends level, not time.",
            mistake: "Taking it for a kind of attack. It does not know about time.",
            usual: &[
                Usual { value: 0.0, purpose: "a clear edge, for peaks" },
                Usual { value: 6.0, purpose: "most uses" },
                Usual { value: 20.0, purpose: "voices and whole pieces" },
            ],
            ..Param::BLANK
        },
        /// The most that is taken, dB.
        range_db: Param {
            label: "Largest reduction",
            group: "Level",
            unit: Unit::Db,
            max: 60.0,
            default: 60.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "The most that the gain may come down. Above it, loud sound goes through as loud as it is, only that much lower.",
            listen: "Peaks keep their own differences: the loudest stays the loudest.",
            look: "The curve turns back to 1 : 1 above a level, and the gain has a floor.",
            mistake: "Taking it for a limit of the output. It limits what is taken, not what is left.",
            usual: &[
                Usual { value: 6.0, purpose: "gentle, whatever comes" },
                Usual { value: 60.0, purpose: "no limit in practice" },
            ],
            ..Param::BLANK
        },
        /// Whether the detector reads peaks (0) or the RMS level (1).
        detector: Param {
            label: "Detector",
            group: "Level",
            choices: &["peak", "RMS"],
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "What counts as the level: the peaks of the wave, or its RMS level, which follows how much sound there is.",
            listen: "With RMS, single cracks pass and long notes are held.",
            look: "The gain moves less at hits and more at held notes.",
            mistake: "Keeping the threshold when changing it. A sine reads 3 dB lower in RMS, and hits far lower still.",
            usual: &[
                Usual { value: 0.0, purpose: "drums and peaks" },
                Usual { value: 1.0, purpose: "levelling a voice" },
            ],
            ..Param::BLANK
        },
        /// Window of the RMS detector, ms.
        rms_window_ms: Param {
            label: "RMS window",
            group: "Level",
            acts_with: Some(ActsWith::at_least("detector", 1.0)),
            unit: Unit::Ms,
            min: 5.0,
            max: 300.0,
            default: 20.0,
            scale: Scale::Log,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "The time over which the RMS detector takes its mean. The peak detector does not know it.",
            listen: "A long window goes by phrases, a short one by syllables.",
            look: "The gain gets slower and smoother as the window grows.",
            mistake: "Making it long and then shortening the attack: the level itself is already late.",
            usual: &[
                Usual { value: 10.0, purpose: "single notes" },
                Usual { value: 100.0, purpose: "phrases" },
            ],
            ..Param::BLANK
        },
        /// How far both channels go by the louder one, 0 to 1.
        link: Param {
            label: "Stereo link",
            group: "Level",
            unit: Unit::Percent,
            default: 1.0,
            outcome: Some(outcomes::BALANCE_CHANGE),
            picture: Some(Picture::OverTime),
            what: "How far both channels go by the louder one. At 100 % both get the same gain, at 0 % each has its own.",
            listen: "Unlinked, a loud sound on one side leaves the other side up, and the middle wanders to it.",
            look: "The change of the balance between left and right.",
            mistake: "Unlinking to get more level. What it costs is that voices in the middle move.",
            usual: &[
                Usual { value: 1.0, purpose: "whole pieces: nothing moves" },
                Usual { value: 0.0, purpose: "two sounds that share a track" },
            ],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of a fall of the gain in dB, ms.
        attack_ms: Param {
            label: "Attack",
            group: "Time",
            unit: Unit::Ms,
            max: 500.0,
            default: 10.0,
            scale: Scale::SoftLog { knee: 1.0 },
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::OverTime),
            what: "How long the gain takes to come down once the level is over the threshold: the time to 63 % of the way. Short catches the first crack of a hit; long lets it pass, and the hit stands out more.",
            listen: "The click at the very start of a hit.",
            look: "How steeply the gain falls when a hit begins.",
            mistake: "Taking it for a delay. The gain begins to move at once; attack is how fast.",
            usual: &[
                Usual { value: 1.0, purpose: "catching peaks" },
                Usual { value: 10.0, purpose: "a voice" },
                Usual { value: 30.0, purpose: "more attack on drums" },
            ],
            ..Param::BLANK
        },
        /// Course of a fall of the gain: -1 abrupt, 0 exponential, 1 drawn-out.
        attack_shape: Param {
            label: "Attack shape",
            group: "Time",
            unit: Unit::Signed,
            min: -1.0,
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::Step),
            what: "How the gain goes on its way down. All shapes have gone 63 % after the attack time: an abrupt one goes straight and stops, a drawn-out one is quick at first and takes its time to arrive.",
            listen: "Abrupt grips hard after the crack; drawn-out leans in.",
            look: "The step response: the curves cross at the 63 % mark.",
            mistake: "Changing shape and time together. Leave the time, and the shape alone can be heard.",
            usual: &[
                Usual { value: -1.0, purpose: "a hard grip" },
                Usual { value: 0.0, purpose: "the usual exponential" },
                Usual { value: 1.0, purpose: "a soft lean" },
            ],
            ..Param::BLANK
        },
        /// Time for which the gain waits before it rises, ms.
        hold_ms: Param {
            label: "Hold",
            group: "Time",
            unit: Unit::Ms,
            max: 500.0,
            scale: Scale::SoftLog { knee: 5.0 },
            outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
            picture: Some(Picture::Step),
            what: "How long the gain waits, once the level has dropped, before it begins to come back.",
            listen: "The sound between hits stays down for a while, then rises: a breath that comes late.",
            look: "The flat piece of the gain between the end of a hit and its way back.",
            mistake: "Taking it for release. Hold is the wait, release is the way.",
            usual: &[
                Usual { value: 0.0, purpose: "most uses" },
                Usual { value: 30.0, purpose: "a bass: longer than one of its waves, so that it is not bent" },
            ],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of a rise of the gain in dB, ms.
        release_ms: Param {
            label: "Release",
            group: "Time",
            unit: Unit::Ms,
            min: 1.0,
            max: 5000.0,
            default: 120.0,
            scale: Scale::Log,
            outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
            picture: Some(Picture::OverTime),
            what: "How long the gain takes to come back once the level has dropped: the time to 63 % of the way. Longer than the gap between hits, and it never gets back to zero.",
            listen: "The space between hits: a short release lifts it, a long one leaves it alone.",
            look: "How far the gain has come back when the next hit arrives.",
            mistake: "Very short times on a bass: the gain then follows the single waves and distorts them.",
            usual: &[
                Usual { value: 50.0, purpose: "lively drums" },
                Usual { value: 120.0, purpose: "a voice" },
                Usual { value: 500.0, purpose: "calm, for whole pieces" },
            ],
            ..Param::BLANK
        },
        /// Course of a rise of the gain: -1 abrupt, 0 exponential, 1 drawn-out.
        release_shape: Param {
            label: "Release shape",
            group: "Time",
            unit: Unit::Signed,
            min: -1.0,
            outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
            picture: Some(Picture::Step),
            what: "How the gain comes back. All shapes have gone 63 % after the release time; a drawn-out one is quick at first and takes long over the rest.",
            listen: "Abrupt gives back all and is done; drawn-out leaves a little grip until the next hit.",
            look: "The tail of the step response after the 63 % mark.",
            mistake: "Taking a long tail for a long release. Look where 63 % is: it has not moved.",
            usual: &[
                Usual { value: -1.0, purpose: "back and done" },
                Usual { value: 0.0, purpose: "the usual exponential" },
                Usual { value: 1.0, purpose: "a long tail" },
            ],
            ..Param::BLANK
        },
        /// Whether the release goes by the signal (1) or stays as set (0).
        auto_release: Param {
            label: "Release goes by",
            group: "Time",
            choices: &["its own time", "the signal"],
            outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
            picture: Some(Picture::OverTime),
            what: "By the signal, the release time is the longest one: the more the sound hits, by its crest factor over the last 200 ms, the shorter it gets.",
            listen: "Hits let go quickly, held notes slowly, in the same passage.",
            look: "The steepness of the way back, hit by hit.",
            mistake: "Leaving the release short. By the signal it can only get shorter, so start from a long one.",
            usual: &[
                Usual { value: 0.0, purpose: "when the rhythm is known" },
                Usual { value: 1.0, purpose: "voices and whole pieces" },
            ],
            ..Param::BLANK
        },
        /// How far ahead the detector hears, ms.
        lookahead_ms: Param {
            label: "Lookahead",
            group: "Time",
            unit: Unit::Ms,
            max: LOOKAHEAD_MS,
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::OverTime),
            what: "How much earlier the detector hears the sound than you do. The gain is on its way down when the hit arrives.",
            listen: "The crack goes, even with an attack that is not short.",
            look: "The gain bends before the hit begins.",
            mistake: "Using it to keep punch. It does the reverse: what is foreseen is caught.",
            usual: &[
                Usual { value: 0.0, purpose: "let the attack time decide" },
                Usual { value: 5.0, purpose: "catch the crack too" },
            ],
            ..Param::BLANK
        },
        /// The first so many milliseconds of every onset pass, ms.
        guard_ms: Param {
            label: "Onset guard",
            group: "Time",
            unit: Unit::Ms,
            max: 100.0,
            scale: Scale::SoftLog { knee: 2.0 },
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::OverTime),
            what: "The first so many milliseconds of every onset pass untouched, whatever the attack time is.",
            listen: "Every hit keeps its whole crack, while what rings after it is held.",
            look: "The gain returns to 0 dB for that long at every onset.",
            mistake: "Using it for a late attack. A long attack lets part of the crack pass; the guard lets all of it.",
            usual: &[
                Usual { value: 0.0, purpose: "off" },
                Usual { value: 10.0, purpose: "keep the crack of drums" },
            ],
            ..Param::BLANK
        },
        /// Fixed gain after the compression, dB.
        makeup_db: Param {
            label: "Make-up gain",
            group: "Output",
            unit: Unit::Db,
            min: -24.0,
            max: 24.0,
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::OverTime),
            what: "A fixed gain after the compression, to give back the level that was taken.",
            listen: "With level match on, nothing: it only moves the level. Switch the match off to hear what it adds.",
            look: "The whole wave grows; the gain reduction stays as it was.",
            mistake: "Judging compression with the make-up gain in: the louder one always seems better.",
            usual: &[Usual { value: 4.0, purpose: "after a few dB of reduction" }],
            ..Param::BLANK
        },
        /// Whether a make-up gain is added that the curve itself says (1).
        auto_makeup: Param {
            label: "Automatic make-up",
            group: "Output",
            choices: OFF_ON,
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::InToOut),
            what: "Refers the output to the input: adds as much as the curve takes from a steady level of 0 dBFS, so that full scale in is full scale out. The sentence under the picture says how much that is.",
            listen: "Everything under full scale gets louder. The level match takes that away again for the ear.",
            look: "The curve of input against output rises until it ends at 0 dBFS.",
            mistake: "Trusting it to make before and after equally loud. It goes by the curve, not by your sound; that is what the level match is for.",
            usual: &[Usual { value: 0.0, purpose: "with the level match on" }],
            ..Param::BLANK
        },
        /// Whether the output is rounded (1).
        rounding: ROUNDING,
        /// Level at which the output is rounded, dBFS.
        rounding_dbfs: ROUNDING_LEVEL,
        /// Corner of the rounding, 0 very round to 1 a sharp edge.
        rounding_corner: ROUNDING_CORNER,
        /// Gain after the mix, dB.
        output_db: Param { group: "Output", ..OUTPUT },
        /// Low cut of what the detector hears, Hz; off at 20 Hz.
        key_low_cut_hz: KEY_LOW_CUT,
        /// High cut of what the detector hears, Hz; off at 20 kHz.
        key_high_cut_hz: KEY_HIGH_CUT,
        /// What is heard: the result (0), what the detector hears (1), what is taken out (2).
        hear: HEAR,
    }
}
