//! The late reverb.

use crate::OFF_ON;
use crate::reverb::character;
use crate::reverb::limits::{MOST_DIFFUSION_MS, PLACES};
use crate::reverb::reading;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};

/// Place of the character among the choices.
pub const CHARACTER: Param = Param {
    label: "Character",
    group: "Late",
    choices: character::CHOICES,
    default: 1.0,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Density),
    what: "The kind of room or plate: how alike its ways are, how its highs begin and die.",
    listen: "Rooms grow dense step by step, plates are dense and bright from the start.",
    look: "How the density grows, and where the octaves begin.",
    mistake: "Choosing it last. It decides what all others sound like.",
    usual: &[Usual { value: 1.0, purpose: "most sounds" }, Usual { value: 4.0, purpose: "a voice" }],
    ..Param::BLANK
};

/// Place of the number of lines among the choices.
pub const LINES: Param = Param {
    label: "Delay lines",
    group: "Late",
    choices: &["4", "8", "16"],
    default: 2.0,
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "How many delay lines the late reverb is made of.",
    listen: "Four let single ones be heard and ring; sixteen are smooth.",
    look: "How soon the density reaches that of noise.",
    mistake: "Curing a ring of few lines with damping. More lines, or another size, cure it.",
    usual: &[Usual { value: 2.0, purpose: "smooth" }],
    ..Param::BLANK
};

/// Whether it is frozen.
pub const FREEZE: Param = Param {
    label: "Freeze",
    group: "Late",
    choices: OFF_ON,
    outcome: Some(outcomes::T30),
    picture: Some(Picture::Decay),
    what: "Shuts the input and takes all losses away: what is in the late reverb goes on for ever, at the same level. Switched on from the start, it takes in half a second first.",
    listen: "The chord that sounds now becomes a floor for everything after it.",
    look: "The decay curve turns flat.",
    mistake: "Freezing a moment in which nothing sounds.",
    usual: &[Usual { value: 0.0, purpose: "a room" }],
    ..Param::BLANK
};

/// How much is diffused, 0 to 1.
pub const DIFFUSION: Param = Param {
    label: "Diffusion",
    group: "Late",
    unit: Unit::Percent,
    default: 0.8,
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "How far every echo is spread: between the lines, and by all-passes.",
    listen: "None lets single echoes be heard for seconds, full is a cloud at once.",
    look: "The time at which the density reaches that of noise.",
    mistake: "Turning it up on drums only because it is smooth. Some grain makes a room a room.",
    usual: &[Usual { value: 0.8, purpose: "most sounds" }, Usual { value: 0.3, purpose: "grain" }],
    ..Param::BLANK
};

/// Where the all-passes sit.
pub const DIFFUSION_PLACE: Param = Param {
    label: "Place",
    group: "Late",
    choices: PLACES,
    acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "Where the all-passes sit. Ahead, they spread what enters once; inside, again with every round; behind, they spread all that comes out.",
    listen: "Ahead keeps the grain of the lines, inside grows smoother as it goes, behind is a soft cloud from the first moment.",
    look: "How the density grows after its first step.",
    mistake: "Expecting a shorter decay. All-passes lose nothing; but many over a long time ring on by themselves, and make a short decay longer.",
    usual: &[Usual { value: 0.0, purpose: "clear" }, Usual { value: 1.0, purpose: "thick" }],
    ..Param::BLANK
};

/// How many all-passes there are.
pub const ALL_PASSES: Param = Param {
    label: "All-passes",
    group: "Late",
    acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
    min: 1.0,
    max: 8.0,
    default: 6.0,
    step: 1.0,
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "How many all-passes make the diffusion, one after the other. Inside the loop, every line has one of them.",
    listen: "One or two flutter, many are smooth.",
    look: "The first step of the density.",
    mistake: "Adding more where the time is short. They then ring at the same place.",
    usual: &[Usual { value: 6.0, purpose: "smooth" }],
    ..Param::BLANK
};

/// Over what time they diffuse, ms.
pub const DIFFUSION_MS: Param = Param {
    label: "Over",
    group: "Late",
    acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
    unit: Unit::Ms,
    min: 2.0,
    max: MOST_DIFFUSION_MS,
    default: 25.0,
    scale: Scale::Log,
    outcome: Some(outcomes::DENSITY_TIME),
    picture: Some(Picture::Density),
    what: "The lengths of all all-passes together.",
    listen: "Short is a grain, long is a swell before the tail.",
    look: "How the level rises at the beginning.",
    mistake: "Making it longer than the lines: the beginning of the tail is then lost in it.",
    usual: &[Usual { value: 25.0, purpose: "a room" }],
    ..Param::BLANK
};

/// Rate at which the delays move, Hz.
pub const MOVE_HZ: Param = Param {
    label: "Movement",
    group: "Late",
    unit: Unit::Hz,
    acts_with: Some(ActsWith::at_least("move_ms", 0.001)),
    min: 0.05,
    max: 5.0,
    default: 0.6,
    scale: Scale::Log,
    outcome: Some(outcomes::WOBBLE),
    picture: Some(Picture::Impulse),
    what: "How often a second the delays of the lines sway.",
    listen: "Slow breathes, fast is a tremble of the pitch.",
    look: "The wobble of a tone's tail in cents.",
    mistake: "Adding movement to hide a ring on sounds that hold a pitch. They go out of tune.",
    usual: &[Usual { value: 0.6, purpose: "hardly heard" }],
    ..Param::BLANK
};

/// How far they move, ms.
pub const MOVE_MS: Param = Param {
    label: "Depth",
    group: "Late",
    unit: Unit::Ms,
    max: 3.0,
    default: 0.1,
    scale: Scale::SoftLog { knee: 0.1 },
    outcome: Some(outcomes::WOBBLE),
    picture: Some(Picture::Impulse),
    what: "How far the delays of the lines sway to either side.",
    listen: "Whether the tail of a held tone stays in tune.",
    look: "The wobble of a tone's tail in cents, and the highs, of which reading between samples takes some.",
    mistake: "Turning it up on a piano. It is for pads.",
    usual: &[Usual { value: 0.0, purpose: "exact" }, Usual { value: 0.1, purpose: "alive" }],
    ..Param::BLANK
};

/// How moving delays are read between samples.
pub const READING: Param = Param {
    label: "Reading",
    group: "Late",
    choices: reading::CHOICES,
    acts_with: Some(ActsWith::at_least("move_ms", 0.001)),
    default: 2.0,
    outcome: Some(outcomes::T30_AT_8K),
    picture: Some(Picture::DecayByOctave),
    what: "How a moving delay is read between two samples. The nearest one jumps, a straight line takes highs away with every round, a smooth curve only the very highest.",
    listen: "A sharp digital edge, a dull tail, or nothing.",
    look: "The decay of the upper octaves.",
    mistake: "Hearing the dull tail of a straight line as damping.",
    usual: &[Usual { value: 2.0, purpose: "clean" }],
    ..Param::BLANK
};

/// Seed of the late pattern.
pub const SEED: Param = Param { label: "Late seed", group: "Late", ..super::SEED };
