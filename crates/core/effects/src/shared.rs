//! What many effects share: the mix, the output gain, switches.

use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};

/// The choices of a switch.
pub const OFF_ON: &[&str] = &["off", "on"];

/// Identifier of a parameter which the path applies after the mix.
pub const OUTPUT_ID: &str = "output_db";

/// The output gain of a stage, after its mix.
pub const OUTPUT: Param = Param {
    label: "Output gain",
    unit: Unit::Db,
    min: -24.0,
    max: 24.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::OverTime),
    what: "A gain at the very end of the stage, after the mix: it moves the untouched part as well.",
    listen: "Only the loudness moves. With level match on, nothing.",
    look: "The level line moves sideways, peak and loudness by the same step.",
    mistake: "Thinking that it changes the reduction. Nothing behind the detector does.",
    usual: &[Usual { value: 0.0, purpose: "as it comes" }],
    ..Param::BLANK
};

/// The mix of a stage, on which effects lay their own words.
pub const MIX: Param = Param {
    id: "mix",
    label: "Mix",
    group: "Output",
    unit: Unit::Percent,
    default: 1.0,
    scale: Scale::Linear,
    outcome: Some(outcomes::CREST_CHANGE),
    picture: Some(Picture::OverTime),
    ..Param::BLANK
};
