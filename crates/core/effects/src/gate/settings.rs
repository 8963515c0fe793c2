//! What a gate can be set to.

use super::super::OUTPUT;
use super::super::dynamics::{HEAR, KEY_HIGH_CUT, KEY_LOW_CUT};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};

settings! {
    /// The settings of a gate.
    pub struct Settings {
        /// Level under which the gain is lowered, dBFS.
        threshold_db: Param {
            label: "Threshold",
            group: "Level",
            unit: Unit::Dbfs,
            min: -80.0,
            max: 0.0,
            default: -40.0,
            outcome: Some(outcomes::BETWEEN_CHANGE),
            picture: Some(Picture::OverTime),
            what: "The level at which the gate opens. What is louder passes; what is quieter is turned down.",
            listen: "Raise it until the noise between sounds is gone, then lower it until no sound loses its beginning or its end.",
            look: "The line across the waveform: between the parts that cross it, the gain is down.",
            mistake: "Setting it on loud sounds only. Quiet ones that you want are then cut as well.",
            usual: &[
                Usual { value: -50.0, purpose: "a voice in a quiet room" },
                Usual { value: -30.0, purpose: "one drum out of a kit" },
            ],
            ..Param::BLANK
        },
        /// How far the level must fall under the threshold before an open gate closes, dB.
        hysteresis_db: Param {
            label: "Hysteresis",
            group: "Level",
            unit: Unit::Db,
            max: 24.0,
            default: 4.0,
            outcome: Some(outcomes::SHARE_REDUCED),
            picture: Some(Picture::OverTime),
            what: "How far under the threshold an open gate stays open. It opens at the threshold and closes that much lower.",
            listen: "With none, a level near the threshold makes the gate flutter.",
            look: "The gain flickers at the ends of sounds, or does not.",
            mistake: "Curing flutter with a long hold. Hysteresis is about level, hold about time.",
            usual: &[
                Usual { value: 0.0, purpose: "to hear what it is for" },
                Usual { value: 4.0, purpose: "most uses" },
            ],
            ..Param::BLANK
        },
        /// Decibels of output for one decibel of input under the threshold; infinity gates.
        ratio: Param {
            label: "Ratio",
            group: "Level",
            unit: Unit::Expansion,
            min: 1.0,
            max: f64::INFINITY,
            default: f64::INFINITY,
            scale: Scale::Slope,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "How many dB every dB under the threshold becomes. 1 : 2 is a gentle expander; 1 : infinity is a gate.",
            listen: "Low ratios let quiet sound sink away; high ones cut it.",
            look: "The slope under the threshold in the picture of input against output.",
            mistake: "Gating where expanding is enough. Tails that are cut draw more attention than noise.",
            usual: &[
                Usual { value: 1.5, purpose: "breaths of a voice" },
                Usual { value: 2.0, purpose: "room sound" },
                Usual { value: f64::INFINITY, purpose: "a gate" },
            ],
            ..Param::BLANK
        },
        /// The most that is taken, dB.
        range_db: Param {
            label: "Range",
            group: "Level",
            unit: Unit::Db,
            max: 90.0,
            default: 60.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::InToOut),
            what: "The most that the gain may come down. 60 dB is silence in practice; 10 dB only pushes things back.",
            listen: "A small range sounds natural: the room stays, only quieter.",
            look: "The floor of the gain over time.",
            mistake: "Taking all there is. A little left over hides the gate.",
            usual: &[
                Usual { value: 10.0, purpose: "after heavy compression, for room and breaths" },
                Usual { value: 60.0, purpose: "a drum alone" },
            ],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of the way up, ms.
        attack_ms: Param {
            label: "Attack",
            group: "Time",
            unit: Unit::Ms,
            max: 100.0,
            default: 0.5,
            scale: Scale::SoftLog { knee: 0.5 },
            outcome: Some(outcomes::TRANSIENT_CHANGE),
            picture: Some(Picture::Step),
            what: "How long the gate takes to open: the time to 63 % of the way.",
            listen: "Too short clicks, too long eats the front of a hit.",
            look: "How steeply the gain rises when a sound begins.",
            mistake: "Looking for it where sounds end. In a gate, attack opens and release closes.",
            usual: &[
                Usual { value: 0.1, purpose: "drums" },
                Usual { value: 5.0, purpose: "a voice" },
            ],
            ..Param::BLANK
        },
        /// Time for which the gate waits before it closes, ms.
        hold_ms: Param {
            label: "Hold",
            group: "Time",
            unit: Unit::Ms,
            max: 500.0,
            default: 20.0,
            scale: Scale::SoftLog { knee: 5.0 },
            outcome: Some(outcomes::SHARE_REDUCED),
            picture: Some(Picture::Step),
            what: "How long the gate stays open once the level has dropped.",
            listen: "Long enough, and a low tone no longer rattles the gate between its waves.",
            look: "The flat piece of the gain before it falls.",
            mistake: "Taking it for release. Hold is the wait, release is the way.",
            usual: &[
                Usual { value: 20.0, purpose: "most uses" },
                Usual { value: 150.0, purpose: "a voice: over its pauses between syllables" },
            ],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of the way down, ms.
        release_ms: Param {
            label: "Release",
            group: "Time",
            unit: Unit::Ms,
            min: 1.0,
            max: 2000.0,
            default: 80.0,
            scale: Scale::Log,
            outcome: Some(outcomes::BETWEEN_CHANGE),
            picture: Some(Picture::Step),
            what: "How long the gate takes to close: the time to 63 % of the way.",
            listen: "Short cuts tails off, long lets them fade.",
            look: "How steeply the gain falls after a sound.",
            mistake: "Cutting tails that the piece needs, since they cannot be heard alone.",
            usual: &[
                Usual { value: 50.0, purpose: "tight drums" },
                Usual { value: 250.0, purpose: "a voice" },
            ],
            ..Param::BLANK
        },
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
