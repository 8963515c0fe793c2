//! The words of the oscillator: every effect that moves has the same parameters for it, under the same names.

use crate::OFF_ON;
use clear_bend_catalogue::{
    self as catalogue, ActsWith, Linked, NOTES, Outcome, Param, Picture, Scale, Unit, Usual, outcomes,
};

const GROUP: &str = "Oscillator";

/// Cycles per second, where no note is chosen.
pub const RATE_HZ: Param = Param {
    linked: Linked::Same,
    label: "Rate",
    group: "Motion",
    acts_with: Some(ActsWith { param: "rate_note", from: 0.0, to: 0.0 }),
    unit: Unit::Hz,
    min: 0.01,
    max: 20.0,
    default: 0.5,
    scale: Scale::Log,
    outcome: Some(outcomes::SWING_RATE),
    picture: Some(Picture::Swing),
    what: "How often a second it goes through its cycle.",
    listen: "Under 1 Hz one follows the way up and down; over 5 Hz it becomes a tremble, and then a roughness.",
    look: "How many cycles fit into the passage.",
    mistake: "Making it fast to make it strong. That is the depth; for the pitch both multiply.",
    usual: &[
        Usual { value: 0.25, purpose: "a slow sweep" },
        Usual { value: 1.0, purpose: "thickening" },
        Usual { value: 5.5, purpose: "a singer\u{2019}s vibrato" },
    ],
    ..Param::BLANK
};

/// The cycle as a note, by its place among the choices.
pub const RATE_NOTE: Param = Param {
    linked: Linked::Same,
    label: "Cycle as a note",
    group: GROUP,
    choices: NOTES,
    outcome: Some(outcomes::SWING_RATE),
    picture: Some(Picture::Swing),
    what: "One cycle lasts as long as this note at the tempo, instead of the rate.",
    listen: "The movement falls in with the beat, and comes back to the same place with every bar.",
    look: "The cycles stand on the beats.",
    mistake: "Taking a note whose cycle does not fit into the loop: at the seam it has to begin anew.",
    usual: &[
        Usual { value: 0.0, purpose: "by its rate" },
        Usual { value: 17.0, purpose: "a sweep in a bar" },
    ],
    ..Param::BLANK
};

/// The tempo of the bench, beats per minute.
pub const TEMPO_BPM: Param = Param {
    group: GROUP,
    acts_with: Some(ActsWith::at_least("rate_note", 1.0)),
    outcome: Some(outcomes::SWING_RATE),
    picture: Some(Picture::Swing),
    what: "Beats per minute: one tempo for the whole bench. A source that has one brings it along.",
    listen: "Whether the movement stays with the beat.",
    look: "The cycles grow shorter as the tempo rises.",
    mistake: "Setting notes without looking whether this is the tempo of the track.",
    usual: &[Usual { value: 120.0, purpose: "two beats in a second" }],
    ..catalogue::TEMPO
};

/// Where the top of the swing lies in its cycle.
pub const LEAN: Param = Param {
    linked: Linked::Same,
    label: "Lean",
    group: GROUP,
    unit: Unit::Percent,
    min: -1.0,
    max: 1.0,
    outcome: Some(outcomes::SWING_RISE),
    picture: Some(Picture::Swing),
    what: "Where the top lies: in the middle of the cycle, or towards one end of it, so that it rises slowly and falls at once, or the reverse.",
    listen: "Evenly to and fro, or a slow way up and a fall.",
    look: "The swing leans over to one side.",
    mistake: "Leaning it fully where it moves a delay: the fall is heard as a jump of the pitch.",
    usual: &[
        Usual { value: -1.0, purpose: "a saw that falls" },
        Usual { value: 0.0, purpose: "even" },
        Usual { value: 1.0, purpose: "a saw that rises" },
    ],
    ..Param::BLANK
};

/// From round over straight to steep.
pub const EDGE: Param = Param {
    linked: Linked::Same,
    label: "Edge",
    group: GROUP,
    unit: Unit::Percent,
    outcome: Some(outcomes::SWING_EDGE),
    picture: Some(Picture::Swing),
    what: "From a round swing at 0 % over straight lines at 33 % to steep edges at 100 %. An edge never takes less than 3 ms, so that it does not click.",
    listen: "Round lingers at its ends, straight moves evenly, steep switches between two states.",
    look: "The corners of the swing.",
    mistake: "Steep edges on a delay: what is wanted there is another effect, that of two places in turn.",
    usual: &[
        Usual { value: 0.0, purpose: "a sine" },
        Usual { value: 0.33, purpose: "a triangle" },
        Usual { value: 1.0, purpose: "a square" },
    ],
    ..Param::BLANK
};

/// Share of chance.
pub const RANDOM: Param = Param {
    linked: Linked::Same,
    label: "Chance",
    group: GROUP,
    unit: Unit::Percent,
    outcome: Some(outcomes::SWING_CHANCE),
    picture: Some(Picture::Swing),
    what: "How much of the swing is chance: with every cycle it goes to another place, smoothly, or in steps with steep edges.",
    listen: "Whether one knows what comes next.",
    look: "No two cycles are alike any more.",
    mistake: "Expecting another pattern with every play. The seed decides it, and the place in the passage.",
    usual: &[Usual { value: 0.0, purpose: "always alike" }, Usual { value: 1.0, purpose: "chance alone" }],
    ..Param::BLANK
};

/// What chance is drawn from.
pub const SEED: Param = Param {
    linked: Linked::Same,
    label: "Seed",
    group: GROUP,
    acts_with: Some(ActsWith::at_least("random", 0.001)),
    max: 9999.0,
    default: 1.0,
    step: 1.0,
    outcome: Some(outcomes::SWING_CHANCE),
    picture: Some(Picture::Swing),
    what: "What the random places are drawn from: the same seed gives the same movement again.",
    listen: "Another movement of the same kind.",
    look: "Another line of the same kind.",
    mistake: "Looking for a meaning in it. It is a number to come back by.",
    usual: &[Usual { value: 1.0, purpose: "any" }],
    ..Param::BLANK
};

/// Where the cycle is when the passage begins, degrees.
pub const START_DEG: Param = Param {
    linked: Linked::Along,
    label: "Start",
    group: GROUP,
    acts_with: Some(ActsWith { param: "hold", from: 0.0, to: 0.0 }),
    unit: Unit::Degrees,
    max: 360.0,
    step: 1.0,
    outcome: Some(outcomes::SWING_START),
    picture: Some(Picture::Swing),
    what: "Where in its cycle the movement is when the passage begins. The same place of the loop always sounds the same.",
    listen: "What the first beat gets: the top of the movement, or its bottom.",
    look: "The swing is moved along the passage.",
    mistake: "Expecting it to matter after a while. It only says where the cycle begins.",
    usual: &[
        Usual { value: 0.0, purpose: "in the middle, on the way up" },
        Usual { value: 90.0, purpose: "at the top" },
    ],
    ..Param::BLANK
};

/// How far the right side is ahead of the left one, degrees.
pub const APART_DEG: Param = Param {
    label: "Sides apart",
    group: "Motion",
    unit: Unit::Degrees,
    max: 360.0,
    step: 1.0,
    outcome: Some(outcomes::SWING_APART),
    picture: Some(Picture::Swing),
    what: "How far the right side is ahead of the left one in the cycle: at 0 they move together, at 180 against each other.",
    listen: "From one movement in the middle to one that goes round the head.",
    look: "The swings of left and right come apart.",
    mistake: "Not listening in mono: what moves against itself there may stand still.",
    usual: &[
        Usual { value: 0.0, purpose: "together" },
        Usual { value: 90.0, purpose: "wide" },
        Usual { value: 180.0, purpose: "against each other" },
    ],
    ..Param::BLANK
};

/// Whether it is held still.
pub const HOLD: Param = Param {
    linked: Linked::Same,
    label: "Hold still",
    group: "Motion",
    choices: OFF_ON,
    outcome: Some(outcomes::SWING_RATE),
    picture: Some(Picture::Swing),
    what: "Stops the movement at a place of its cycle, so that one can hear and see what the effect is there.",
    listen: "The colour of one moment, which goes by unheard while it moves.",
    look: "Everything stands still.",
    mistake: "Forgetting it: the effect then has a colour and no movement.",
    usual: &[Usual { value: 0.0, purpose: "moving" }, Usual { value: 1.0, purpose: "to look at it" }],
    ..Param::BLANK
};

/// The place of the cycle at which it is held, degrees.
pub const HOLD_DEG: Param = Param {
    linked: Linked::Along,
    label: "Held at",
    group: "Motion",
    acts_with: Some(ActsWith::at_least("hold", 1.0)),
    unit: Unit::Degrees,
    max: 360.0,
    step: 1.0,
    outcome: Some(outcomes::SWING_START),
    picture: Some(Picture::Swing),
    what: "The place of the cycle at which it is held: 0 in the middle on the way up, 90 at the top, 270 at the bottom.",
    listen: "Step through the cycle by the arrow keys while a sound is held.",
    look: "The mark on the swing, and what belongs to it in the other pictures.",
    mistake: "Taking it for the start. It counts only while it is held.",
    usual: &[
        Usual { value: 0.0, purpose: "the middle" },
        Usual { value: 90.0, purpose: "the top" },
        Usual { value: 270.0, purpose: "the bottom" },
    ],
    ..Param::BLANK
};

/// The same parameter, bending another outcome.
#[must_use]
pub const fn bending(param: Param, outcome: Outcome, picture: Picture) -> Param {
    Param { outcome: Some(outcome), picture: Some(picture), ..param }
}
