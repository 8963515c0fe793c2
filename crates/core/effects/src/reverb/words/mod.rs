//! The words of the screen for everything that a reverb can be set to.

pub mod early;
pub mod late;
pub mod out;
pub mod room;

use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{Param, Picture, Usual};

/// A seed, on which both patterns lay their own words.
const SEED: Param = Param {
    label: "Seed",
    max: 9999.0,
    default: 1.0,
    step: 1.0,
    outcome: Some(outcomes::COLOURATION),
    picture: Some(Picture::Impulse),
    what: "Which of the random patterns is used. The same seed always gives the same sound.",
    listen: "Another room of the same kind: the same size and decay, another grain.",
    look: "The single reflections stand elsewhere, the curves stay where they are.",
    mistake: "Taking a good seed for a good setting. If only one seed sounds well, something else is wrong.",
    usual: &[Usual { value: 1.0, purpose: "the first" }],
    ..Param::BLANK
};
