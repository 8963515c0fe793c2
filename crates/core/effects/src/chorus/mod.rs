//! Chorus: a few delayed voices that sway, each in its own time, so that one sound becomes several.

use super::modulation::moment::of_delays;
use super::modulation::{BLOCK, OPEN_HZ, Sway, Swayed, moving_settings, swing_of};
use super::{Ability, Delays, Effect, MIX};
use clear_bend_catalogue::{
    Block, Diagram, Param, Picture, Scale, StartingPoint, Step, Unit, Usual, outcomes,
};
use clear_bend_sound::cast;

moving_settings! {
    /// The settings of a chorus.
    pub struct Settings {
        rate: (outcomes::PITCH_SWAY, Picture::Swing),
        /// How far the delays sway to either side, ms.
        depth_ms: Param {
            label: "Depth",
            group: "Motion",
            unit: Unit::FineMs,
            max: 10.0,
            default: 1.5,
            scale: Scale::SoftLog { knee: 1.0 },
            outcome: Some(outcomes::PITCH_SWAY),
            picture: Some(Picture::Swing),
            what: "How far the delays of the voices sway to either side. With the rate it makes the pitch sway.",
            listen: "From a shimmer to seasick: from some 20 cents on, it is out of tune.",
            look: "The sway of the pitch in cents.",
            mistake: "Setting depth and rate one after the other. The pitch follows their product: twice the rate wants half the depth.",
            usual: &[Usual { value: 0.5, purpose: "hardly heard" }, Usual { value: 1.5, purpose: "thickening" }],
            ..Param::BLANK
        },
        /// Middle of the delays, ms.
        delay_ms: Param {
            label: "Delay",
            group: "Voices",
            unit: Unit::FineMs,
            min: 0.5,
            max: 35.0,
            default: 12.0,
            scale: Scale::Log,
            outcome: Some(outcomes::NOTCH_COUNT),
            picture: Some(Picture::Notches),
            what: "How late the voices are, around which they sway.",
            listen: "Under 5 ms the sound is coloured, at 10 to 20 there are several players, over 30 a second sound is heard.",
            look: "The longer the delay, the closer the notches stand.",
            mistake: "Making it long to make it wide. Width is a matter of the sides.",
            usual: &[Usual { value: 7.0, purpose: "close together" }, Usual { value: 15.0, purpose: "a group" }],
            ..Param::BLANK
        },
        /// How many voices there are.
        voices: Param {
            label: "Voices",
            group: "Voices",
            min: 1.0,
            max: 8.0,
            default: 3.0,
            step: 1.0,
            outcome: Some(outcomes::RIPPLE),
            picture: Some(Picture::OverTime),
            what: "How many voices there are beside the dry sound, spread evenly over the cycle.",
            listen: "One sways to and fro, three or more only live.",
            look: "The ripple of a held tone: single voices cancel it by turns.",
            mistake: "Taking eight for more than three. From four on, the difference is small.",
            usual: &[Usual { value: 1.0, purpose: "plain" }, Usual { value: 3.0, purpose: "a group" }],
            ..Param::BLANK
        },
        /// How much of the voices goes in again.
        feedback: Param {
            label: "Feedback",
            group: "Voices",
            unit: Unit::Percent,
            min: -0.7,
            max: 0.7,
            outcome: Some(outcomes::PEAK_HEIGHT),
            picture: Some(Picture::Notches),
            what: "How much of what comes out goes in again, with its sign; of several voices less than is set, since all of them together pass no more than that.",
            listen: "A ring at the pitch of the delay, hollow where it is negative.",
            look: "Peaks between the notches.",
            mistake: "Using it to make it stronger. It makes it metallic.",
            usual: &[Usual { value: 0.0, purpose: "without a ring" }],
            ..Param::BLANK
        },
        /// How far the voices stand apart, 0 to 1.
        width: Param {
            label: "Width",
            group: "Voices",
            unit: Unit::Percent,
            default: 1.0,
            outcome: Some(outcomes::SIDES),
            picture: Some(Picture::OverTime),
            what: "How far the voices stand apart from left to right. It needs two of them.",
            listen: "From one place in the middle to all around.",
            look: "The correlation of left and right.",
            mistake: "Widening what must be heard in mono: voices that stand apart there come together again, and ripple.",
            usual: &[Usual { value: 1.0, purpose: "wide" }, Usual { value: 0.0, purpose: "mono" }],
            ..Param::BLANK
        },
        /// Where the highs of the voices end, Hz.
        tone_hz: Param {
            label: "Tone",
            group: "Voices",
            unit: Unit::Hz,
            min: 500.0,
            max: OPEN_HZ,
            default: OPEN_HZ,
            scale: Scale::Log,
            outcome: Some(outcomes::CENTROID),
            picture: Some(Picture::Spectrogram),
            what: "What lies over it is taken off the voices, 12 dB per octave; off at 20 kHz.",
            listen: "Dark voices stay behind the dry sound, bright ones compete with it.",
            look: "The upper notches fade.",
            mistake: "Darkening the whole sound elsewhere. The dry one can stay bright.",
            usual: &[Usual { value: 8000.0, purpose: "behind the sound" }],
            ..Param::BLANK
        },
    }
}

fn sway(values: &[f64]) -> Sway {
    let s = Settings::from_values(values);
    Sway {
        swing: swing_of!(&s),
        delay_ms: s.delay_ms,
        depth_ms: s.depth_ms,
        voices: cast::count(s.voices),
        feedback: s.feedback,
        width: s.width,
        gain: 1.0,
        tone_hz: s.tone_hz,
        late_ms: 0.0,
    }
}

/// Slow, one voice, no feedback: what is explained shows itself.
const PLAIN: &[(&str, f64)] =
    &[("voices", 1.0), ("width", 0.0), ("rate_hz", 0.5), ("depth_ms", 2.0), ("delay_ms", 10.0)];

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "chorus",
    label: "Chorus",
    purpose: "Makes one sound several: delayed voices, each of which sways in its own time.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Motion",
        default: 0.5,
        outcome: Some(outcomes::RIPPLE),
        picture: Some(Picture::Notches),
        what: "The voices against the dry sound, one faded into the other in a straight line. At half of each the notches of one voice are deepest.",
        listen: "Without the dry sound, one voice is a vibrato and no chorus; several beat against each other alone.",
        look: "The depth of the notches.",
        mistake: "Turning it all the way up to hear more of it. The dry sound is what the voices beat against.",
        usual: &[Usual { value: 0.5, purpose: "the fullest" }, Usual { value: 0.25, purpose: "a hint" }],
        ..MIX
    },
    pictures: &[
        Picture::Swing,
        Picture::Notches,
        Picture::DelayAndPitch,
        Picture::Sidebands,
        Picture::Traces,
        Picture::HeldWave,
        Picture::ModulationSpectrum,
        Picture::OverTime,
        Picture::Spectrogram,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            BLOCK,
            Block { label: "Voices", params: &["delay_ms", "depth_ms", "voices", "feedback"], beside: false },
            Block { label: "Tone", params: &["tone_hz", "width"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
        ],
    },
    build: |plan| Box::new(Swayed::<8>::new(plan.setup, plan.values, sway)),
    form: |_, _| 0,
    idle: |_, _| None,
    remark: |values, _| sway(values).rests_at_shortest(),
    abilities: &[
        Ability::Swings(|values| sway(values).swing),
        Ability::AtMoment(|values, moment, freqs_hz| of_delays(&sway(values), moment, freqs_hz)),
        Ability::Delays(Delays {
            sway,
            first_alone: &[("voices", 1.0), ("width", 0.0), ("feedback", 0.0), ("tone_hz", OPEN_HZ)],
        }),
    ],
    sounds: &[],
    holds: &[],
    order: &[
        Step {
            param: "rate_hz",
            plain: &[("voices", 1.0), ("width", 0.0), ("depth_ms", 2.0), ("delay_ms", 10.0)],
        },
        Step {
            param: "depth_ms",
            plain: &[("voices", 1.0), ("width", 0.0), ("rate_hz", 0.5), ("delay_ms", 10.0)],
        },
        Step {
            param: "delay_ms",
            plain: &[("voices", 1.0), ("width", 0.0), ("rate_hz", 0.5), ("depth_ms", 2.0)],
        },
        Step { param: "voices", plain: &[("width", 0.0)] },
        Step { param: "width", plain: &[] },
        Step { param: "apart_deg", plain: PLAIN },
        Step { param: "feedback", plain: PLAIN },
        Step { param: "tone_hz", plain: &[] },
        Step { param: "edge", plain: PLAIN },
    ],
    begins: &[("rate_hz", 0.8), ("depth_ms", 2.0)],
    starting: &[
        StartingPoint {
            name: "A second player",
            purpose: "One voice, slow and shallow: as if two played the same part. Listen to a held note: it lives without being out of tune.",
            values: &[
                ("voices", 1.0),
                ("width", 0.0),
                ("rate_hz", 0.4),
                ("depth_ms", 1.2),
                ("delay_ms", 16.0),
            ],
            mix: 0.4,
        },
        StartingPoint {
            name: "Wide pad",
            purpose: "Four voices around the head under a held chord.",
            values: &[
                ("voices", 4.0),
                ("rate_hz", 0.3),
                ("depth_ms", 2.5),
                ("delay_ms", 18.0),
                ("apart_deg", 90.0),
                ("tone_hz", 9000.0),
            ],
            mix: 0.5,
        },
        StartingPoint {
            name: "Shimmer",
            purpose: "Six fast and shallow voices over bright strings. They blur the attack a little and the pitch hardly.",
            values: &[("voices", 6.0), ("rate_hz", 3.0), ("depth_ms", 0.25), ("delay_ms", 7.0)],
            mix: 0.45,
        },
    ],
};
