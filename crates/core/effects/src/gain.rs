//! Gain: makes everything louder or quieter by the same number of decibels.

use super::{Ability, Around, Effect, MIX, MOVE_S, Processor, Setup};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Block, Diagram, Param, Picture, Unit, Usual};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;
use clear_bend_sound::level::gain_from_db;

settings! {
    /// The settings of a gain.
    pub struct Settings {
        /// Gain, dB.
        gain_db: Param {
            label: "Gain",
            unit: Unit::Db,
            min: -48.0,
            max: 48.0,
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::OverTime),
            what: "How much louder or quieter everything becomes. 6 dB doubles the wave, and every level moves by the same amount.",
            listen: "Only the loudness moves. Before a compressor or a limiter it also decides how much they take.",
            look: "The level line moves sideways at this stage, peak and loudness by the same step.",
            mistake: "Thinking that its place does not matter. Before a limiter it drives it harder; after it, it only makes the result louder.",
            usual: &[
                Usual { value: -6.0, purpose: "half the wave" },
                Usual { value: 6.0, purpose: "twice the wave" },
            ],
            ..Param::BLANK
        },
    }
}

/// The catalogue entry of the gain.
pub const EFFECT: Effect = Effect {
    id: "gain",
    label: "Gain",
    purpose: "Moves every level by the same amount, anywhere in the path.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the changed signal is heard; the rest is the untouched one.",
        listen: "It weakens the gain: there is nothing else to blend.",
        look: "Before and after draw together as the mix goes down.",
        mistake: "Using it as a volume. The gain itself says in decibels what happens.",
        usual: &[Usual { value: 1.0, purpose: "a plain gain" }],
        outcome: Some(outcomes::LOUDNESS_CHANGE),
        ..MIX
    },
    pictures: &[Picture::OverTime, Picture::InToOut],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Gain", params: &["gain_db"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Gain::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, _| {
        (Settings::from_values(values).gain_db == 0.0)
            .then(|| "The gain is 0.0 dB, so it changes nothing.".to_owned())
    },
    remark: |_, _| None,
    abilities: &[Ability::StaticCurve(|values, input_dbfs| {
        Some(input_dbfs + Settings::from_values(values).gain_db)
    })],
    sounds: &[],
    holds: &[],
    order: &[],
    begins: &[],
    starting: &[],
};

/// A gain that moves without a step.
pub struct Gain(Ramp);

impl Gain {
    /// A gain at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        Self(Ramp::new(gain_from_db(settings.gain_db), cast::frames(MOVE_S, setup.rate_hz)))
    }
}

impl Processor for Gain {
    fn set(&mut self, values: &[f64]) {
        self.0.set(gain_from_db(Settings::from_values(values).gain_db));
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        self.0.scale(io);
    }

    fn reset(&mut self) {
        self.0.settle();
    }
}
