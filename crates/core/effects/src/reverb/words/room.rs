//! What people reach for, what gets in and when it comes: decay, pre-delay, size, width, damping, the cuts ahead.

use crate::reverb::limits::{MOST_PREDELAY_MS, MOST_SIZE_M};
use crate::tone::CUT_OFF_HZ;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{self as catalogue, ActsWith, NOTES, Param, Picture, Scale, Unit, Usual};

/// Time to fall by 60 dB, s.
pub const DECAY_S: Param = Param {
    label: "Decay",
    group: "Room",
    unit: Unit::FineS,
    min: 0.1,
    max: 60.0,
    default: 1.8,
    scale: Scale::Log,
    outcome: Some(outcomes::T30),
    picture: Some(Picture::Decay),
    what: "How long the tail takes to fall by 60 dB, between the lows and the highs.",
    listen: "Set it so that the tail is nearly gone when the next hit comes, then try twice as long.",
    look: "The slope of the decay curve: twice as long is half as steep.",
    mistake: "Making it long because it is hardly heard. That is a matter of the mix.",
    usual: &[
        Usual { value: 0.4, purpose: "a drum room" },
        Usual { value: 1.8, purpose: "a voice" },
        Usual { value: 6.0, purpose: "a pad" },
    ],
    ..Param::BLANK
};

/// Time between the sound and its reverb, ms.
pub const PREDELAY_MS: Param = Param {
    label: "Pre-delay",
    group: "Room",
    acts_with: Some(ActsWith { param: "predelay_note", from: 0.0, to: 0.0 }),
    unit: Unit::DelayMs,
    max: MOST_PREDELAY_MS,
    default: 10.0,
    scale: Scale::SoftLog { knee: 10.0 },
    outcome: Some(outcomes::PREDELAY),
    picture: Some(Picture::FirstReflections),
    what: "How much later the reverb begins than the sound: 10 ms are a way of 3.4 m.",
    listen: "The first crack of a hit comes clear of the reverb; from some 50 ms on, reverb is an answer of its own.",
    look: "The gap between the direct sound and what follows.",
    mistake: "Making a room larger with it alone. The ear takes the gap for the distance of the nearest wall.",
    usual: &[
        Usual { value: 10.0, purpose: "keeps an attack clear" },
        Usual { value: 30.0, purpose: "a voice in front of its room" },
    ],
    ..Param::BLANK
};

/// Mean way between two reflections, m.
pub const SIZE_M: Param = Param {
    label: "Size",
    group: "Room",
    unit: Unit::M,
    min: 1.0,
    max: MOST_SIZE_M,
    default: 8.0,
    scale: Scale::Log,
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "The mean way between two reflections of the late reverb. The decay stays as it is set.",
    listen: "Small is dense at once and rings like metal; large lets single reflections be heard first.",
    look: "How soon the density reaches that of noise, and how many modes share an octave.",
    mistake: "Taking size for decay. A small room can ring for long, a large one can be dead.",
    usual: &[
        Usual { value: 2.5, purpose: "a small room" },
        Usual { value: 8.0, purpose: "a room" },
        Usual { value: 20.0, purpose: "a hall" },
    ],
    ..Param::BLANK
};

/// Width of the wet sound: 0 mono, 1 stereo, more is wider.
pub const WIDTH: Param = Param {
    label: "Width",
    group: "Room",
    unit: Unit::Percent,
    max: 1.5,
    default: 1.0,
    outcome: Some(outcomes::CORRELATION),
    picture: Some(Picture::Correlation),
    what: "How far the reverb spreads, and the reverb alone: the dry sound is as wide as it was.",
    listen: "Narrow moves it away, behind the sound; wide puts it around the listener.",
    look: "The correlation of left and right: 1 in mono, 0 at 100 %, under 0 beyond.",
    mistake: "Going beyond 100 % without listening in mono: what is added there is gone.",
    usual: &[Usual { value: 0.0, purpose: "mono" }, Usual { value: 1.0, purpose: "stereo" }],
    ..Param::BLANK
};

/// Decay at the top, as a share of the decay.
pub const HIGH_DECAY: Param = Param {
    label: "Highs\u{2019} decay",
    group: "Room",
    unit: Unit::Percent,
    min: 0.05,
    max: 1.0,
    default: 0.4,
    scale: Scale::Log,
    outcome: Some(outcomes::T30_AT_8K),
    picture: Some(Picture::DecayByOctave),
    what: "Damping: the decay at the top of the range, as a share of the decay. Less is more damping.",
    listen: "The tail gets darker while it goes on; its beginning stays as bright as it was.",
    look: "The decay times of the upper octaves come down.",
    mistake: "Cutting the highs of the reverb instead. A cut takes them from the first moment on, damping lets them die sooner.",
    usual: &[
        Usual { value: 0.25, purpose: "dark, with cloth and people" },
        Usual { value: 0.5, purpose: "a usual room" },
        Usual { value: 1.0, purpose: "stone and tiles" },
    ],
    ..Param::BLANK
};

/// Where half of the way to the top is gone, Hz.
pub const HIGH_FROM_HZ: Param = Param {
    label: "Highs from",
    group: "Damping",
    unit: Unit::Hz,
    min: 500.0,
    max: 16_000.0,
    default: 4000.0,
    scale: Scale::Log,
    outcome: Some(outcomes::T30_AT_8K),
    picture: Some(Picture::DecayByOctave),
    what: "The frequency at which the fall is half way between that in the middle and that at the top.",
    listen: "Low makes the whole tail dull, high takes the fizz only.",
    look: "Where the decay times begin to come down.",
    mistake: "Expecting an edge. The decay goes over within three octaves.",
    usual: &[Usual { value: 4000.0, purpose: "a usual room" }],
    ..Param::BLANK
};

/// Decay of the lows, as a multiple of the decay.
pub const LOW_DECAY: Param = Param {
    label: "Lows\u{2019} decay",
    group: "Damping",
    unit: Unit::Percent,
    min: 0.25,
    max: 4.0,
    default: 1.0,
    scale: Scale::Log,
    outcome: Some(outcomes::T30_AT_125),
    picture: Some(Picture::DecayByOctave),
    what: "How long the lows take, against the decay in the middle.",
    listen: "Long is warm, then muddy; short keeps a bass drum out of the reverb.",
    look: "The decay times of the lower octaves.",
    mistake: "Taking boominess for too much bass in the sound. Often only its tail is too long.",
    usual: &[Usual { value: 0.5, purpose: "drums" }, Usual { value: 1.2, purpose: "a warm hall" }],
    ..Param::BLANK
};

/// Where half of the way to the bottom is gone, Hz.
pub const LOW_SPLIT_HZ: Param = Param {
    label: "Lows up to",
    group: "Damping",
    unit: Unit::Hz,
    min: 50.0,
    max: 2000.0,
    default: 250.0,
    scale: Scale::Log,
    outcome: Some(outcomes::T30_AT_125),
    picture: Some(Picture::DecayByOctave),
    what: "The frequency at which the fall is half way between that at the bottom and that in the middle.",
    listen: "High takes the body of voices into the change, low the boom only.",
    look: "Where the decay times leave their middle value.",
    mistake: "Moving it while the decay of the lows is at 100 %. Then it does nothing.",
    usual: &[
        Usual { value: 250.0, purpose: "the boom" },
        Usual { value: 1000.0, purpose: "all that is warm" },
    ],
    ..Param::BLANK
};

/// How far the sides are mixed before the reverb, 0 to 1.
pub const CROSSFEED: Param = Param {
    label: "Crossfeed",
    group: "In",
    unit: Unit::Percent,
    default: 0.5,
    outcome: Some(outcomes::CORRELATION),
    picture: Some(Picture::Correlation),
    what: "How far the two sides are mixed ahead of the reverb and in it: at 0 % each side keeps its own, at 100 % the reverb gets mono.",
    listen: "With a sound on the left, whether its reverb comes from the left or from everywhere.",
    look: "The balance of the tail against that of the sound.",
    mistake: "Taking it for the width. That is about what comes out, this about what goes in.",
    usual: &[Usual { value: 0.0, purpose: "two rooms" }, Usual { value: 0.5, purpose: "one room" }],
    ..Param::BLANK
};

/// Low cut ahead of the reverb, Hz; off at 20.
pub const IN_LOW_CUT_HZ: Param = Param {
    label: "Low cut, in",
    group: "In",
    unit: Unit::Hz,
    min: CUT_OFF_HZ.0,
    max: 2000.0,
    default: 20.0,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "What lies under it never gets into the reverb. 12 dB per octave; off at 20 Hz.",
    listen: "A bass drum no longer sets off the room.",
    look: "The lows are missing from the first moment on, and fall as fast as before.",
    mistake: "Expecting a shorter decay of the lows. What gets in still takes its time.",
    usual: &[Usual { value: 200.0, purpose: "keeps lows clear" }],
    ..Param::BLANK
};

/// High cut ahead of the reverb, Hz; off at 20,000.
pub const IN_HIGH_CUT_HZ: Param = Param {
    label: "High cut, in",
    group: "In",
    unit: Unit::Hz,
    min: 200.0,
    max: CUT_OFF_HZ.1,
    default: CUT_OFF_HZ.1,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "What lies over it never gets into the reverb. 12 dB per octave; off at 20 kHz.",
    listen: "Sibilants and cymbals stay dry.",
    look: "The highs are missing from the first moment on.",
    mistake: "Taking it for damping: it makes the tail dark, but as dark at its beginning as at its end.",
    usual: &[Usual { value: 6000.0, purpose: "keeps sibilants dry" }],
    ..Param::BLANK
};

/// What is pre-delayed: the late part, or both.
pub const PREDELAY_ON: Param = Param {
    label: "Pre-delay of",
    group: "Pre-delay",
    choices: &["the late part", "both parts"],
    outcome: Some(outcomes::FIRST_REFLECTION),
    picture: Some(Picture::FirstReflections),
    what: "Whether the early reflections wait for the pre-delay as well, or only the late reverb does.",
    listen: "With the late part alone, the early reflections stay with the sound and it does not come loose.",
    look: "The early reflections move with the pre-delay, or stay.",
    mistake: "Wondering why a long pre-delay leaves no gap: the early reflections fill it.",
    usual: &[Usual { value: 0.0, purpose: "a room around the sound" }],
    ..Param::BLANK
};

/// The pre-delay as a note, by its place among the choices.
pub const PREDELAY_NOTE: Param = Param {
    label: "Pre-delay as a note",
    group: "Pre-delay",
    choices: NOTES.split_at(LONGEST_NOTE + 1).0,
    outcome: Some(outcomes::PREDELAY),
    picture: Some(Picture::FirstReflections),
    what: "A note value at the tempo instead of milliseconds: the reverb begins in time. It waits for 500 ms at most.",
    listen: "A short note hides in the groove: the reverb seems to answer, and the beat stays clear.",
    look: "The gap between the direct sound and what follows goes with the tempo.",
    mistake: "Taking a note that ends on the next hit: there, the reverb makes it blurred.",
    usual: &[
        Usual { value: 0.0, purpose: "in milliseconds" },
        Usual { value: 1.0, purpose: "a voice, in time" },
    ],
    ..Param::BLANK
};

/// The longest note of a pre-delay: a quarter.
const LONGEST_NOTE: usize = 12;

/// The tempo of the bench, beats per minute.
pub const TEMPO_BPM: Param = Param {
    group: "Pre-delay",
    acts_with: Some(ActsWith::at_least("predelay_note", 1.0)),
    outcome: Some(outcomes::PREDELAY),
    picture: Some(Picture::FirstReflections),
    what: "Beats per minute: one tempo for the whole bench. A source that has one brings it along.",
    listen: "The answer of the reverb stays in time, or comes late.",
    look: "The gap shrinks as the tempo rises.",
    mistake: "Setting notes without looking whether this is the tempo of the track.",
    usual: &[Usual { value: 120.0, purpose: "two beats in a second" }],
    ..catalogue::TEMPO
};
