//! What a phaser can be set to.

use super::super::modulation::moving_settings;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual, outcomes};

/// The choices of the number of sections.
const SECTIONS: &[&str] = &["2", "4", "6", "8", "10", "12"];

moving_settings! {
    /// The settings of a phaser.
    pub struct Settings {
        rate: (outcomes::NOTCH_SPEED, Picture::Notches),
        /// How far the middle moves to either side, octaves.
        depth_oct: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::Octaves,
            max: 4.0,
            default: 1.5,
            outcome: Some(outcomes::NOTCH_WAY),
            picture: Some(Picture::Notches),
            what: "How far the notches move up and down from the middle.",
            listen: "How far the movement reaches: one octave breathes, three sweep.",
            look: "The way of the lowest notch in octaves: twice the depth.",
            mistake: "Sweeping so far that the notches leave what sounds. The movement then has holes.",
            usual: &[Usual { value: 1.0, purpose: "breathing" }, Usual { value: 2.0, purpose: "sweeping" }],
            ..Param::BLANK
        },
        /// Corner of the all-passes in the middle of the cycle, Hz.
        centre_hz: Param {
            label: "Centre",
            group: "Notches",
            unit: Unit::Hz,
            min: 50.0,
            max: 10_000.0,
            default: 800.0,
            scale: Scale::Log,
            outcome: Some(outcomes::LOWEST_NOTCH),
            picture: Some(Picture::Notches),
            what: "The frequency at which every section has turned the phase by 90 degrees; around it stand the notches.",
            listen: "Whether the movement is in the body of the sound or in its air.",
            look: "The notches move together, at the same ratios.",
            mistake: "Leaving it where the sound has little to take away from.",
            usual: &[Usual { value: 500.0, purpose: "keys" }, Usual { value: 1200.0, purpose: "strings" }],
            ..Param::BLANK
        },
        /// Place of the number of sections among the choices.
        sections: Param {
            label: "Sections",
            group: "Notches",
            choices: SECTIONS,
            default: 1.0,
            outcome: Some(outcomes::NOTCH_COUNT),
            picture: Some(Picture::Notches),
            what: "How many all-passes there are: every two of them make a notch.",
            listen: "Four sway, twelve are nearly as busy as a short delay.",
            look: "Notches at the centre times tan((2k - 1) 90/n degrees).",
            mistake: "Adding sections for more effect. Fewer notches can be followed better.",
            usual: &[Usual { value: 1.0, purpose: "usual" }, Usual { value: 3.0, purpose: "rich" }],
            ..Param::BLANK
        },
        /// How much of what comes out goes in again.
        feedback: Param {
            label: "Feedback",
            group: "Notches",
            unit: Unit::Percent,
            min: -0.95,
            max: 0.95,
            outcome: Some(outcomes::PEAK_HEIGHT),
            picture: Some(Picture::Notches),
            what: "How much of what comes out of the sections goes in again, with its sign.",
            listen: "A vowel that travels; from 70 % on it whistles.",
            look: "Peaks between the notches, as high as 1/(1 - feedback) where the turned sound is alone.",
            mistake: "Strong feedback on a full mix: one whistle hides the rest.",
            usual: &[Usual { value: 0.0, purpose: "soft" }, Usual { value: 0.5, purpose: "a vowel" }],
            ..Param::BLANK
        },
    }
}
