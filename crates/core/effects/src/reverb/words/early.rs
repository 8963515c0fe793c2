//! The early reflections.

use super::SEED;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};

/// How many early reflections there are on each side.
pub const EARLY_COUNT: Param = Param {
    label: "Reflections",
    group: "Early",
    max: 64.0,
    default: 18.0,
    step: 1.0,
    outcome: Some(outcomes::EARLY_COUNT),
    picture: Some(Picture::FirstReflections),
    what: "How many early reflections there are on each side. All of them together are as loud, however many they are.",
    listen: "A few are echoes, many are a colour.",
    look: "The lines between the direct sound and the late reverb.",
    mistake: "Taking many for large. How far apart they are says more about a room.",
    usual: &[Usual { value: 0.0, purpose: "late reverb alone" }, Usual { value: 18.0, purpose: "a room" }],
    ..Param::BLANK
};

/// Over what time they come, ms.
pub const EARLY_MS: Param = Param {
    label: "Time",
    group: "Early",
    unit: Unit::Ms,
    min: 5.0,
    max: 300.0,
    default: 70.0,
    scale: Scale::Log,
    outcome: Some(outcomes::EARLY_SPAN),
    picture: Some(Picture::FirstReflections),
    what: "Over what time the early reflections come.",
    listen: "Short is a small room or a box, long is a hall.",
    look: "Where the last of the lines stands.",
    mistake: "Making it longer than the pre-delay without wanting to: then early and late overlap.",
    usual: &[Usual { value: 20.0, purpose: "small" }, Usual { value: 80.0, purpose: "a hall" }],
    ..Param::BLANK
};

/// By how many times the pattern is stretched.
pub const EARLY_SIZE: Param = Param {
    label: "Own size",
    group: "Early",
    unit: Unit::Percent,
    min: 0.25,
    max: 2.0,
    default: 1.0,
    scale: Scale::Log,
    outcome: Some(outcomes::EARLY_SPAN),
    picture: Some(Picture::FirstReflections),
    what: "Stretches the whole pattern, with its first reflection, as a larger room would.",
    listen: "The sound moves away from its walls.",
    look: "All lines move out together.",
    mistake: "Forgetting it when the size of the late part is moved: the two are apart.",
    usual: &[Usual { value: 1.0, purpose: "as the time says" }],
    ..Param::BLANK
};

/// How far they crowd towards the end, 0 to 1.
pub const EARLY_CROWD: Param = Param {
    label: "Crowding",
    group: "Early",
    unit: Unit::Percent,
    default: 0.5,
    outcome: Some(outcomes::EARLY_MIDDLE),
    picture: Some(Picture::FirstReflections),
    what: "How much denser the reflections come towards the end: 0 % is even, 100 % grows with the square of time, as in a room.",
    listen: "Even ones flutter, crowded ones melt into the late reverb.",
    look: "The lines stand closer to the right.",
    mistake: "Judging it with many reflections. With eight it can be heard.",
    usual: &[Usual { value: 1.0, purpose: "as in a room" }],
    ..Param::BLANK
};

/// By how much the last one is quieter than the first, dB.
pub const EARLY_FADE_DB: Param = Param {
    label: "Fading",
    group: "Early",
    unit: Unit::Db,
    max: 40.0,
    default: 12.0,
    outcome: Some(outcomes::EARLY_MIDDLE),
    picture: Some(Picture::FirstReflections),
    what: "By how much the last early reflection is quieter than the first.",
    listen: "Little fading is a second sound behind the first, much is a colour of the attack.",
    look: "The line over the tips of the reflections.",
    mistake: "Making the early part quieter with it. Its energy stays, and moves to the front.",
    usual: &[Usual { value: 12.0, purpose: "a room" }],
    ..Param::BLANK
};

/// How far they swing left and right, 0 to 1.
pub const EARLY_SWING: Param = Param {
    label: "Swing",
    group: "Early",
    unit: Unit::Percent,
    default: 0.5,
    outcome: Some(outcomes::EARLY_BALANCE),
    picture: Some(Picture::FirstReflections),
    what: "How far single reflections swing to one side or the other.",
    listen: "None is a corridor, much is walls to both sides.",
    look: "The lines lean up, to the left, or down, to the right.",
    mistake: "Expecting it from a sound on one side without crossfeed: that side has nothing to swing to.",
    usual: &[Usual { value: 0.5, purpose: "a room" }],
    ..Param::BLANK
};

/// Smears them, 0 to 1.
pub const EARLY_DIFFUSION: Param = Param {
    label: "Smear",
    group: "Early",
    unit: Unit::Percent,
    default: 0.4,
    outcome: Some(outcomes::EARLY_CREST),
    picture: Some(Picture::FirstReflections),
    what: "Smears every reflection: from hard clicks, as from bare walls, to a soft cloud.",
    listen: "A hard hit: grain, or a breath.",
    look: "Lines turn into humps.",
    mistake: "Using much of it on sounds that are soft already. They only get duller.",
    usual: &[
        Usual { value: 0.0, purpose: "bare walls" },
        Usual { value: 0.6, purpose: "shelves and curtains" },
    ],
    ..Param::BLANK
};

/// Over what time that smears, ms.
pub const EARLY_DIFFUSION_MS: Param = Param {
    label: "Over",
    group: "Early",
    acts_with: Some(ActsWith::at_least("early_diffusion", 0.001)),
    unit: Unit::Ms,
    min: 1.0,
    max: 50.0,
    default: 8.0,
    scale: Scale::Log,
    outcome: Some(outcomes::EARLY_CREST),
    picture: Some(Picture::FirstReflections),
    what: "Over what time the all-passes of the early part smear.",
    listen: "Short is a grain on each reflection, long lets them run together.",
    look: "How wide the humps are.",
    mistake: "Making it longer than the reflections are apart, and then counting them.",
    usual: &[Usual { value: 8.0, purpose: "a room" }],
    ..Param::BLANK
};

/// Seed of the early pattern.
pub const EARLY_SEED: Param =
    Param { label: "Early seed", group: "Early", picture: Some(Picture::FirstReflections), ..SEED };
