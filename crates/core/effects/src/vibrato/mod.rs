//! Vibrato: the pitch sways, because a delay does. Nothing else is heard.

use super::modulation::moment::of_delays;
use super::modulation::{BLOCK, OPEN_HZ, Sway, Swayed, moving_settings, swing_of};
use super::{Ability, Delays, Effect, MIX};
use clear_bend_catalogue::{
    Block, Diagram, Param, Picture, Scale, StartingPoint, Step, Unit, Usual, outcomes,
};

moving_settings! {
    /// The settings of a vibrato.
    pub struct Settings {
        rate: (outcomes::PITCH_SWAY, Picture::Swing),
        /// How far the delay sways to either side, ms.
        depth_ms: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::FineMs,
            max: 10.0,
            default: 0.4,
            scale: Scale::SoftLog { knee: 0.5 },
            outcome: Some(outcomes::PITCH_SWAY),
            picture: Some(Picture::Sidebands),
            what: "How far the delay sways to either side. The pitch follows how fast it does: twice the rate is twice the vibrato.",
            listen: "The pitch: a singer sways by some 50 cents to either side, five or six times a second.",
            look: "The sway of the pitch in cents, and how many lines stand beside a tone.",
            mistake: "Leaving the depth while the rate goes up: it becomes a siren.",
            usual: &[Usual { value: 0.2, purpose: "hardly heard" }, Usual { value: 0.8, purpose: "a singer, at 5.5 Hz" }],
            ..Param::BLANK
        },
    }
}

/// The delay is as short as the sway allows, and a little longer than what is read between samples.
const LEAST_MS: f64 = 0.3;

fn sway(values: &[f64]) -> Sway {
    let s = Settings::from_values(values);
    Sway {
        swing: swing_of!(&s),
        delay_ms: s.depth_ms + LEAST_MS,
        depth_ms: s.depth_ms,
        voices: 1,
        feedback: 0.0,
        width: 0.0,
        gain: 1.0,
        tone_hz: OPEN_HZ,
        late_ms: 0.0,
    }
}

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "vibrato",
    label: "Vibrato",
    purpose: "Lets the pitch sway, as a singer does.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        outcome: Some(outcomes::RIPPLE),
        picture: Some(Picture::Notches),
        what: "The swaying sound against the dry one. At 100 % it is a vibrato; with dry sound beside it, a chorus of one voice.",
        listen: "Below 100 % the sound begins to beat and to hollow out.",
        look: "Notches come, which a vibrato by itself has not.",
        mistake: "Weakening a vibrato by its mix. The depth does that; the mix makes another effect.",
        usual: &[Usual { value: 1.0, purpose: "a vibrato" }],
        ..MIX
    },
    pictures: &[
        Picture::Swing,
        Picture::DelayAndPitch,
        Picture::Sidebands,
        Picture::HeldWave,
        Picture::Notches,
        Picture::ModulationSpectrum,
        Picture::OverTime,
        Picture::Spectrogram,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            BLOCK,
            Block { label: "Delay", params: &["depth_ms"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Swayed::<1>::new(plan.setup, plan.values, sway)),
    form: |_, _| 0,
    idle: |values, _| {
        (Settings::from_values(values).depth_ms == 0.0).then(|| {
            "The depth is 0, so the pitch stays where it is; the sound is only a little later.".to_owned()
        })
    },
    remark: |_, _| None,
    abilities: &[
        Ability::Swings(|values| sway(values).swing),
        Ability::AtMoment(|values, moment, freqs_hz| of_delays(&sway(values), moment, freqs_hz)),
        Ability::Delays(Delays { sway, first_alone: &[] }),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "rate_hz", plain: &[("depth_ms", 0.6)] },
        Step { param: "depth_ms", plain: &[("rate_hz", 5.0)] },
        Step { param: "edge", plain: &[("rate_hz", 2.0), ("depth_ms", 2.0)] },
        Step { param: "lean", plain: &[("rate_hz", 2.0), ("depth_ms", 2.0), ("edge", 0.33)] },
        Step { param: "random", plain: &[("rate_hz", 3.0), ("depth_ms", 1.0)] },
    ],
    begins: &[("rate_hz", 5.5), ("depth_ms", 0.68)],
    starting: &[
        StartingPoint {
            name: "A singer",
            purpose: "Five and a half times a second, by some 50 cents to either side. Listen on a held tone, then on the voice.",
            values: &[("rate_hz", 5.5), ("depth_ms", 0.85)],
            mix: 1.0,
        },
        StartingPoint {
            name: "Worn tape",
            purpose: "A slow drift by chance: the pitch is never quite where it was.",
            values: &[("rate_hz", 0.9), ("depth_ms", 1.6), ("random", 0.8)],
            mix: 1.0,
        },
    ],
};
