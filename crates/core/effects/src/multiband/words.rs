//! The words of the parameters that every band has.

use super::{Param, Picture, Scale, Unit, Usual};
use clear_bend_catalogue::outcomes;

pub(super) const CROSSOVER: Param = Param {
    group: "Bands",
    unit: Unit::Hz,
    min: 40.0,
    max: 16_000.0,
    scale: Scale::Log,
    outcome: Some(outcomes::MEAN_REDUCTION),
    picture: Some(Picture::Bands),
    what: "Where two bands meet, 24 dB per octave to both sides. Crossovers that overtake each other are taken in rising order.",
    listen: "Hear one band alone and move it: what belongs together should stay in one band.",
    look: "The rows of gain: what moves in which band.",
    mistake: "Cutting through the middle of a voice. Its vowels and its consonants then get different gains.",
    usual: &[
        Usual { value: 150.0, purpose: "under it, bass and bass drum" },
        Usual { value: 2500.0, purpose: "over it, consonants and cymbals" },
    ],
    ..Param::BLANK
};

pub(super) const THRESHOLD: Param = Param {
    label: "Threshold",
    unit: Unit::Dbfs,
    min: -60.0,
    max: 0.0,
    default: -24.0,
    outcome: Some(outcomes::MEAN_REDUCTION),
    picture: Some(Picture::Bands),
    what: "The level of this band above which this band is turned down. The other bands do not count.",
    listen: "Lower it until this range stops jumping out.",
    look: "The gain of this band over time.",
    mistake: "Setting all bands alike. Levels fall from low to high in almost every sound.",
    usual: &[Usual { value: -24.0, purpose: "low bands; lower for high ones" }],
    ..Param::BLANK
};

pub(super) const RATIO: Param = Param {
    label: "Ratio",
    unit: Unit::Ratio,
    min: 1.0,
    max: f64::INFINITY,
    default: 2.0,
    scale: Scale::Slope,
    outcome: Some(outcomes::LARGEST_REDUCTION),
    picture: Some(Picture::Bands),
    what: "How many dB over the threshold are left as one, in this band.",
    listen: "Low ratios even a range out, high ones hold it at one level.",
    look: "How deep the gain of this band goes.",
    mistake: "High ratios in every band: the sound loses its own balance.",
    usual: &[
        Usual { value: 1.6, purpose: "whole pieces" },
        Usual { value: 4.0, purpose: "a bass that booms" },
    ],
    ..Param::BLANK
};

pub(super) const ATTACK: Param = Param {
    label: "Attack",
    unit: Unit::Ms,
    max: 500.0,
    scale: Scale::SoftLog { knee: 1.0 },
    outcome: Some(outcomes::TRANSIENT_CHANGE),
    picture: Some(Picture::Bands),
    what: "How long the gain of this band takes to come down: the time to 63 % of the way. Low bands need longer times than high ones.",
    listen: "The front of sounds in this range.",
    look: "The slope of the gain of this band when a sound begins.",
    mistake: "Short times in the lowest band: they bend single waves.",
    usual: &[Usual { value: 30.0, purpose: "low bands; shorter for high ones" }],
    ..Param::BLANK
};

pub(super) const RELEASE: Param = Param {
    label: "Release",
    unit: Unit::Ms,
    min: 1.0,
    max: 5000.0,
    scale: Scale::Log,
    outcome: Some(outcomes::LEFT_AT_NEXT_ONSET),
    picture: Some(Picture::Bands),
    what: "How long the gain of this band takes to come back: the time to 63 % of the way.",
    listen: "What comes up in this range between sounds.",
    look: "How far the gain of this band is back at the next sound.",
    mistake: "Very different releases in neighbouring bands: the balance sways after each hit.",
    usual: &[Usual { value: 120.0, purpose: "middle bands" }],
    ..Param::BLANK
};

pub(super) const GAIN: Param = Param {
    label: "Gain",
    unit: Unit::Db,
    min: -24.0,
    max: 24.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Bands),
    what: "A fixed gain of this band after its compression.",
    listen: "This range against the others: an equaliser as wide as the band.",
    look: "The level line, and the loudness in the table.",
    mistake: "Mixing with it. Give back what the band has lost, no more.",
    usual: &[Usual { value: 0.0, purpose: "to begin with" }],
    ..Param::BLANK
};
