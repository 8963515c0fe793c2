//! What a de-esser can be set to.

use super::super::OUTPUT;
use super::super::dynamics::{HEAR, KEY_HIGH_CUT, KEY_LOW_CUT};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};

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

/// The edges of the band, Hz.
#[must_use]
pub fn edges_hz(settings: &Settings) -> (f64, f64) {
    if settings.shape == 0.0 {
        return (settings.freq_hz, f64::INFINITY);
    }
    let half = (settings.width_oct / 2.0).exp2();
    (settings.freq_hz / half, settings.freq_hz * half)
}
