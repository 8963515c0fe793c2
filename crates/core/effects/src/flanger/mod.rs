//! Flanger: a short delay that sways against the dry sound, so that a comb of notches moves through the spectrum.

use super::modulation::moment::of_delays;
use super::modulation::{BLOCK, OPEN_HZ, Sway, Swayed, moving_settings, swing_of};
use super::{Ability, Delays, Effect, MIX, OFF_ON};
use clear_bend_catalogue::{
    Block, Diagram, Param, Picture, Scale, StartingPoint, Step, Unit, Usual, outcomes,
};
use clear_bend_sound::cast;

moving_settings! {
    /// The settings of a flanger.
    pub struct Settings {
        rate: (outcomes::NOTCH_SPEED, Picture::Notches),
        /// How far the delay sways to either side, ms.
        depth_ms: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::FineMs,
            max: 10.0,
            default: 1.0,
            scale: Scale::SoftLog { knee: 1.0 },
            outcome: Some(outcomes::NOTCH_WAY),
            picture: Some(Picture::Notches),
            what: "How far the delay sways to either side, and the notches with it.",
            listen: "How far the whoosh travels.",
            look: "How far the lowest notch goes, in octaves.",
            mistake: "Making it larger than the delay: it then rests at its shortest for a part of the cycle.",
            usual: &[Usual { value: 0.5, purpose: "a shimmer" }, Usual { value: 2.0, purpose: "a long sweep" }],
            ..Param::BLANK
        },
        /// Middle of the delay, ms.
        delay_ms: Param {
            label: "Delay",
            group: "Delay",
            unit: Unit::FineMs,
            min: 0.05,
            max: 20.0,
            default: 1.5,
            scale: Scale::Log,
            outcome: Some(outcomes::NOTCH_COUNT),
            picture: Some(Picture::Notches),
            what: "The delay around which it sways. The notches stand 1/delay apart, the lowest at half of that.",
            listen: "Long: many notches, a metallic tube. Short: few of them, high up, airy.",
            look: "1 ms: notches at 500 Hz, 1.5 kHz, 2.5 kHz, twenty of them.",
            mistake: "Expecting lows from a short delay: its lowest notch lies far up.",
            usual: &[Usual { value: 0.5, purpose: "airy" }, Usual { value: 2.0, purpose: "usual" }, Usual { value: 8.0, purpose: "a tube" }],
            ..Param::BLANK
        },
        /// How much of it goes in again.
        feedback: Param {
            label: "Feedback",
            group: "Delay",
            unit: Unit::Percent,
            min: -0.98,
            max: 0.98,
            outcome: Some(outcomes::PEAK_HEIGHT),
            picture: Some(Picture::Notches),
            what: "How much of what comes out goes in again, with its sign. The peaks grow by 1/(1 - feedback).",
            listen: "A ring that travels; hollow and nasal where it is negative.",
            look: "The peaks between the notches grow and become narrow.",
            mistake: "Turning it up without turning the level down: at 90 % the peaks of the delayed sound are 20 dB high, those of the mix nearly 15.",
            usual: &[Usual { value: 0.0, purpose: "soft" }, Usual { value: 0.5, purpose: "usual" }, Usual { value: -0.7, purpose: "hollow" }],
            ..Param::BLANK
        },
        /// Whether the delayed sound is turned over.
        polarity: Param {
            label: "Polarity",
            group: "Delay",
            choices: &["as it is", "turned over"],
            outcome: Some(outcomes::LOWEST_NOTCH),
            picture: Some(Picture::Notches),
            what: "The sign of the delayed sound in the mix. Turned over, notches and peaks change places, and the lowest notch is at 0 Hz.",
            listen: "Turned over it is thin: the lows are gone.",
            look: "Peaks stand where notches stood.",
            mistake: "Taking it for negative feedback, which moves the peaks of the ring.",
            usual: &[Usual { value: 0.0, purpose: "full" }, Usual { value: 1.0, purpose: "thin" }],
            ..Param::BLANK
        },
        /// Whether the dry sound is late as well.
        through_zero: Param {
            label: "Through zero",
            group: "Delay",
            choices: OFF_ON,
            outcome: Some(outcomes::LOWEST_NOTCH),
            picture: Some(Picture::Notches),
            what: "Makes the dry sound 5 ms late, so that the delay against it can become negative: the notches run up and out, and come back on the other side.",
            listen: "The moment at zero, where everything opens, or, turned over, where nothing is left.",
            look: "The lowest notch goes up beyond the range when the delay crosses zero.",
            mistake: "Forgetting the 5 ms beside other parts of the same sound. On this bench they are made up for.",
            usual: &[Usual { value: 0.0, purpose: "as pedals do" }, Usual { value: 1.0, purpose: "as two tapes do" }],
            ..Param::BLANK
        },
    }
}

/// By how much the dry sound is late where the delay goes through zero, ms.
const THROUGH_MS: f64 = 5.0;

fn sway(values: &[f64]) -> Sway {
    let s = Settings::from_values(values);
    Sway {
        swing: swing_of!(&s),
        delay_ms: s.delay_ms,
        depth_ms: s.depth_ms,
        voices: 1,
        feedback: s.feedback,
        width: 0.0,
        gain: if s.polarity > 0.5 { -1.0 } else { 1.0 },
        tone_hz: OPEN_HZ,
        late_ms: if s.through_zero > 0.5 { THROUGH_MS } else { 0.0 },
    }
}

/// Slow, without feedback: the notches show themselves.
const PLAIN: &[(&str, f64)] = &[("rate_hz", 0.25), ("depth_ms", 0.5), ("delay_ms", 1.0)];

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "flanger",
    label: "Flanger",
    purpose: "Lets a comb of notches travel through the sound.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        default: 0.5,
        outcome: Some(outcomes::PEAK_HEIGHT),
        picture: Some(Picture::Notches),
        what: "The delayed sound against the dry one. Without feedback the notches reach down to silence at half of each; with a feedback g at a mix of (1 + g)/(2 + g).",
        listen: "The strength of the whoosh; at 100 % it is a vibrato.",
        look: "The depth of the notches.",
        mistake: "Going beyond half to make it stronger: it becomes weaker again.",
        usual: &[
            Usual { value: 0.5, purpose: "the deepest notches" },
            Usual { value: 0.3, purpose: "softer" },
        ],
        ..MIX
    },
    pictures: &[
        Picture::Notches,
        Picture::Traces,
        Picture::Swing,
        Picture::DelayAndPitch,
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
            Block { label: "Delay", params: &["delay_ms", "depth_ms", "through_zero"], beside: false },
            Block { label: "Feedback", params: &["feedback", "polarity"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Swayed::<1>::new(plan.setup, plan.values, sway)),
    form: |values, _| cast::count(Settings::from_values(values).through_zero),
    idle: |_, _| None,
    remark: |values, _| sway(values).rests_at_shortest(),
    abilities: &[
        Ability::Swings(|values| sway(values).swing),
        Ability::AtMoment(|values, moment, freqs_hz| of_delays(&sway(values), moment, freqs_hz)),
        Ability::Delays(Delays { sway, first_alone: &[("feedback", 0.0), ("polarity", 0.0)] }),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "rate_hz", plain: &[("depth_ms", 0.5), ("delay_ms", 1.0)] },
        Step { param: "depth_ms", plain: &[("rate_hz", 0.25), ("delay_ms", 1.0)] },
        Step { param: "delay_ms", plain: &[("rate_hz", 0.25), ("depth_ms", 0.5)] },
        Step { param: "feedback", plain: PLAIN },
        Step { param: "polarity", plain: PLAIN },
        Step { param: "apart_deg", plain: PLAIN },
        Step { param: "through_zero", plain: &[("rate_hz", 0.25), ("depth_ms", 1.0), ("delay_ms", 0.2)] },
        Step { param: "lean", plain: PLAIN },
    ],
    begins: &[("rate_hz", 0.25), ("feedback", 0.5)],
    starting: &[
        StartingPoint {
            name: "Slow whoosh",
            purpose: "One sweep in six seconds, with some ring. Listen on noise first, then on the loop.",
            values: &[("rate_hz", 0.16), ("depth_ms", 1.4), ("delay_ms", 1.8), ("feedback", 0.55)],
            mix: 0.5,
        },
        StartingPoint {
            name: "Two tapes",
            purpose: "Through zero, as when one of two tapes is held back by hand and let go.",
            values: &[("rate_hz", 0.12), ("depth_ms", 1.6), ("delay_ms", 0.6), ("through_zero", 1.0)],
            mix: 0.5,
        },
        StartingPoint {
            name: "Hollow pipe",
            purpose: "A longer delay with negative feedback, hardly moving: a colour more than a movement.",
            values: &[("rate_hz", 0.3), ("depth_ms", 0.3), ("delay_ms", 4.0), ("feedback", -0.75)],
            mix: 0.5,
        },
    ],
};
