//! What comes out: envelope, tail rate, levels, tone, and what is heard.

use crate::OUTPUT;
use crate::reverb::limits::{FULL_BITS, FULL_RATE_HZ, HEARD, SILENT_DB};
use crate::tone::CUT_OFF_HZ;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};

/// A level, on which the parts lay their own words.
const LEVEL: Param = Param {
    group: "Out",
    unit: Unit::Db,
    min: SILENT_DB,
    max: 12.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Impulse),
    ..Param::BLANK
};

/// Rise of the wet sound after an onset, ms; off at 0.
pub const RISE_MS: Param = Param {
    label: "Rise",
    group: "Envelope",
    unit: Unit::Ms,
    max: 2000.0,
    scale: Scale::SoftLog { knee: 20.0 },
    outcome: Some(outcomes::CENTRE_TIME),
    picture: Some(Picture::Impulse),
    what: "How long the reverb takes to come up after an onset. Off at 0.",
    listen: "A tail that comes late, as if played backwards.",
    look: "The level after the direct sound climbs before it falls.",
    mistake: "Taking it for pre-delay. The reverb begins at once, only quietly.",
    usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 300.0, purpose: "a swell" }],
    ..Param::BLANK
};

/// When the wet sound has gone after an onset, ms; off at 0.
pub const FALL_MS: Param = Param {
    label: "Fall",
    group: "Envelope",
    unit: Unit::Ms,
    max: 4000.0,
    scale: Scale::SoftLog { knee: 50.0 },
    outcome: Some(outcomes::EDT),
    picture: Some(Picture::Decay),
    what: "When the reverb has gone after an onset, whatever its decay is. Off at 0.",
    listen: "A big sound that stops short.",
    look: "The decay curve breaks off.",
    mistake: "Shortening the decay for that. A short decay is a small sound, a tail that is cut is a big one.",
    usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 250.0, purpose: "a drum" }],
    ..Param::BLANK
};

/// Rate at which the tail is made, Hz; full at the top.
pub const TAIL_RATE_HZ: Param = Param {
    label: "Tail rate",
    group: "Tail rate",
    unit: Unit::Hz,
    min: 4000.0,
    max: FULL_RATE_HZ,
    default: FULL_RATE_HZ,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "At how many samples a second the late reverb comes out; each stands until the next. At 48 kHz it is off.",
    listen: "Coarse, with tones above that were never played.",
    look: "What lies over half of it is mirrored.",
    mistake: "Expecting dullness alone. What is mirrored is bright.",
    usual: &[Usual { value: FULL_RATE_HZ, purpose: "off" }, Usual { value: 11_000.0, purpose: "coarse" }],
    ..Param::BLANK
};

/// Word length of the tail, bits; full at the top.
pub const TAIL_BITS: Param = Param {
    label: "Word length",
    group: "Tail rate",
    unit: Unit::Bits,
    min: 4.0,
    max: FULL_BITS,
    default: FULL_BITS,
    outcome: Some(outcomes::TAIL_LENGTH),
    picture: Some(Picture::Decay),
    what: "In how many bits the late reverb is written. What is smaller than half a step is silence. At 24 it is off.",
    listen: "A tail that gets rough before it ends, and ends too soon.",
    look: "Steps in the quiet part of the decay.",
    mistake: "Setting it by a loud sound. It is about what is quiet.",
    usual: &[Usual { value: FULL_BITS, purpose: "off" }, Usual { value: 8.0, purpose: "coarse" }],
    ..Param::BLANK
};

/// Level of the dry sound beside the mix, dB.
pub const DRY_DB: Param = Param {
    label: "Dry",
    default: SILENT_DB,
    what: "Level of the dry sound within the reverb, beside the mix; silent at the bottom. With the mix at 100 %, the four levels rule.",
    listen: "The sound in front of its room.",
    look: "The first line of the impulse response.",
    mistake: "Using it together with a mix under 100 %. The dry sound is then there twice.",
    usual: &[Usual { value: SILENT_DB, purpose: "off: the mix decides" }],
    ..LEVEL
};

/// Level of the pre-delayed sound, dB.
pub const PREDELAYED_DB: Param = Param {
    label: "Pre-delayed",
    default: SILENT_DB,
    what: "Level of the dry sound after its pre-delay, once; silent at the bottom.",
    listen: "A single echo.",
    look: "A line at the pre-delay.",
    mistake: "Leaving it on by accident: a short one colours like a comb.",
    usual: &[Usual { value: SILENT_DB, purpose: "off" }],
    ..LEVEL
};

/// Level of the early reflections, dB.
pub const EARLY_DB: Param = Param {
    label: "Early",
    default: -6.0,
    what: "Level of the early reflections; silent at the bottom.",
    listen: "More of it brings the sound closer to a wall, less of it leaves it in the middle of the room.",
    look: "The lines between the direct sound and the late reverb.",
    mistake: "Taking more early part for more room. It is more wall.",
    usual: &[Usual { value: -6.0, purpose: "a room" }],
    ..LEVEL
};

/// Level of the late reverb, dB.
pub const LATE_DB: Param = Param {
    label: "Late",
    default: 0.0,
    what: "Level of the late reverb; silent at the bottom.",
    listen: "Less of it leaves the early reflections: a sound in a place without a tail.",
    look: "The height of the tail.",
    mistake: "Taking level for length.",
    usual: &[Usual { value: 0.0, purpose: "a room" }],
    ..LEVEL
};

/// Tilt of the wet sound, dB: by so much the highs are raised against the lows.
pub const TILT_DB: Param = Param {
    label: "Tilt",
    group: "Tone",
    unit: Unit::Db,
    min: -12.0,
    max: 12.0,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Tilts the reverb around 1 kHz: by so much the highs stand over the lows.",
    listen: "Dark behind a bright sound, or bright behind a dark one.",
    look: "All octaves begin elsewhere and fall as before.",
    mistake: "Looking for it in the decay times. Tone is not decay.",
    usual: &[Usual { value: -3.0, purpose: "behind a voice" }],
    ..Param::BLANK
};

/// Gain of the lows of the wet sound, dB.
pub const LOW_SHELF_DB: Param = Param {
    label: "Low shelf",
    group: "Tone",
    unit: Unit::Db,
    min: -24.0,
    max: 12.0,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Raises or lowers the lows of the reverb.",
    listen: "Body, or room for a bass.",
    look: "The lower octaves begin elsewhere.",
    mistake: "Cutting here what should not have come in: the low cut ahead spares the lines.",
    usual: &[Usual { value: -6.0, purpose: "keeps lows clear" }],
    ..Param::BLANK
};

/// Its frequency, Hz.
pub const LOW_SHELF_HZ: Param = Param {
    label: "Low shelf at",
    group: "Tone",
    acts_with: None,
    unit: Unit::Hz,
    min: 50.0,
    max: 1000.0,
    default: 200.0,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Where the low shelf begins.",
    listen: "Boom or body.",
    look: "Which octaves move.",
    mistake: "Moving it while the shelf is at 0 dB.",
    usual: &[Usual { value: 200.0, purpose: "boom" }],
    ..Param::BLANK
};

/// Gain of the highs of the wet sound, dB.
pub const HIGH_SHELF_DB: Param = Param {
    label: "High shelf",
    group: "Tone",
    unit: Unit::Db,
    min: -24.0,
    max: 12.0,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Raises or lowers the highs of the reverb.",
    listen: "Air, or a veil.",
    look: "The upper octaves begin elsewhere and fall as before.",
    mistake: "Taking it for damping.",
    usual: &[Usual { value: -6.0, purpose: "behind a voice" }],
    ..Param::BLANK
};

/// Its frequency, Hz.
pub const HIGH_SHELF_HZ: Param = Param {
    label: "High shelf at",
    group: "Tone",
    unit: Unit::Hz,
    min: 1000.0,
    max: 12_000.0,
    default: 4000.0,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Where the high shelf begins.",
    listen: "Presence or air.",
    look: "Which octaves move.",
    mistake: "Moving it while the shelf is at 0 dB.",
    usual: &[Usual { value: 4000.0, purpose: "presence" }],
    ..Param::BLANK
};

/// High cut of the wet sound, Hz; off at 20,000.
pub const HIGH_CUT_HZ: Param = Param {
    label: "High cut, out",
    group: "Tone",
    unit: Unit::Hz,
    min: 1000.0,
    max: CUT_OFF_HZ.1,
    default: CUT_OFF_HZ.1,
    scale: Scale::Log,
    outcome: Some(outcomes::WET_CENTROID),
    picture: Some(Picture::Falling),
    what: "Takes the highs of the reverb away, 12 dB per octave; off at 20 kHz.",
    listen: "The reverb steps behind the sound.",
    look: "The highs are missing from the first moment on.",
    mistake: "Taking it for damping.",
    usual: &[Usual { value: 8000.0, purpose: "behind a voice" }],
    ..Param::BLANK
};

/// Which part is heard.
pub const HEAR: Param = Param {
    label: "Hear",
    group: "Hear",
    choices: HEARD,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Impulse),
    what: "Everything, or one part of the reverb alone: the pre-delayed sound, the early reflections, what enters the delay lines, or what leaves them.",
    listen: "Every part by itself, then all together.",
    look: "One part of the impulse response, and nothing else.",
    mistake: "Forgetting to go back to everything.",
    usual: &[Usual { value: 0.0, purpose: "everything" }],
    ..Param::BLANK
};

/// Gain after the mix, dB.
pub const OUTPUT_DB: Param = Param { group: "Hear", ..OUTPUT };
