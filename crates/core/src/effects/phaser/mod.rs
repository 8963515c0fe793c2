//! Phaser: all-passes turn the phase further the higher the frequency is; against the dry sound, notches stand where it is turned
//! over. They are not evenly spaced, as those of a delay are.

mod processor;

pub use processor::Phaser;

use rustfft::num_complex::Complex64;

use super::modulation::moment::{Moment, of_all_passes};
use super::modulation::{BLOCK, moving_settings, swing_of};
use super::{Ability, Effect, MIX};
use crate::cast;
use crate::catalogue::{Block, Diagram, Param, Picture, Scale, StartingPoint, Step, Unit, Usual, outcomes};

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

fn at_moment(values: &[f64], moment: &Moment, freqs_hz: &[f64]) -> Vec<Complex64> {
    let s = Settings::from_values(values);
    let corner_hz = s.centre_hz * (s.depth_oct * moment.swung(&swing_of!(&s), 0.0)).exp2();
    of_all_passes(corner_hz, 2 * (cast::count(s.sections) + 1), s.feedback, moment, freqs_hz)
}

/// Slow, without feedback.
const PLAIN: &[(&str, f64)] = &[("rate_hz", 0.25)];

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "phaser",
    label: "Phaser",
    purpose: "Lets a few notches travel that are not evenly spaced.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        default: 0.5,
        outcome: Some(outcomes::PEAK_HEIGHT),
        picture: Some(Picture::Notches),
        what: "The turned sound against the dry one. Without feedback the notches reach down to silence at half of each; with a feedback g at a mix of (1 + g)/(2 + g).",
        listen: "The strength of the movement; at 100 % there is nearly none.",
        look: "The depth of the notches.",
        mistake: "Going far beyond half: alone, the all-passes change nothing that one hears while they stand still.",
        usual: &[Usual { value: 0.5, purpose: "the deepest notches" }],
        ..MIX
    },
    pictures: &[
        Picture::Notches,
        Picture::Traces,
        Picture::Swing,
        Picture::Spectrogram,
        Picture::Sidebands,
        Picture::HeldWave,
        Picture::ModulationSpectrum,
        Picture::OverTime,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            BLOCK,
            Block { label: "Sections", params: &["centre_hz", "depth_oct", "sections"], beside: false },
            Block { label: "Feedback", params: &["feedback"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Phaser::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |_, _| None,
    remark: |_, _| None,
    abilities: &[
        Ability::Swings(|values| swing_of!(&Settings::from_values(values))),
        Ability::AtMoment(at_moment),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "rate_hz", plain: &[] },
        Step { param: "depth_oct", plain: PLAIN },
        Step { param: "centre_hz", plain: PLAIN },
        Step { param: "sections", plain: PLAIN },
        Step { param: "feedback", plain: PLAIN },
        Step { param: "apart_deg", plain: PLAIN },
        Step { param: "edge", plain: PLAIN },
    ],
    begins: &[("rate_hz", 0.4), ("feedback", 0.4)],
    starting: &[
        StartingPoint {
            name: "Slow breath",
            purpose: "Four sections in two octaves, a cycle in five seconds. Listen on the harmonium.",
            values: &[("rate_hz", 0.2), ("depth_oct", 1.0), ("centre_hz", 700.0)],
            mix: 0.5,
        },
        StartingPoint {
            name: "Swirl",
            purpose: "Eight sections with feedback, the sides apart: it goes round the head.",
            values: &[
                ("rate_hz", 0.35),
                ("depth_oct", 1.6),
                ("centre_hz", 900.0),
                ("sections", 3.0),
                ("feedback", 0.45),
                ("apart_deg", 90.0),
            ],
            mix: 0.5,
        },
    ],
};
