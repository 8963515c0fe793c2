//! What a convolution reverb can be set to, in words.

use crate::tone::CUT_OFF_HZ;
use crate::{OFF_ON, OUTPUT};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};

/// The longest response that is convolved with; what comes later is left out, s.
pub const LONGEST_S: f64 = clear_bend_signals::LONGEST_RESPONSE_S;
/// The longest pre-delay, ms.
pub const MOST_PREDELAY_MS: f64 = 500.0;
/// At this, the response is not cut, s.
pub const UNCUT_S: f64 = LONGEST_S;

/// How the level of the response is set.
const LEVELS: &[&str] = &["as loud as dry", "as recorded"];

/// By how many times it is stretched.
const STRETCH: Param = Param {
    label: "Stretch",
    group: "Response",
    unit: Unit::Percent,
    min: 0.5,
    max: 2.0,
    default: 1.0,
    scale: Scale::Log,
    outcome: Some(outcomes::T30),
    picture: Some(Picture::Decay),
    what: "Makes the response longer or shorter: at 200 % it lasts twice as long. Its pitch goes along, or stays, as is set beside it.",
    listen: "With its pitch, longer gets darker and larger, shorter brighter and smaller: the same room built larger or smaller.",
    look: "With its pitch, the decay of every octave becomes that of the octave beside it; without, every octave keeps to itself.",
    mistake: "Expecting the tone to stay where the pitch goes along. What is stretched is the room with its tone.",
    usual: &[Usual { value: 0.8, purpose: "tighter" }, Usual { value: 1.0, purpose: "as it is" }],
    ..Param::BLANK
};

/// Whether pitch goes along with the stretch, by its place among the choices.
const STRETCHED: &[&str] = &["with its pitch", "pitch stays"];

/// What becomes of the pitch.
const PITCH: Param = Param {
    label: "Stretched",
    group: "Response",
    choices: STRETCHED,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Whether the stretch plays the response slower or faster, or lays short grains of it closer or further apart, which keeps its tone.",
    listen: "Where the pitch stays, only the length changes; single echoes of a sparse response are doubled or lost.",
    look: "The spectra over the decay: with its pitch they move sideways, without they stay where they are.",
    mistake: "Keeping the pitch of a cabinet or a spring. Grains tear their few echoes apart; they are made for dense rooms.",
    usual: &[
        Usual { value: 0.0, purpose: "a room built larger" },
        Usual { value: 1.0, purpose: "a longer tail, as bright" },
    ],
    ..Param::BLANK
};

/// How its level is set, by its place among the choices.
const LEVEL: Param = Param {
    label: "Response level",
    group: "Response",
    choices: LEVELS,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Impulse),
    what: "Whether pink noise comes out of the response as loud as it went in, before its tone and its width, or at the level with which the response was recorded.",
    listen: "Change the response: as loud as dry, only the room changes; as recorded, the level may jump.",
    look: "The level line: as recorded it may go far up or down.",
    mistake: "Taking the louder of two responses for the better one.",
    usual: &[Usual { value: 0.0, purpose: "rooms" }, Usual { value: 1.0, purpose: "speaker cabinets" }],
    ..Param::BLANK
};

/// Whether it is played backwards.
const REVERSE: Param = Param {
    label: "Reverse",
    group: "Response",
    choices: OFF_ON,
    outcome: Some(outcomes::CENTRE_TIME),
    picture: Some(Picture::Impulse),
    what: "Plays the response backwards, as much of it as is not cut.",
    listen: "The sound is answered by a swell that breaks off.",
    look: "The response climbs and ends with its loudest.",
    mistake: "Leaving a long one as it is: the swell comes as late as the response is long. Cut it first.",
    usual: &[Usual { value: 0.0, purpose: "off" }],
    ..Param::BLANK
};

/// How long it rises, ms; off at 0.
const RISE_MS: Param = Param {
    label: "Rise",
    group: "Envelope",
    unit: Unit::Ms,
    max: 2000.0,
    scale: Scale::SoftLog { knee: 20.0 },
    outcome: Some(outcomes::CENTRE_TIME),
    picture: Some(Picture::Impulse),
    what: "Fades the response in over this time. Off at 0.",
    listen: "The first reflections go, and what is left answers late and softly.",
    look: "The response begins with nothing.",
    mistake: "Taking it for pre-delay. That moves the whole response, this takes its beginning away.",
    usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 120.0, purpose: "behind a pad" }],
    ..Param::BLANK
};

/// When it is cut off, s.
const CUT_S: Param = Param {
    label: "Cut at",
    group: "Envelope",
    unit: Unit::FineS,
    min: 0.02,
    max: UNCUT_S,
    default: UNCUT_S,
    scale: Scale::Log,
    outcome: Some(outcomes::TAIL_LENGTH),
    picture: Some(Picture::Impulse),
    what: "Ends the response at this time.",
    listen: "A large room that stops short.",
    look: "The response breaks off, after its fall.",
    mistake: "Shortening a room with it. A cut room is still as large, only broken off.",
    usual: &[Usual { value: 0.3, purpose: "a drum" }, Usual { value: UNCUT_S, purpose: "off" }],
    ..Param::BLANK
};

/// How long it falls before its end, ms.
const FALL_MS: Param = Param {
    label: "Fall",
    group: "Envelope",
    unit: Unit::Ms,
    max: 4000.0,
    scale: Scale::SoftLog { knee: 50.0 },
    outcome: Some(outcomes::EDT),
    picture: Some(Picture::Decay),
    what: "Fades the response out over this time before its end, or before it is cut.",
    listen: "How hard the end is.",
    look: "The decay curve bends down towards the end.",
    mistake: "Using it on a response that has died away by then: nothing is left to fade.",
    usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 200.0, purpose: "a soft end" }],
    ..Param::BLANK
};

/// Time between the sound and its response, ms.
const PREDELAY_MS: Param = Param {
    label: "Pre-delay",
    group: "Room",
    unit: Unit::DelayMs,
    max: MOST_PREDELAY_MS,
    scale: Scale::SoftLog { knee: 10.0 },
    outcome: Some(outcomes::FIRST_REFLECTION),
    picture: Some(Picture::FirstReflections),
    what: "How much later the whole response begins: 10 ms are a way of 3.4 m.",
    listen: "The first crack of a hit comes clear of the room.",
    look: "The gap between the direct sound and what follows.",
    mistake: "Forgetting that many responses begin with a gap of their own.",
    usual: &[Usual { value: 0.0, purpose: "as recorded" }, Usual { value: 20.0, purpose: "a voice" }],
    ..Param::BLANK
};

/// Width of what comes out: 0 mono, 1 as it is, more is wider.
const WIDTH: Param = Param {
    label: "Width",
    group: "Room",
    unit: Unit::Percent,
    max: 1.5,
    default: 1.0,
    outcome: Some(outcomes::CORRELATION),
    picture: Some(Picture::Correlation),
    what: "How far the room spreads: 0 % is mono, 100 % as the response has it.",
    listen: "Narrow moves it away, behind the sound; wide puts it around the listener.",
    look: "The correlation of left and right.",
    mistake: "Widening a response of one channel: both sides are the same, and stay so.",
    usual: &[Usual { value: 0.0, purpose: "mono" }, Usual { value: 1.0, purpose: "as it is" }],
    ..Param::BLANK
};

/// Low cut ahead of it, Hz; off at 20.
const LOW_CUT_HZ: Param = Param {
    label: "Low cut",
    group: "Tone",
    unit: Unit::Hz,
    min: CUT_OFF_HZ.0,
    max: 1000.0,
    default: CUT_OFF_HZ.0,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Keeps the lows out of the room, 12 dB per octave; off at 20 Hz.",
    listen: "The bass stays dry and clear.",
    look: "The lower octaves are quieter and fall as before.",
    mistake: "Taking it for a shorter decay of the lows.",
    usual: &[
        Usual { value: CUT_OFF_HZ.0, purpose: "off" },
        Usual { value: 150.0, purpose: "clear of a bass" },
    ],
    ..Param::BLANK
};

/// High cut of what comes out, Hz; off at 20,000.
const HIGH_CUT_HZ: Param = Param {
    label: "High cut",
    group: "Tone",
    unit: Unit::Hz,
    min: 1000.0,
    max: CUT_OFF_HZ.1,
    default: CUT_OFF_HZ.1,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Takes the highs of the room away, 12 dB per octave; off at 20 kHz.",
    listen: "The room steps behind the sound.",
    look: "The highs are missing from the first moment on.",
    mistake: "Taking it for damping, which takes the highs away faster and faster.",
    usual: &[
        Usual { value: CUT_OFF_HZ.1, purpose: "off" },
        Usual { value: 8000.0, purpose: "behind a voice" },
    ],
    ..Param::BLANK
};

/// Tilt of what comes out, dB: by so much the highs are raised against the lows.
const TILT_DB: Param = Param {
    label: "Tilt",
    group: "Tone",
    unit: Unit::Db,
    min: -12.0,
    max: 12.0,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Tilts the room around 1 kHz: by so much the highs stand over the lows.",
    listen: "Dark behind a bright sound, or bright behind a dark one.",
    look: "All octaves begin elsewhere and fall as before.",
    mistake: "Looking for it in the decay times. Tone is not decay.",
    usual: &[Usual { value: -3.0, purpose: "behind a voice" }],
    ..Param::BLANK
};

settings! {
    /// The settings of a convolution reverb.
    pub struct Settings {
        /// By how many times the response is stretched.
        stretch: STRETCH,
        /// Whether its pitch stays, by its place among the choices.
        pitch: PITCH,
        /// How its level is set, by its place among the choices.
        level: LEVEL,
        /// Whether it is played backwards.
        reverse: REVERSE,
        /// How long it rises, ms; off at 0.
        rise_ms: RISE_MS,
        /// When it is cut off, s.
        cut_s: CUT_S,
        /// How long it falls before its end, ms.
        fall_ms: FALL_MS,
        /// Time between the sound and its response, ms.
        predelay_ms: PREDELAY_MS,
        /// Width of what comes out.
        width: WIDTH,
        /// Low cut ahead of it, Hz; off at 20.
        low_cut_hz: LOW_CUT_HZ,
        /// High cut of what comes out, Hz; off at 20,000.
        high_cut_hz: HIGH_CUT_HZ,
        /// Tilt of what comes out, dB.
        tilt_db: TILT_DB,
        /// Gain after the mix, dB.
        output_db: Param { group: "Output", ..OUTPUT },
    }
}
