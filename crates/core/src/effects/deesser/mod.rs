//! De-esser: lowers one band of the sound while that band is loud.
//!
//! The band is taken out by a linear-phase filter, so that what is left is the sound without a part of it and nothing
//! else: no phase is shifted, and while nothing is reduced, nothing is changed. Its level goes through the static curve
//! of JAES 60(6), 2012, equation 4.

mod band;
mod processor;

pub use processor::DeEsser;

use super::dynamics::{HEAR, KEY_HIGH_CUT, KEY_LOW_CUT};
use super::{Ability, Effect, MIX, OUTPUT};
use crate::catalogue::outcomes;
use crate::catalogue::{
    ActsWith, Block, Diagram, Hold, KEY, Param, Picture, Scale, SoundSlot, StartingPoint, Step, Unit, Usual,
};
use crate::settings;

settings! {
    /// The settings of a de-esser.
    pub struct Settings {
        /// Whether it acts above a frequency (0) or in a band (1).
        shape: Param {
            label: "Shape",
            group: "Band",
            choices: &["above a frequency", "a band"],
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::Bands),
            what: "Whether everything above the frequency is turned down, or only a band around it.",
            listen: "A band leaves the air above a sibilant alone; above a frequency, all of it goes.",
            look: "The edges of the band over the sound.",
            mistake: "Using a narrow band for a voice whose sibilants wander.",
            usual: &[
                Usual { value: 0.0, purpose: "most voices" },
                Usual { value: 1.0, purpose: "one whistling place" },
            ],
            ..Param::BLANK
        },
        /// Lower edge, or the centre of the band, Hz.
        freq_hz: Param {
            label: "Frequency",
            group: "Band",
            unit: Unit::Hz,
            min: 1000.0,
            max: 16_000.0,
            default: 5500.0,
            scale: Scale::Log,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::Bands),
            what: "Where it acts: the edge above which it works, or the centre of its band.",
            listen: "Hear what the detector hears and move it until only the s and the sh are left.",
            look: "Which parts of the sound lie inside the edges.",
            mistake: "Going too low. From 4 kHz instead of 5.5 kHz it takes parts of vowels as well.",
            usual: &[
                Usual { value: 5500.0, purpose: "most voices" },
                Usual { value: 7000.0, purpose: "high voices" },
            ],
            ..Param::BLANK
        },
        /// Width of the band, octaves.
        width_oct: Param {
            label: "Width",
            group: "Band",
            acts_with: Some(ActsWith::at_least("shape", 1.0)),
            unit: Unit::Octaves,
            min: 0.2,
            max: 3.0,
            default: 1.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::Bands),
            what: "How wide the band is, in octaves, where it acts in a band.",
            listen: "Narrow takes a whistle, wide takes the whole sibilant.",
            look: "The distance of the edges.",
            mistake: "Expecting it to do something where it acts above a frequency.",
            usual: &[
                Usual { value: 0.5, purpose: "a whistle" },
                Usual { value: 1.0, purpose: "a sibilant" },
            ],
            ..Param::BLANK
        },
        /// Level of the band above which it is reduced, dBFS.
        threshold_db: Param {
            label: "Threshold",
            group: "Level",
            unit: Unit::Dbfs,
            min: -80.0,
            max: 0.0,
            default: -30.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "The level of the band above which the band is turned down. The rest of the sound does not count.",
            listen: "Lower it until an s no longer hurts; stop before it lisps.",
            look: "The gain moves at sibilants and nowhere else.",
            mistake: "Setting it by the loudest word. What counts is the level inside the band.",
            usual: &[Usual { value: -30.0, purpose: "a voice near \u{2212}20 LUFS" }],
            ..Param::BLANK
        },
        /// Decibels of input over the threshold for one decibel of output.
        ratio: Param {
            label: "Ratio",
            group: "Level",
            unit: Unit::Ratio,
            min: 1.0,
            max: f64::INFINITY,
            default: 4.0,
            scale: Scale::Slope,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "How many dB over the threshold are left as one, inside the band.",
            listen: "Low ratios soften sibilants, high ones flatten them all to one level.",
            look: "How deep the gain goes at the loudest sibilant.",
            mistake: "A high ratio with a low threshold: the voice begins to lisp.",
            usual: &[
                Usual { value: 2.0, purpose: "soft" },
                Usual { value: 4.0, purpose: "most voices" },
            ],
            ..Param::BLANK
        },
        /// Width of the bend around the threshold, dB.
        knee_db: Param {
            label: "Knee",
            group: "Level",
            unit: Unit::Db,
            max: 24.0,
            default: 3.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "How wide the bend around the threshold is.",
            listen: "Wide begins earlier and is harder to notice.",
            look: "Small dips of the gain at soft sibilants.",
            mistake: "Widening it until vowels are touched.",
            usual: &[Usual { value: 3.0, purpose: "most voices" }],
            ..Param::BLANK
        },
        /// The most that is taken, dB.
        range_db: Param {
            label: "Range",
            group: "Level",
            unit: Unit::Db,
            max: 24.0,
            default: 12.0,
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "The most that the band may come down.",
            listen: "With a small range, even the worst sibilant stays a sibilant.",
            look: "The floor of the gain.",
            mistake: "Leaving it wide open: one loud s is then taken out altogether.",
            usual: &[Usual { value: 6.0, purpose: "natural" }],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of a fall of the gain in dB, ms.
        attack_ms: Param {
            label: "Attack",
            group: "Time",
            unit: Unit::Ms,
            max: 50.0,
            default: 1.0,
            scale: Scale::SoftLog { knee: 0.5 },
            outcome: Some(outcomes::LARGEST_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "How long the gain takes to come down when a sibilant begins: the time to 63 % of the way.",
            listen: "Too long, and every s keeps a sharp front.",
            look: "The slope of the gain at the start of each sibilant.",
            mistake: "Making it long to sound natural. The front of the s is what hurts.",
            usual: &[Usual { value: 1.0, purpose: "most voices" }],
            ..Param::BLANK
        },
        /// Time to cover 63.2 % of a rise of the gain in dB, ms.
        release_ms: Param {
            label: "Release",
            group: "Time",
            unit: Unit::Ms,
            min: 1.0,
            max: 500.0,
            default: 30.0,
            scale: Scale::Log,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::OverTime),
            what: "How long the gain takes to come back after a sibilant: the time to 63 % of the way.",
            listen: "Too long, and the vowel after each s is dull.",
            look: "The gain back at 0 dB before the vowel begins.",
            mistake: "Copying the release of a compressor. A sibilant lasts a tenth of a second.",
            usual: &[Usual { value: 30.0, purpose: "most voices" }],
            ..Param::BLANK
        },
        /// Gain after the mix, dB.
        output_db: Param { group: "Output", ..OUTPUT },
        /// Low cut of the key, Hz; off at 20 Hz.
        key_low_cut_hz: KEY_LOW_CUT,
        /// High cut of the key, Hz; off at 20 kHz.
        key_high_cut_hz: KEY_HIGH_CUT,
        /// What is heard: the result (0), the band (1), what is taken out (2).
        hear: HEAR,
    }
}

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "de-esser",
    label: "De-esser",
    purpose: "Softens the s and the sh of a voice and leaves the rest of it alone.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the softened signal is heard; the rest is the untouched one.",
        listen: "Sharper sibilants as it goes down.",
        look: "Less difference where the gain moves.",
        mistake: "Using it instead of the range, which says in dB what may be taken.",
        usual: &[Usual { value: 1.0, purpose: "as it is" }],
        outcome: Some(outcomes::PEAK_CHANGE),
        ..MIX
    },
    pictures: &[Picture::OverTime, Picture::Bands, Picture::Levels],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block {
                label: "Band",
                params: &["shape", "freq_hz", "width_oct", "key_low_cut_hz", "key_high_cut_hz", "hear"],
                beside: true,
            },
            Block { label: "Curve", params: &["threshold_db", "ratio", "knee_db", "range_db"], beside: true },
            Block { label: "Timing", params: &["attack_ms", "release_ms"], beside: true },
            Block { label: "Band gain", params: &[], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(DeEsser::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        if settings.output_db != 0.0 || settings.hear != 0.0 || passed.reduces() {
            None
        } else if settings.ratio == 1.0 {
            Some("The ratio is 1 : 1, so nothing is reduced.".to_owned())
        } else {
            (settings.range_db == 0.0).then(|| "The range is 0 dB, so nothing can be reduced.".to_owned())
        }
    },
    remark: |_, _| None,
    abilities: &[
        Ability::Bands(|values| {
            let (low, high) = edges_hz(&Settings::from_values(values));
            [low, high].into_iter().filter(|hz| hz.is_finite()).collect()
        }),
        Ability::Sibilants,
    ],
    sounds: &[SoundSlot { channels: 1, ..KEY }],
    holds: &[Hold::Hear { param: "hear", band: None }],
    order: &[
        Step { param: "freq_hz", plain: &[("threshold_db", -40.0), ("hear", 1.0)] },
        Step { param: "threshold_db", plain: &[("ratio", 4.0), ("range_db", 24.0)] },
        Step { param: "ratio", plain: &[("threshold_db", -40.0), ("range_db", 24.0)] },
        Step { param: "range_db", plain: &[("threshold_db", -45.0), ("ratio", 8.0)] },
        Step { param: "attack_ms", plain: &[("threshold_db", -40.0), ("ratio", 8.0)] },
        Step { param: "release_ms", plain: &[("threshold_db", -40.0), ("ratio", 8.0)] },
        Step { param: "shape", plain: &[("threshold_db", -40.0), ("freq_hz", 7000.0)] },
        Step { param: "width_oct", plain: &[("threshold_db", -40.0), ("shape", 1.0), ("freq_hz", 7000.0)] },
    ],
    begins: &[],
    starting: &[
        StartingPoint {
            name: "Taming sibilants",
            purpose: "About 3 dB off the s of a voice. Hear what is taken out first: it should be sibilants and no vowels.",
            values: &[("freq_hz", 5500.0), ("threshold_db", -30.0), ("ratio", 4.0), ("range_db", 6.0)],
            mix: 1.0,
        },
        StartingPoint {
            name: "One whistle",
            purpose: "A narrow band for a voice that whistles at one place. Move the frequency while you hear what the detector hears.",
            values: &[
                ("shape", 1.0),
                ("freq_hz", 7000.0),
                ("width_oct", 0.5),
                ("threshold_db", -36.0),
                ("ratio", 6.0),
                ("range_db", 9.0),
            ],
            mix: 1.0,
        },
    ],
};

/// The edges of the band, Hz.
#[must_use]
pub fn edges_hz(settings: &Settings) -> (f64, f64) {
    if settings.shape == 0.0 {
        return (settings.freq_hz, f64::INFINITY);
    }
    let half = (settings.width_oct / 2.0).exp2();
    (settings.freq_hz / half, settings.freq_hz * half)
}
