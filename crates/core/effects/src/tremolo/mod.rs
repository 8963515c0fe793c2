//! Tremolo: the loudness sways.

use super::modulation::moment::of_gain;
use super::modulation::{BLOCK, GainSway, Law, SwungGain, moving_settings, swing_of};
use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Param, Picture, StartingPoint, Step, Unit, Usual, outcomes};

moving_settings! {
    /// The settings of a tremolo.
    pub struct Settings {
        rate: (outcomes::SWING_RATE, Picture::Swing),
        /// How far the gain sways, 0 to 1.
        depth: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::Percent,
            default: 0.6,
            outcome: Some(outcomes::RIPPLE),
            picture: Some(Picture::OverTime),
            what: "How far the gain sways: at 100 % it goes down to silence. The loudest moment stays as loud as it was.",
            listen: "From a pulse that is felt to a sound that is chopped.",
            look: "Two lines beside a tone, half the depth as high: 6 dB under it at 100 %.",
            mistake: "Matching it by its peaks: it is quieter on the whole, the more the deeper it goes.",
            usual: &[Usual { value: 0.3, purpose: "a pulse" }, Usual { value: 0.6, purpose: "plain" }, Usual { value: 1.0, purpose: "chopped" }],
            ..Param::BLANK
        },
    }
}

fn sway(values: &[f64]) -> GainSway {
    let s = Settings::from_values(values);
    GainSway { swing: swing_of!(&s), depth: s.depth, laws: [1.0, 0.0] }
}

/// 1 + m sin, over its highest.
fn law(swung: f64, depth: f64, _: usize) -> f64 {
    (1.0 + depth * swung) / (1.0 + depth)
}

const LAWS: [Law; 2] = [law, law];

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "tremolo",
    label: "Tremolo",
    purpose: "Lets the loudness sway; with the sides apart, from left to right.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        outcome: Some(outcomes::RIPPLE),
        picture: Some(Picture::OverTime),
        what: "The swaying sound against the steady one.",
        listen: "It weakens the movement, as less depth does.",
        look: "The swings of the level become smaller.",
        mistake: "Using it for the depth. One control is enough.",
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
            Block { label: "Gain", params: &["depth"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(SwungGain::new(plan.setup, plan.values, sway, LAWS)),
    form: |_, _| 0,
    idle: |values, _| {
        (Settings::from_values(values).depth == 0.0)
            .then(|| "The depth is 0, so the loudness stays where it is.".to_owned())
    },
    remark: |_, _| None,
    abilities: &[
        Ability::Swings(|values| sway(values).swing),
        Ability::AtMoment(|values, moment, freqs_hz| of_gain(&sway(values), LAWS, moment, freqs_hz.len())),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "rate_hz", plain: &[("depth", 0.8)] },
        Step { param: "depth", plain: &[("rate_hz", 4.0)] },
        Step { param: "edge", plain: &[("rate_hz", 4.0), ("depth", 1.0)] },
        Step { param: "lean", plain: &[("rate_hz", 2.0), ("depth", 1.0), ("edge", 0.33)] },
        Step { param: "apart_deg", plain: &[("rate_hz", 1.0), ("depth", 1.0)] },
        Step { param: "random", plain: &[("rate_hz", 8.0), ("depth", 1.0), ("edge", 1.0)] },
        Step { param: "rate_note", plain: &[("depth", 1.0), ("edge", 0.7)] },
    ],
    begins: &[("rate_hz", 5.0)],
    starting: &[
        StartingPoint {
            name: "Pulse",
            purpose: "Five times a second, not deep: a held chord begins to breathe.",
            values: &[("rate_hz", 5.0), ("depth", 0.4)],
            mix: 1.0,
        },
        StartingPoint {
            name: "Chopped eighths",
            purpose: "On and off in time, by a note value and steep edges.",
            values: &[("rate_note", 9.0), ("depth", 1.0), ("edge", 0.9)],
            mix: 1.0,
        },
        StartingPoint {
            name: "To and fro",
            purpose: "The sides against each other: the sound goes from left to right and back, and in mono it stands still.",
            values: &[("rate_hz", 0.8), ("depth", 0.9), ("apart_deg", 180.0)],
            mix: 1.0,
        },
    ],
};
