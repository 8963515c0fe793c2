//! Phaser: all-passes turn the phase further the higher the frequency is; against the dry sound, notches stand where it is turned
//! over. They are not evenly spaced, as those of a delay are.

mod processor;
mod settings;

pub use processor::Phaser;
pub use settings::Settings;

use rustfft::num_complex::Complex64;

use super::modulation::moment::{Moment, of_all_passes};
use super::modulation::{BLOCK, swing_of};
use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Param, Picture, StartingPoint, Step, Usual, outcomes};
use clear_bend_sound::cast;

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
