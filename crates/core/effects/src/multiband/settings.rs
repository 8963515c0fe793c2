//! What a multiband compressor can be set to.

use super::super::OUTPUT;
use super::super::dynamics::{KEY_HIGH_CUT, KEY_LOW_CUT};
use super::words::{ATTACK, CROSSOVER, GAIN, RATIO, RELEASE, THRESHOLD};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{ActsWith, Param, Picture, Unit, Usual};

/// The most bands.
pub const MOST_BANDS: usize = 5;

/// Bands are cut out of what comes in already; only another sound needs cuts of its own.
const KEY_WORDS: &str = "Cuts the key, 12 dB per octave, where another sound is the key; at the end of its range it is off. Without a key, every band goes by itself.";

settings! {
    /// The settings of a multiband compressor.
    pub struct Settings {
        /// The number of bands less two.
        bands: Param {
            label: "Bands",
            group: "Bands",
            choices: &["2", "3", "4", "5"],
            default: 1.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::Bands),
            what: "How many bands the sound is split into. Bands and crossovers beyond that number rest.",
            listen: "More bands, more places at which the balance of the sound can move.",
            look: "One row of gain for each band.",
            mistake: "Taking many bands because there are many. Two or three tell most of the story.",
            usual: &[
                Usual { value: 0.0, purpose: "a boomy bass under everything else" },
                Usual { value: 1.0, purpose: "whole pieces" },
            ],
            ..Param::BLANK
        },
        /// Where the first and the second band meet, Hz.
        crossover_1_hz: Param { label: "Crossover 1", default: 200.0, ..CROSSOVER },
        /// Where the second and the third band meet, Hz.
        crossover_2_hz: Param { label: "Crossover 2", acts_with: Some(ActsWith::at_least("bands", 1.0)), default: 2500.0, ..CROSSOVER },
        /// Where the third and the fourth band meet, Hz.
        crossover_3_hz: Param { label: "Crossover 3", acts_with: Some(ActsWith::at_least("bands", 2.0)), default: 6000.0, ..CROSSOVER },
        /// Where the fourth and the fifth band meet, Hz.
        crossover_4_hz: Param { label: "Crossover 4", acts_with: Some(ActsWith::at_least("bands", 3.0)), default: 10_000.0, ..CROSSOVER },
        /// Width of the bend around all thresholds, dB.
        knee_db: Param {
            label: "Knee",
            group: "Bands",
            unit: Unit::Db,
            max: 40.0,
            default: 6.0,
            outcome: Some(outcomes::MEAN_REDUCTION),
            picture: Some(Picture::Bands),
            what: "How wide the bend around the threshold is, in all bands.",
            listen: "With a wide knee, it is hard to say when a band begins to move.",
            look: "Small dips of the gain before the large ones.",
            mistake: "Taking it for the slope of the crossovers. It bends level, not frequency.",
            usual: &[Usual { value: 6.0, purpose: "most uses" }],
            ..Param::BLANK
        },
        /// Low cut of the key, Hz; off at 20 Hz.
        key_low_cut_hz: Param { group: "Bands", picture: Some(Picture::Bands), what: KEY_WORDS, ..KEY_LOW_CUT },
        /// High cut of the key, Hz; off at 20 kHz.
        key_high_cut_hz: Param { group: "Bands", picture: Some(Picture::Bands), what: KEY_WORDS, ..KEY_HIGH_CUT },
        /// What is heard: all bands (0), one of them alone (1 to 5), what the detectors hear (6).
        hear: Param {
            label: "Hear",
            group: "Bands",
            choices: &["all bands", "band 1", "band 2", "band 3", "band 4", "band 5", "what the detectors hear"],
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::Bands),
            what: "All bands, one alone as it leaves its compressor, or what the detectors hear: the key, after its cuts, or else all bands as they come.",
            listen: "A band alone tells what its threshold has to hold.",
            look: "After becomes that band, in every picture and every measure.",
            mistake: "Leaving it there. Files are written as it is heard, too.",
            usual: &[Usual { value: 0.0, purpose: "always, in the end" }],
            ..Param::BLANK
        },
        /// Threshold of band 1, dBFS.
        threshold_1_db: Param { group: "Band 1", outcome: Some(outcomes::MEAN_REDUCTION_OF_BAND[0]), ..THRESHOLD },
        /// Ratio of band 1.
        ratio_1: Param { group: "Band 1", outcome: Some(outcomes::LARGEST_REDUCTION_OF_BAND[0]), ..RATIO },
        /// Attack of band 1, ms.
        attack_1_ms: Param { group: "Band 1", default: 40.0, ..ATTACK },
        /// Release of band 1, ms.
        release_1_ms: Param { group: "Band 1", outcome: Some(outcomes::LEFT_AT_NEXT_ONSET_OF_BAND[0]), default: 250.0, ..RELEASE },
        /// Gain of band 1, dB.
        gain_1_db: Param { group: "Band 1", ..GAIN },
        /// Threshold of band 2, dBFS.
        threshold_2_db: Param { group: "Band 2", outcome: Some(outcomes::MEAN_REDUCTION_OF_BAND[1]), ..THRESHOLD },
        /// Ratio of band 2.
        ratio_2: Param { group: "Band 2", outcome: Some(outcomes::LARGEST_REDUCTION_OF_BAND[1]), ..RATIO },
        /// Attack of band 2, ms.
        attack_2_ms: Param { group: "Band 2", default: 20.0, ..ATTACK },
        /// Release of band 2, ms.
        release_2_ms: Param { group: "Band 2", outcome: Some(outcomes::LEFT_AT_NEXT_ONSET_OF_BAND[1]), default: 180.0, ..RELEASE },
        /// Gain of band 2, dB.
        gain_2_db: Param { group: "Band 2", ..GAIN },
        /// Threshold of band 3, dBFS.
        threshold_3_db: Param { group: "Band 3", outcome: Some(outcomes::MEAN_REDUCTION_OF_BAND[2]), acts_with: Some(ActsWith::at_least("bands", 1.0)), ..THRESHOLD },
        /// Ratio of band 3.
        ratio_3: Param { group: "Band 3", outcome: Some(outcomes::LARGEST_REDUCTION_OF_BAND[2]), acts_with: Some(ActsWith::at_least("bands", 1.0)), ..RATIO },
        /// Attack of band 3, ms.
        attack_3_ms: Param { group: "Band 3", acts_with: Some(ActsWith::at_least("bands", 1.0)), default: 10.0, ..ATTACK },
        /// Release of band 3, ms.
        release_3_ms: Param { group: "Band 3", outcome: Some(outcomes::LEFT_AT_NEXT_ONSET_OF_BAND[2]), acts_with: Some(ActsWith::at_least("bands", 1.0)), default: 120.0, ..RELEASE },
        /// Gain of band 3, dB.
        gain_3_db: Param { group: "Band 3", acts_with: Some(ActsWith::at_least("bands", 1.0)), ..GAIN },
        /// Threshold of band 4, dBFS.
        threshold_4_db: Param { group: "Band 4", outcome: Some(outcomes::MEAN_REDUCTION_OF_BAND[3]), acts_with: Some(ActsWith::at_least("bands", 2.0)), ..THRESHOLD },
        /// Ratio of band 4.
        ratio_4: Param { group: "Band 4", outcome: Some(outcomes::LARGEST_REDUCTION_OF_BAND[3]), acts_with: Some(ActsWith::at_least("bands", 2.0)), ..RATIO },
        /// Attack of band 4, ms.
        attack_4_ms: Param { group: "Band 4", acts_with: Some(ActsWith::at_least("bands", 2.0)), default: 5.0, ..ATTACK },
        /// Release of band 4, ms.
        release_4_ms: Param { group: "Band 4", outcome: Some(outcomes::LEFT_AT_NEXT_ONSET_OF_BAND[3]), acts_with: Some(ActsWith::at_least("bands", 2.0)), default: 80.0, ..RELEASE },
        /// Gain of band 4, dB.
        gain_4_db: Param { group: "Band 4", acts_with: Some(ActsWith::at_least("bands", 2.0)), ..GAIN },
        /// Threshold of band 5, dBFS.
        threshold_5_db: Param { group: "Band 5", outcome: Some(outcomes::MEAN_REDUCTION_OF_BAND[4]), acts_with: Some(ActsWith::at_least("bands", 3.0)), ..THRESHOLD },
        /// Ratio of band 5.
        ratio_5: Param { group: "Band 5", outcome: Some(outcomes::LARGEST_REDUCTION_OF_BAND[4]), acts_with: Some(ActsWith::at_least("bands", 3.0)), ..RATIO },
        /// Attack of band 5, ms.
        attack_5_ms: Param { group: "Band 5", acts_with: Some(ActsWith::at_least("bands", 3.0)), default: 3.0, ..ATTACK },
        /// Release of band 5, ms.
        release_5_ms: Param { group: "Band 5", outcome: Some(outcomes::LEFT_AT_NEXT_ONSET_OF_BAND[4]), acts_with: Some(ActsWith::at_least("bands", 3.0)), default: 60.0, ..RELEASE },
        /// Gain of band 5, dB.
        gain_5_db: Param { group: "Band 5", acts_with: Some(ActsWith::at_least("bands", 3.0)), ..GAIN },
        /// Gain after the mix, dB.
        output_db: Param { group: "Bands", ..OUTPUT },
    }
}
