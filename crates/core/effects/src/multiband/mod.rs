//! Multiband compressor: two to five bands, each with a compressor of its own.
//!
//! The bands are split by crossovers after Linkwitz and Riley and brought into phase with each other by all-passes, so
//! that they add up flat. Each band goes through the static curve of JAES 60(6), 2012, equation 4.

mod processor;
mod settings;
mod words;

pub use processor::Multiband;
pub use settings::{MOST_BANDS, Settings};

use super::{Ability, Effect, MIX};
use clear_bend_catalogue::{
    Block, Diagram, Hold, KEY, Param, Picture, Scale, SoundSlot, StartingPoint, Step, Unit, Usual,
};

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
        (clear_bend_sound::cast::count(self.bands) + 2).min(MOST_BANDS)
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
