//! Compressor: lowers what is over a threshold by a ratio.
//!
//! A feed-forward design in the logarithmic domain after Giannoulis, Massberg and Reiss, "Digital Dynamic
//! Range Compressor Design", JAES 60(6), 2012: peak level, static curve, then a one-pole smoother of the
//! gain in dB that branches between attack and release.

mod curve;
mod processor;

pub use curve::StaticCurve;
pub use processor::Compressor;

use super::{Effect, MIX, outcomes};
use crate::catalogue::{Block, Diagram, Param, Picture, Scale, Unit, Usual};
use crate::settings;

settings! {
    /// The settings of a compressor.
    pub struct Settings {
        /// Level above which the gain is reduced, dBFS.
        threshold_db: Param {
            label: "Threshold",
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
        /// Time to cover 63.2 % of a fall of the gain in dB, ms.
        attack_ms: Param {
            label: "Attack",
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
        /// Time to cover 63.2 % of a rise of the gain in dB, ms.
        release_ms: Param {
            label: "Release",
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
        /// Fixed gain after the compression, dB.
        makeup_db: Param {
            label: "Make-up gain",
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
    }
}

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
    pictures: &[Picture::OverTime, Picture::InToOut],
    diagram: Diagram {
        blocks: &[
            Block { label: "Level", params: &[], beside: true },
            Block { label: "Curve", params: &["threshold_db", "ratio", "knee_db"], beside: true },
            Block { label: "Timing", params: &["attack_ms", "release_ms"], beside: true },
            Block { label: "Gain", params: &[], beside: false },
            Block { label: "Make-up", params: &["makeup_db"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |setup, values| Box::new(Compressor::new(setup, &Settings::from_values(values))),
    static_curve: Some(|values, input_dbfs| {
        let settings = Settings::from_values(values);
        input_dbfs + StaticCurve::from(&settings).gain_db(input_dbfs) + settings.makeup_db
    }),
    idle: |values, peak_dbfs| {
        let settings = Settings::from_values(values);
        let moved = match settings.makeup_db {
            0.0 => String::new(),
            gain => format!(" Only the make-up gain of {} is applied.", Unit::Db.text(gain)),
        };
        if settings.ratio == 1.0 {
            Some(format!("The ratio is 1 : 1, so no level is reduced.{moved}"))
        } else if peak_dbfs <= settings.threshold_db - settings.knee_db / 2.0 {
            let knee = if settings.knee_db > 0.0 { " and its knee" } else { "" };
            Some(format!(
                "Nothing is reduced: the loudest peak, {}, stays under the threshold of {}{knee}.{moved}",
                Unit::Dbfs.text(peak_dbfs),
                Unit::Dbfs.text(settings.threshold_db),
            ))
        } else {
            None
        }
    },
};
