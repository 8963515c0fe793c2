//! Multiband compressor: two to five bands, each with a compressor of its own.
//!
//! The bands are split by crossovers after Linkwitz and Riley and brought into phase with each other by all-passes, so
//! that they add up flat. Each band goes through the static curve of JAES 60(6), 2012, equation 4.

mod processor;
mod words;

pub use processor::Multiband;

use super::dynamics::{KEY_HIGH_CUT, KEY_LOW_CUT};
use super::{Ability, Effect, MIX, OUTPUT};
use crate::catalogue::outcomes;
use crate::catalogue::{
    ActsWith, Block, Diagram, Hold, KEY, Param, Picture, Scale, SoundSlot, StartingPoint, Step, Unit, Usual,
};
use crate::settings;
use words::{ATTACK, CROSSOVER, GAIN, RATIO, RELEASE, THRESHOLD};

/// Bands are cut out of what comes in already; only another sound needs cuts of its own.
const KEY_WORDS: &str = "Cuts the key, 12 dB per octave, where another sound is the key; at the end of its range it is off. Without a key, every band goes by itself.";

/// The most bands.
pub const MOST_BANDS: usize = 5;

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

/// The settings of one band.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BandSettings {
    /// Level above which it is reduced, dBFS.
    pub threshold_db: f64,
    /// Decibels over the threshold for one decibel of output.
    pub ratio: f64,
    /// Time to 63.2 % of a fall, ms.
    pub attack_ms: f64,
    /// Time to 63.2 % of a rise, ms.
    pub release_ms: f64,
    /// Fixed gain, dB.
    pub gain_db: f64,
}

impl Settings {
    /// How many bands there are.
    #[must_use]
    pub fn band_count(&self) -> usize {
        (crate::cast::count(self.bands) + 2).min(MOST_BANDS)
    }

    /// The crossovers in use, rising, Hz.
    #[must_use]
    pub fn crossovers_hz(&self) -> [f64; MOST_BANDS - 1] {
        let mut hz = [self.crossover_1_hz, self.crossover_2_hz, self.crossover_3_hz, self.crossover_4_hz];
        hz[..self.band_count() - 1].sort_by(f64::total_cmp);
        hz
    }

    /// The settings of each band.
    #[must_use]
    pub fn by_band(&self) -> [BandSettings; MOST_BANDS] {
        let band = |threshold_db, ratio, attack_ms, release_ms, gain_db| BandSettings {
            threshold_db,
            ratio,
            attack_ms,
            release_ms,
            gain_db,
        };
        [
            band(self.threshold_1_db, self.ratio_1, self.attack_1_ms, self.release_1_ms, self.gain_1_db),
            band(self.threshold_2_db, self.ratio_2, self.attack_2_ms, self.release_2_ms, self.gain_2_db),
            band(self.threshold_3_db, self.ratio_3, self.attack_3_ms, self.release_3_ms, self.gain_3_db),
            band(self.threshold_4_db, self.ratio_4, self.attack_4_ms, self.release_4_ms, self.gain_4_db),
            band(self.threshold_5_db, self.ratio_5, self.attack_5_ms, self.release_5_ms, self.gain_5_db),
        ]
    }
}

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "multiband",
    label: "Multiband compressor",
    purpose: "Splits the sound into bands and compresses each of them by itself.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Bands",
        what: "How much of the compressed signal is heard; the rest has gone through the same crossovers, so that both add up at every frequency.",
        listen: "The untouched balance comes back.",
        look: "The peaks of the two waveforms draw together.",
        mistake: "Taking 50 % for half the compression in dB. It is half of each signal, added.",
        usual: &[Usual { value: 1.0, purpose: "as it is" }],
        ..MIX
    },
    pictures: &[Picture::Bands, Picture::OverTime, Picture::Levels, Picture::Onsets],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block {
                label: "Split",
                params: &[
                    "bands",
                    "crossover_1_hz",
                    "crossover_2_hz",
                    "crossover_3_hz",
                    "crossover_4_hz",
                    "key_low_cut_hz",
                    "key_high_cut_hz",
                    "hear",
                ],
                beside: false,
            },
            Block {
                label: "Band 1",
                params: &["threshold_1_db", "ratio_1", "attack_1_ms", "release_1_ms", "gain_1_db", "knee_db"],
                beside: true,
            },
            Block {
                label: "Band 2",
                params: &["threshold_2_db", "ratio_2", "attack_2_ms", "release_2_ms", "gain_2_db"],
                beside: true,
            },
            Block {
                label: "Band 3",
                params: &["threshold_3_db", "ratio_3", "attack_3_ms", "release_3_ms", "gain_3_db"],
                beside: true,
            },
            Block {
                label: "Band 4",
                params: &["threshold_4_db", "ratio_4", "attack_4_ms", "release_4_ms", "gain_4_db"],
                beside: true,
            },
            Block {
                label: "Band 5",
                params: &["threshold_5_db", "ratio_5", "attack_5_ms", "release_5_ms", "gain_5_db"],
                beside: true,
            },
            Block { label: "Sum", params: &[], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Multiband::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |_, _| None,
    remark: |_, _| None,
    abilities: &[Ability::Bands(|values| {
        let settings = Settings::from_values(values);
        settings.crossovers_hz()[..settings.band_count() - 1].to_vec()
    })],
    sounds: &[SoundSlot { channels: 1, ..KEY }],
    holds: &[Hold::Hear { param: "hear", band: None }],
    order: &[
        Step { param: "hear", plain: &[("ratio_1", 1.0), ("ratio_2", 1.0), ("ratio_3", 1.0)] },
        Step { param: "crossover_1_hz", plain: &[("bands", 0.0), ("hear", 1.0), ("ratio_1", 1.0)] },
        Step { param: "threshold_1_db", plain: &[("bands", 0.0), ("ratio_1", 8.0), ("ratio_2", 1.0)] },
        Step { param: "ratio_1", plain: &[("bands", 0.0), ("threshold_1_db", -36.0), ("ratio_2", 1.0)] },
        Step {
            param: "attack_1_ms",
            plain: &[("bands", 0.0), ("threshold_1_db", -36.0), ("ratio_1", 8.0), ("ratio_2", 1.0)],
        },
        Step {
            param: "release_1_ms",
            plain: &[("bands", 0.0), ("threshold_1_db", -36.0), ("ratio_1", 8.0), ("ratio_2", 1.0)],
        },
        Step { param: "gain_1_db", plain: &[("bands", 0.0), ("ratio_1", 1.0), ("ratio_2", 1.0)] },
        Step {
            param: "bands",
            plain: &[("threshold_1_db", -30.0), ("threshold_2_db", -30.0), ("threshold_3_db", -36.0)],
        },
    ],
    begins: &[],
    starting: &[
        StartingPoint {
            name: "Even lows",
            purpose: "Holds a bass range that comes and goes and leaves everything above it alone. Listen for notes that boom.",
            values: &[
                ("bands", 0.0),
                ("crossover_1_hz", 150.0),
                ("threshold_1_db", -28.0),
                ("ratio_1", 4.0),
                ("threshold_2_db", 0.0),
                ("ratio_2", 1.0),
            ],
            mix: 1.0,
        },
        StartingPoint {
            name: "Gentle on a whole piece",
            purpose: "Three bands that each give a dB or two. Listen to the balance between low, middle and high: it should not move.",
            values: &[
                ("bands", 1.0),
                ("threshold_1_db", -26.0),
                ("ratio_1", 2.0),
                ("threshold_2_db", -28.0),
                ("ratio_2", 1.6),
                ("threshold_3_db", -36.0),
                ("ratio_3", 1.6),
            ],
            mix: 1.0,
        },
    ],
};
