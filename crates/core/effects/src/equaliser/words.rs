//! What the settings of an equaliser are, in words.

use crate::OFF_ON;
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::{Param, Picture, Scale, Unit, Usual};
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

/// The most bands.
pub const MOST_BANDS: usize = 24;

/// Phase of the whole.
pub const PHASE: Param = Param {
    id: "phase",
    label: "Phase",
    group: "All bands",
    choices: &["minimum", "linear", "balanced"],
    outcome: Some(outcomes::PRE_RINGING),
    picture: Some(Picture::Ringing),
    what: "How the curve is made. Minimum: at once, with the phase shift that belongs to the curve. Linear: no phase shift, but late, and half of the ringing comes before the sound. Balanced: half the shift, late, and less ringing before.",
    listen: "The start of a low note under a steep low cut: sharp with minimum phase, softened with linear.",
    look: "The impulse response: what lies left of its peak is heard before the sound.",
    mistake: "Taking linear phase as better in general. It trades phase shift for ringing before every attack, and for delay.",
    usual: &[
        Usual { value: 0.0, purpose: "nearly everything" },
        Usual { value: 1.0, purpose: "parts that are mixed with an untouched copy of themselves" },
    ],
    ..Param::BLANK
};

/// True shape or plain formula.
pub const FORMULA: Param = Param {
    id: "formula",
    label: "Shape at the top end",
    group: "All bands",
    choices: &["true", "plain formula"],
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::NearTop),
    what: "A digital filter has only half the sample rate to live in. The plain formula squeezes the curve in there, so bells and shelves near the top get too narrow; true keeps the shape of the analogue filter.",
    listen: "A wide bell at 12 kHz: with the plain formula, less air around it.",
    look: "The two curves drift apart towards half the sample rate.",
    mistake: "Comparing bands of two equalisers by their numbers, high up, without knowing which formula they use.",
    usual: &[Usual { value: 0.0, purpose: "always, except for comparing" }],
    ..Param::BLANK
};

/// How Q follows gain.
pub const Q_RULE: Param = Param {
    id: "q_rule",
    label: "Q follows gain",
    group: "All bands",
    choices: &["constant", "wider when gentle"],
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "Whether a bell keeps its Q at any gain, or is wider while its gain is small: a quarter of the Q near 0 dB, all of it from 12 dB on.",
    listen: "Small gains sound more natural when they are wide.",
    look: "The bell grows narrower while its gain is turned up.",
    mistake: "Looking for the reason of a changed width in the Q itself.",
    usual: &[Usual { value: 0.0, purpose: "cleaning up" }, Usual { value: 1.0, purpose: "shaping a tone" }],
    ..Param::BLANK
};

/// What is heard.
pub const HEAR: Param = Param {
    id: "hear",
    label: "Hear",
    group: "All bands",
    choices: &[
        "everything",
        "only the range of a band",
        "everything but its range",
        "a narrow boost at a band",
    ],
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "Everything as it leaves the equaliser, or only what lies in the range of one band, or all but that. The narrow boost is for finding a resonance: move the band and listen; all else is 12 dB quieter, so that nothing hurts.",
    listen: "What is in the range that you are about to turn down, and whether you would miss it.",
    look: "After becomes that range, in every picture and every measure.",
    mistake: "Leaving it there. Files are written as it is heard, too.",
    usual: &[Usual { value: 0.0, purpose: "always, in the end" }],
    ..Param::BLANK
};

/// The band that is heard alone or left out.
pub const ALONE: Param = Param {
    id: "hear_band",
    label: "Band that is heard",
    group: "All bands",
    acts_with: Some(clear_bend_catalogue::ActsWith::at_least("hear", 1.0)),
    min: 1.0,
    max: cast::real(MOST_BANDS),
    default: 1.0,
    step: 1.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "Which band is heard alone, or left out.",
    listen: "The next band is another part of the same sound.",
    look: "The range that is left of the spectrum.",
    mistake: "Choosing a band that is not there: then everything is heard.",
    usual: &[Usual { value: 1.0, purpose: "the first band" }],
    ..Param::BLANK
};

/// Gain before all bands.
pub const INPUT: Param = Param {
    id: "input_db",
    label: "Input gain",
    group: "All bands",
    unit: Unit::Db,
    min: -24.0,
    max: 24.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "A gain before all bands.",
    listen: "Only the loudness moves; an equaliser does not care for level.",
    look: "The whole curve moves up or down.",
    mistake: "Expecting another tone from it. Only what follows the equaliser may answer to the level.",
    usual: &[Usual { value: 0.0, purpose: "as it comes" }],
    ..Param::BLANK
};

/// What a band does.
pub const BAND_KIND: Param = Param {
    label: "Kind",
    choices: &[
        "none",
        "low cut",
        "high cut",
        "all-pass",
        "band-pass",
        "notch",
        "bell",
        "flat bell",
        "low shelf",
        "high shelf",
        "shelf to both sides",
    ],
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "What the band does around its frequency. Cuts take everything below or above, shelves raise or lower it, a bell raises or lowers what is around, a flat bell a whole range evenly; a shelf to both sides lowers one side by as much as it raises the other, steepest at its frequency and level an octave or two away; an all-pass turns the phase only.",
    listen: "The same frequency and gain as a bell and as a shelf: one colours, the other moves the balance.",
    look: "The small drawing of the band has the shape of its kind.",
    mistake: "Cutting with a steep low cut where a shelf or a bell would leave the body of the sound.",
    usual: &[Usual { value: 6.0, purpose: "shaping" }, Usual { value: 1.0, purpose: "rumble" }],
    ..Param::BLANK
};

/// Whether a band is on.
pub const BAND_ON: Param = Param {
    label: "On",
    choices: OFF_ON,
    default: 1.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "Switches this band alone, so that what it does can be heard.",
    listen: "Off and on while the music runs. If you cannot tell, it is not needed.",
    look: "The curve of the band lies down on 0 dB.",
    mistake: "Judging a band by the picture instead of by switching it.",
    usual: &[Usual { value: 1.0, purpose: "working" }],
    ..Param::BLANK
};

/// Frequency of a band.
pub const BAND_FREQ: Param = Param {
    label: "Frequency",
    unit: Unit::Hz,
    min: 5.0,
    max: 24_000.0,
    default: 1000.0,
    scale: Scale::Log,
    outcome: Some(outcomes::CENTROID),
    picture: Some(Picture::Curve),
    what: "The centre of a bell, the middle of a shelf's slope, the corner of a cut (3 dB down). A note may be typed: A4, or C#3 +20. Over 49 % of the sample rate it stays there.",
    listen: "Sweep it with a lot of gain and listen where the sound answers.",
    look: "The mark of the band moves along the axis; the spectrum after follows.",
    mistake: "Searching with your eyes: the biggest hump in the spectrum is mostly what the sound lives from.",
    usual: &[
        Usual { value: 30.0, purpose: "a low cut under samples" },
        Usual { value: 250.0, purpose: "mud" },
        Usual { value: 3000.0, purpose: "presence" },
        Usual { value: 12_000.0, purpose: "air" },
    ],
    ..Param::BLANK
};

/// Gain of a band.
pub const BAND_GAIN: Param = Param {
    label: "Gain",
    unit: Unit::Db,
    min: -30.0,
    max: 30.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Curve),
    what: "How far the band raises or lowers its range.",
    listen: "With level match on: whether it is better, or was only louder.",
    look: "The height of the curve at the frequency of the band.",
    mistake: "Only ever raising. Lowering what is in the way often does the same, with headroom left.",
    usual: &[
        Usual { value: 3.0, purpose: "shaping" },
        Usual { value: -3.0, purpose: "making room" },
        Usual { value: -12.0, purpose: "a resonance" },
    ],
    ..Param::BLANK
};

/// Q of a band.
pub const BAND_Q: Param = Param {
    label: "Q",
    unit: Unit::Q,
    min: 0.1,
    max: 100.0,
    // The highest at which a shelf does not overshoot.
    default: std::f64::consts::FRAC_1_SQRT_2,
    default_in_1: Some(1.0),
    scale: Scale::Log,
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "How narrow the band is: its frequency over its width, the width being taken at half the gain in dB. The same in octaves stands beside it and may be typed: 1 oct. On a shelf: how steep.",
    listen: "Narrow and strong rings like a bell; wide and gentle is heard as a change of tone.",
    look: "The width of the curve, and the tail of the impulse response.",
    mistake: "Comparing Q between equalisers that define it otherwise. Octaves can be compared.",
    usual: &[
        Usual { value: 0.7, purpose: "shelves and wide bells" },
        Usual { value: 2.0, purpose: "shaping one range" },
        Usual { value: 10.0, purpose: "one resonance" },
        Usual { value: 30.0, purpose: "hum" },
    ],
    ..Param::BLANK
};

/// Slope of a cut.
pub const BAND_SLOPE: Param = Param {
    label: "Slope",
    unit: Unit::Slope,
    min: 6.0,
    max: 120.0,
    step: 6.0,
    default: 12.0,
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "How steeply a cut falls, in steps of 6 dB per octave. The corner stays 3 dB down at any slope.",
    listen: "Steep cuts are clean and sound cut off; they ring at their corner.",
    look: "The foot of the curve, and the group delay at the corner.",
    mistake: "As steep as possible by habit. 12 to 24 dB per octave is enough for most rumble.",
    usual: &[
        Usual { value: 12.0, purpose: "rumble under a voice" },
        Usual { value: 24.0, purpose: "room for the bass" },
        Usual { value: 48.0, purpose: "a narrow telephone" },
    ],
    ..Param::BLANK
};

/// Channels of a band.
pub const BAND_SCOPE: Param = Param {
    label: "Scope",
    choices: Scope::WORDS,
    outcome: Some(outcomes::BALANCE_CHANGE),
    picture: Some(Picture::Curve),
    what: "The channels that this band works on. Bands on stereo, left or right come first, those on mid and side after them.",
    listen: "A low cut on the side: the lows go to the middle, the width of the rest stays.",
    look: "One sum of the curve for every scope that is in use.",
    mistake: "Raising the side of a mono sound: there is none.",
    usual: &[
        Usual { value: 0.0, purpose: "nearly everything" },
        Usual { value: 4.0, purpose: "rumble in the sides" },
    ],
    ..Param::BLANK
};

/// Copies of a band.
pub const SERIES: Param = Param {
    label: "Series",
    choices: &["single", "multiples", "intervals"],
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "Copies of the band, linked to it: at multiples of its frequency, each as wide in Hz, or at a fixed interval, each as wide in octaves.",
    listen: "Mains hum is a tone with its multiples: 50, 100, 150 Hz. Octaves would miss the 150.",
    look: "A comb of equal teeth over the spectrum of the hum.",
    mistake: "Chasing hum by octaves.",
    usual: &[
        Usual { value: 1.0, purpose: "mains hum" },
        Usual { value: 2.0, purpose: "the same note in every octave" },
    ],
    ..Param::BLANK
};

/// How many there are in a series.
pub const COPIES: Param = Param {
    label: "Copies",
    min: 1.0,
    max: 16.0,
    default: 10.0,
    step: 1.0,
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "How many there are in the series, the first included. Those over the top of the range are left out.",
    listen: "How far up the hum can be heard.",
    look: "One more tooth.",
    mistake: "Taking out harmonics that are not there: every notch costs a little of the sound.",
    usual: &[Usual { value: 10.0, purpose: "mains hum" }],
    ..Param::BLANK
};

/// Interval of a series.
pub const INTERVAL: Param = Param {
    label: "Interval",
    unit: Unit::Semitones,
    min: 1.0,
    max: 36.0,
    default: 12.0,
    outcome: Some(outcomes::TOUCHED),
    picture: Some(Picture::Curve),
    what: "The distance from one copy to the next: 12 semitones are an octave, 7 a fifth.",
    listen: "Octaves of one note stand out, or step back.",
    look: "Teeth at equal distances on the logarithmic axis.",
    mistake: "Using it for hum, which goes by multiples.",
    usual: &[Usual { value: 12.0, purpose: "octaves" }, Usual { value: 7.0, purpose: "fifths" }],
    ..Param::BLANK
};
