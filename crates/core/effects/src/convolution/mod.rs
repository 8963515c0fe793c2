//! Convolution reverb: a sound answered by a recorded or made response.
//!
//! A sound gets in (`tone.rs` of all effects), waits, is convolved with the response as `shape.rs` makes it (without delay, see
//! `dsp/immediate.rs`), and leaves with a tone and a width. `loudness.rs` says how loud noise comes out.

mod loudness;
mod processor;
mod settings;
mod shape;
mod starting;

pub use processor::Convolution;
pub use settings::{LONGEST_S, Settings};

use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{Block, Diagram, Param, Picture, SoundSlot, Usual, outcomes};
use clear_bend_sound::audio::TRUE_STEREO;

/// The response.
pub const RESPONSE: SoundSlot = SoundSlot {
    id: "response",
    label: "Response",
    what: "the room, plate or cabinet that answers",
    without: "nothing: the sound passes",
    group: "Response",
    channels: TRUE_STEREO,
    whole: true,
    usual: Some("response-net-loft"),
};

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "convolution",
    label: "Convolution reverb",
    purpose: "Lets a sound be answered as a recorded place or device answers an impulse.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Room",
        default: 0.25,
        outcome: Some(outcomes::WET_SHARE),
        picture: Some(Picture::Impulse),
        what: "How much of the response is heard against the dry sound: at 100 %, the response alone, as on a send or for a cabinet. One is faded into the other in a straight line: at 25 % the dry sound stands at 75 %, 2.5 dB down.",
        listen: "Turn it up until the place is plainly heard, then back until it is only missed when it is off.",
        look: "The direct sound against all that follows.",
        mistake: "Mixing dry sound to a speaker cabinet: the sound is then heard past its speaker.",
        usual: &[
            Usual { value: 0.1, purpose: "hardly heard" },
            Usual { value: 0.25, purpose: "plainly heard" },
            Usual { value: 1.0, purpose: "on a send, or a cabinet" },
        ],
        ..MIX
    },
    pictures: &[
        Picture::Decay,
        Picture::DecayByOctave,
        Picture::Impulse,
        Picture::FirstReflections,
        Picture::Falling,
        Picture::FallingOverTime,
        Picture::UnderHits,
        Picture::Density,
        Picture::Correlation,
        Picture::OverTime,
        Picture::Spectrogram,
    ],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Cut", params: &["low_cut_hz"], beside: false },
            Block { label: "Wait", params: &["predelay_ms"], beside: false },
            Block { label: "Room", params: &["stretch", "pitch", "level", "reverse"], beside: false },
            Block { label: "Shape", params: &["rise_ms", "cut_s", "fall_ms"], beside: false },
            Block { label: "Tone", params: &["tilt_db", "high_cut_hz", "width"], beside: false },
            Block { label: "Out", params: &["mix", "output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Convolution::new(plan)),
    // A response that is made longer needs more room.
    form: |values, _| usize::from(Settings::from_values(values).stretch > 1.0),
    idle: |_, _| None,
    remark: |_, _| None,
    abilities: &[Ability::Rings],
    sounds: &[RESPONSE],
    holds: &[],
    order: starting::ORDER,
    begins: &[],
    starting: starting::POINTS,
};
