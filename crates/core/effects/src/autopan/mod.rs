//! Auto-pan: the place between left and right sways.

use std::f64::consts::{FRAC_PI_4, SQRT_2};

use super::modulation::moment::of_gain;
use super::modulation::{BLOCK, GainSway, Law, SwungGain, moving_settings, swing_of};
use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Param, Picture, StartingPoint, Step, Unit, Usual, outcomes};

moving_settings! {
    /// The settings of an auto-pan.
    pub struct Settings {
        rate: (outcomes::SWING_RATE, Picture::Swing),
        /// How far it goes to either side, 0 to 1.
        depth: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::Percent,
            default: 0.7,
            outcome: Some(outcomes::RIPPLE),
            picture: Some(Picture::OverTime),
            what: "How far the sound goes to either side.",
            listen: "From a sway in the middle to all the way from ear to ear.",
            look: "The levels of left and right against each other.",
            mistake: "Going all the way on a part that carries the song: on one side of the room it is gone by turns.",
            usual: &[Usual { value: 0.4, purpose: "alive" }, Usual { value: 1.0, purpose: "all the way" }],
            ..Param::BLANK
        },
        /// Place of the law among the choices.
        law: Param {
            label: "Law",
            group: "Motion",
            choices: &["constant power", "constant sum"],
            outcome: Some(outcomes::SUM_RIPPLE),
            picture: Some(Picture::OverTime),
            what: "What stays the same while it moves: the power of both sides, so that it is equally loud in a room, or their sum, so that it stands still in mono.",
            listen: "In a room and in mono: with one of them, the other sways in loudness.",
            look: "The ripple of the sum of both sides.",
            mistake: "Judging it on headphones alone.",
            usual: &[Usual { value: 0.0, purpose: "loudspeakers" }, Usual { value: 1.0, purpose: "what must hold in mono" }],
            ..Param::BLANK
        },
    }
}

fn sway(values: &[f64]) -> GainSway {
    let s = Settings::from_values(values);
    let sum = f64::from(u8::from(s.law > 0.5));
    GainSway { swing: swing_of!(&s), depth: s.depth, laws: [1.0 - sum, sum] }
}

/// To which side: the right one is louder where it swings up.
fn towards(swung: f64, depth: f64, side: usize) -> f64 {
    if side == 1 { depth * swung } else { -depth * swung }
}

/// The squares of both sides sum to 2.
fn constant_power(swung: f64, depth: f64, side: usize) -> f64 {
    SQRT_2 * ((1.0 + towards(swung, depth, side)) * FRAC_PI_4).sin()
}

/// Both sides sum to 2.
fn constant_sum(swung: f64, depth: f64, side: usize) -> f64 {
    1.0 + towards(swung, depth, side)
}

const LAWS: [Law; 2] = [constant_power, constant_sum];

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "auto-pan",
    label: "Auto-pan",
    purpose: "Lets a sound go from left to right and back.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        outcome: Some(outcomes::RIPPLE),
        picture: Some(Picture::OverTime),
        what: "The moving sound against the one that stands still.",
        listen: "It weakens the movement, as less depth does.",
        look: "The levels of left and right draw together.",
        mistake: "Using it for the depth. With constant power, the sum of both is louder in the middle.",
        usual: &[Usual { value: 1.0, purpose: "all of it" }],
        ..MIX
    },
    pictures: &[
        Picture::Swing,
        Picture::OverTime,
        Picture::ModulationSpectrum,
        Picture::HeldWave,
        Picture::Sidebands,
        Picture::Spectrogram,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            BLOCK,
            Block { label: "Place", params: &["depth", "law"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(SwungGain::new(plan.setup, plan.values, sway, LAWS)),
    form: |_, _| 0,
    idle: |values, _| {
        (Settings::from_values(values).depth == 0.0)
            .then(|| "The depth is 0, so the sound stays where it is.".to_owned())
    },
    remark: |_, _| None,
    abilities: &[
        Ability::Swings(|values| sway(values).swing),
        Ability::AtMoment(|values, moment, freqs_hz| of_gain(&sway(values), LAWS, moment, freqs_hz.len())),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "rate_hz", plain: &[("depth", 1.0)] },
        Step { param: "depth", plain: &[] },
        Step { param: "law", plain: &[("depth", 1.0)] },
        Step { param: "edge", plain: &[("depth", 1.0)] },
        Step { param: "lean", plain: &[("depth", 1.0), ("edge", 0.33)] },
        Step { param: "random", plain: &[("depth", 1.0), ("rate_hz", 2.0)] },
    ],
    begins: &[("rate_hz", 1.0), ("depth", 0.9)],
    starting: &[
        StartingPoint {
            name: "Slow drift",
            purpose: "Once in eight seconds, not all the way: one notices only that it lives.",
            values: &[("rate_hz", 0.125), ("depth", 0.5)],
            mix: 1.0,
        },
        StartingPoint {
            name: "From ear to ear",
            purpose: "Twice a second, all the way, its sum constant: try it in mono.",
            values: &[("rate_hz", 2.0), ("depth", 1.0), ("law", 1.0)],
            mix: 1.0,
        },
    ],
};
