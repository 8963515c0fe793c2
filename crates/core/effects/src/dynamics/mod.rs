//! What the effects share that move the gain with the level.
//!
//! All are feed-forward designs in the logarithmic domain (Giannoulis, Massberg, Reiss, "Digital Dynamic Range
//! Compressor Design", JAES 60(6), 2012): a [`Detector`] reads the level of the signal or of a key, a [`StaticCurve`]
//! says which gain it gets, a [`Timing`] takes its time, and the signal, late by the lookahead, is multiplied.

mod bands;
mod curve;
mod detector;
mod hearing;
mod rounder;
mod shaper;
mod timing;

pub use bands::Split;
pub use curve::{StaticCurve, lane_gain_db};
pub use detector::{Detector, KeyCuts};
pub use hearing::Hearing;
pub use rounder::Rounder;
pub use shaper::{WaveShaper, bent_tone_dbfs};
pub use timing::{Speed, Timing, Way};

use crate::OFF_ON;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};
use clear_bend_sound::dsp::{Ramp, linear_from_db};

/// Multiplies every channel by a gain in dB that may be moving, and leaves the gain in `drive_db`.
pub fn drive(io: &mut [&mut [f32]], gain_db: &mut Ramp, drive_db: &mut [f32]) {
    let passes = gain_db.rests_at(0.0);
    gain_db.fill(drive_db);
    if passes {
        return;
    }
    for channel in io {
        channel.iter_mut().zip(&*drive_db).for_each(|(x, db)| *x *= linear_from_db(*db));
    }
}

/// The parameter of what is heard.
pub const HEAR: Param = Param {
    label: "Hear",
    group: "Key",
    choices: hearing::CHOICES,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::OverTime),
    what: "What leaves: the result, what the detector hears (after its cuts), or what is taken out of the sound.",
    listen: "What is taken out shows by ear what the gain does. What the detector hears shows what it goes by.",
    look: "After becomes that signal, in every picture and every measure.",
    mistake: "Leaving it there. Files are written as it is heard, too.",
    usual: &[Usual { value: 0.0, purpose: "always, in the end" }],
    ..Param::BLANK
};

/// The parameter of the low cut of what the detector hears.
pub const KEY_LOW_CUT: Param = Param {
    label: "Key low cut",
    group: "Key",
    unit: Unit::Hz,
    min: KeyCuts::OFF.low_hz,
    max: 2000.0,
    default: KeyCuts::OFF.low_hz,
    scale: Scale::Log,
    outcome: Some(outcomes::MEAN_REDUCTION),
    picture: Some(Picture::OverTime),
    what: "Takes lows out of what the detector hears, 12 dB per octave; at 20 Hz it is off. The sound itself keeps them.",
    listen: "With the lows out of the key, a bass drum no longer pulls everything down.",
    look: "The gain no longer bends where only low sound is loud.",
    mistake: "Expecting it to cut the sound. Hear the key to hear what it cuts.",
    usual: &[
        Usual { value: 20.0, purpose: "off" },
        Usual { value: 120.0, purpose: "a whole piece with a bass drum" },
    ],
    ..Param::BLANK
};

/// The parameter of the high cut of what the detector hears.
pub const KEY_HIGH_CUT: Param = Param {
    label: "Key high cut",
    group: "Key",
    unit: Unit::Hz,
    min: 200.0,
    max: KeyCuts::OFF.high_hz,
    default: KeyCuts::OFF.high_hz,
    scale: Scale::Log,
    outcome: Some(outcomes::MEAN_REDUCTION),
    picture: Some(Picture::OverTime),
    what: "Takes highs out of what the detector hears, 12 dB per octave; at 20 kHz it is off. The sound itself keeps them.",
    listen: "The detector goes by drum and bass and lets bright sound through.",
    look: "The gain no longer bends where only bright sound is loud.",
    mistake: "Cutting so low that nothing is left to go by.",
    usual: &[
        Usual { value: 20_000.0, purpose: "off" },
        Usual { value: 200.0, purpose: "go by the bass drum in a whole kit" },
    ],
    ..Param::BLANK
};

/// The parameter: whether the output is rounded (1).
pub const ROUNDING: Param = Param {
    label: "Output rounding",
    group: "Output",
    choices: OFF_ON,
    outcome: Some(outcomes::CREST_CHANGE),
    picture: Some(Picture::OverTime),
    what: "Bends the wave where it passes a level, after the make-up gain: an edge for what the gain was too slow to catch.",
    listen: "A little grit on the loudest moments.",
    look: "The tops of the wave are flat or rounded.",
    mistake: "Judging it on quiet sound: under its level nothing happens.",
    usual: &[Usual { value: 0.0, purpose: "off" }],
    ..Param::BLANK
};

/// The parameter: level at which the output is rounded, dBFS.
pub const ROUNDING_LEVEL: Param = Param {
    label: "Rounding level",
    group: "Output",
    acts_with: Some(ActsWith::at_least("rounding", 1.0)),
    unit: Unit::Dbfs,
    min: -24.0,
    max: 0.0,
    outcome: Some(outcomes::PEAK_CHANGE),
    picture: Some(Picture::OverTime),
    what: "The level at which the wave is rounded, at eight times the rate: nothing passes it there. Back at the rate of the sound, samples do: by up to 4 dB on a tone and 5 dB on noise, with a sharp edge.",
    listen: "The lower it is, the more of the sound gets grit.",
    look: "The line at which the tops end.",
    mistake: "Using it as a limiter. It bends the wave itself and adds harmonics.",
    usual: &[Usual { value: 0.0, purpose: "full scale" }],
    ..Param::BLANK
};

/// The parameter: corner of the rounding, 0 very round to 1 a sharp edge.
pub const ROUNDING_CORNER: Param = Param {
    label: "Rounding corner",
    group: "Output",
    acts_with: Some(ActsWith::at_least("rounding", 1.0)),
    unit: Unit::Percent,
    default: 0.5,
    outcome: Some(outcomes::CREST_CHANGE),
    picture: Some(Picture::OverTime),
    what: "How the wave is bent: 0 % is very round and begins early, 100 % is a sharp edge at the level.",
    listen: "Round is warm and early, sharp is clean until it crackles.",
    look: "The shoulders of the wave.",
    mistake: "Thinking that sharp does more. It touches less of the wave, but with higher harmonics.",
    usual: &[Usual { value: 0.0, purpose: "soft" }, Usual { value: 1.0, purpose: "a clean edge" }],
    ..Param::BLANK
};

/// No reduction is taken as this much, in dB: far too little to change a sample, and enough to keep smoothers away
/// from denormal numbers.
pub const NONE_DB: f32 = -1e-12;
