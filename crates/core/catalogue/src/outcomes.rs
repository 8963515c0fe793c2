//! What parameters are there to change: names and units. How each is read off a passage stands in `outcomes`.

use super::{Outcome, Unit};

/// Mean of the gain reduction of the stage over the passage, dB (positive).
pub const MEAN_REDUCTION: Outcome =
    Outcome { id: "mean_reduction_db", label: "mean gain reduction", unit: Unit::Db };

/// Largest gain reduction of the stage, dB (positive).
pub const LARGEST_REDUCTION: Outcome =
    Outcome { id: "largest_reduction_db", label: "largest gain reduction", unit: Unit::Db };

/// Mean change of the transients of all onsets, dB; none without onsets.
pub const TRANSIENT_CHANGE: Outcome =
    Outcome { id: "transient_change_db", label: "change of the first crack", unit: Unit::Db };

/// Mean gain reduction of the stage left just before the next onset, dB (positive); none without onsets.
pub const LEFT_AT_NEXT_ONSET: Outcome =
    Outcome { id: "left_at_next_onset_db", label: "reduction left at the next hit", unit: Unit::Db };

/// Change of the integrated loudness, or of the RMS level where a passage is too short for it, dB.
pub const LOUDNESS_CHANGE: Outcome =
    Outcome { id: "loudness_change_lu", label: "loudness change", unit: Unit::Db };

/// Change of the crest factor, dB.
pub const CREST_CHANGE: Outcome =
    Outcome { id: "crest_change_db", label: "crest factor change", unit: Unit::Db };

/// Change of the largest sample, dB.
pub const PEAK_CHANGE: Outcome = Outcome { id: "peak_change_db", label: "peak change", unit: Unit::Db };

/// Largest change of the balance between left and right over the passage, in windows of 50 ms, dB; none in mono.
pub const BALANCE_CHANGE: Outcome =
    Outcome { id: "balance_change_db", label: "shift between left and right", unit: Unit::Db };

/// Mean change of what lies between onsets, dB; none without onsets.
pub const BETWEEN_CHANGE: Outcome =
    Outcome { id: "between_change_db", label: "change between the hits", unit: Unit::Db };

/// Share of the time with more than 0.1 dB of gain reduction.
pub const SHARE_REDUCED: Outcome =
    Outcome { id: "share_of_time", label: "share of the time in reduction", unit: Unit::Percent };

/// Total harmonic distortion of a 100 Hz tone at -6 dBFS through the stage.
pub const TONE_DISTORTION: Outcome =
    Outcome { id: "tone_distortion", label: "distortion of a 100 Hz tone", unit: Unit::FinePercent };

/// The middle of the energy after, on a logarithmic axis.
pub const CENTROID: Outcome = Outcome { id: "centroid_hz", label: "spectral middle", unit: Unit::Hz };

/// How many octaves between 20 Hz and 20 kHz the stage changes by more than 1 dB on any channel, measured with an impulse.
pub const TOUCHED: Outcome = Outcome { id: "touched_oct", label: "range changed", unit: Unit::Octaves };

/// For how long before the main pulse of the stage's impulse response more than -80 dB of it is heard, ms.
pub const PRE_RINGING: Outcome =
    Outcome { id: "pre_ringing_ms", label: "ringing before the sound", unit: Unit::Ms };

/// Decay time of the stage's response over all, by a line from -5 to -35 dB, or to what it falls within 8 s; none where it does
/// not fall by 7 dB.
pub const T30: Outcome = Outcome { id: "t30_s", label: "decay time", unit: Unit::FineS };

/// As [`T30`], in the octave of 8 kHz.
pub const T30_AT_8K: Outcome = Outcome { id: "t30_at_8k_s", label: "decay time at 8 kHz", unit: Unit::FineS };

/// As [`T30`], in the octave of 125 Hz.
pub const T30_AT_125: Outcome =
    Outcome { id: "t30_at_125_s", label: "decay time at 125 Hz", unit: Unit::FineS };

/// Decay time of the stage's response by its first 10 dB.
pub const EDT: Outcome = Outcome { id: "edt_s", label: "early decay time", unit: Unit::FineS };

/// Time until the stage's response is 60 dB under its loudest for good.
pub const TAIL_LENGTH: Outcome =
    Outcome { id: "tail_length_s", label: "length of the tail", unit: Unit::FineS };

/// Middle of the energy of the stage's response over time.
pub const CENTRE_TIME: Outcome = Outcome { id: "centre_time_ms", label: "centre time", unit: Unit::Ms };

/// Time between the sound and the first of the late part.
pub const PREDELAY: Outcome = Outcome { id: "gap_ms", label: "gap before the late part", unit: Unit::Ms };

/// Time of the first reflection of all.
pub const FIRST_REFLECTION: Outcome =
    Outcome { id: "first_reflection_ms", label: "first reflection", unit: Unit::Ms };

/// Time at which the echo density reaches that of noise.
pub const DENSITY_TIME: Outcome =
    Outcome { id: "density_time_ms", label: "time until it is dense", unit: Unit::Ms };

/// Correlation of left and right in the stage's response.
pub const CORRELATION: Outcome =
    Outcome { id: "correlation", label: "correlation of left and right", unit: Unit::Signed };

/// The middle of the energy of the stage's response, on a logarithmic axis.
pub const WET_CENTROID: Outcome =
    Outcome { id: "wet_centroid_hz", label: "spectral middle of the reverb", unit: Unit::Hz };

/// Energy of the direct sound over that of the reverb.
pub const WET_SHARE: Outcome =
    Outcome { id: "direct_to_reverberant_db", label: "direct over reverberant sound", unit: Unit::Db };

/// By how much the highest single mode stands over its surroundings in the late part.
pub const COLOURATION: Outcome =
    Outcome { id: "ringing_db", label: "ringing of single modes", unit: Unit::Db };

/// How far the pitch of a tone's tail wobbles.
pub const WOBBLE: Outcome = Outcome { id: "wobble_cents", label: "wobble of the pitch", unit: Unit::Cents };

/// How many reflections can be told apart in the early part.
pub const EARLY_COUNT: Outcome =
    Outcome { id: "early_count", label: "early reflections found", unit: Unit::Count };

/// Time of the last of the early part's energy: 99 % of it has come.
pub const EARLY_SPAN: Outcome =
    Outcome { id: "early_span_ms", label: "end of the early part", unit: Unit::Ms };

/// Middle of the early part's energy over time.
pub const EARLY_MIDDLE: Outcome =
    Outcome { id: "early_middle_ms", label: "middle of the early part", unit: Unit::Ms };

/// How far the early part leans to one side on the average of its reflections.
pub const EARLY_BALANCE: Outcome =
    Outcome { id: "early_balance_db", label: "swing of the early part", unit: Unit::Db };

/// The highest sample of the early part over all of its energy.
pub const EARLY_CREST: Outcome =
    Outcome { id: "early_crest_db", label: "hardest click of the early part", unit: Unit::Db };

/// How often a second an effect goes through its cycle; 0 where it is held.
pub const SWING_RATE: Outcome = Outcome { id: "swing_rate_hz", label: "cycles per second", unit: Unit::Hz };

/// The share of a cycle in which its swing rises.
pub const SWING_RISE: Outcome =
    Outcome { id: "swing_rise", label: "share of the cycle that it rises in", unit: Unit::Percent };

/// The share of the time that a swing spends near its ends.
pub const SWING_EDGE: Outcome =
    Outcome { id: "swing_at_ends", label: "share of the time near its ends", unit: Unit::Percent };

/// By how much the cycles of a swing differ from each other.
pub const SWING_CHANCE: Outcome =
    Outcome { id: "swing_chance", label: "difference between cycles", unit: Unit::Percent };

/// Where a swing is at the beginning of the passage.
pub const SWING_START: Outcome =
    Outcome { id: "swing_start", label: "place at the beginning", unit: Unit::Signed };

/// The correlation of the swings of left and right.
pub const SWING_APART: Outcome =
    Outcome { id: "swing_together", label: "correlation of both movements", unit: Unit::Signed };

/// How far the pitch of a tone is off at most, in the wet sound.
pub const PITCH_SWAY: Outcome =
    Outcome { id: "pitch_sway_cents", label: "sway of the pitch", unit: Unit::Cents };

/// How far the level of a held tone sways.
pub const RIPPLE: Outcome = Outcome { id: "ripple", label: "ripple of a held tone", unit: Unit::Percent };

/// How far the sum of both sides of a held tone sways.
pub const SUM_RIPPLE: Outcome = Outcome { id: "sum_ripple", label: "ripple in mono", unit: Unit::Percent };

/// The correlation of left and right of a sound that had the same on both sides.
pub const SIDES: Outcome =
    Outcome { id: "sides", label: "correlation of left and right", unit: Unit::Signed };

/// Notches under 20 kHz in the middle of the cycle.
pub const NOTCH_COUNT: Outcome =
    Outcome { id: "notch_count", label: "notches under 20 kHz", unit: Unit::Count };

/// The lowest notch in the middle of the cycle.
pub const LOWEST_NOTCH: Outcome = Outcome { id: "lowest_notch_hz", label: "lowest notch", unit: Unit::Hz };

/// How far the lowest notch goes in a cycle.
pub const NOTCH_WAY: Outcome =
    Outcome { id: "notch_way_oct", label: "way of the lowest notch", unit: Unit::Octaves };

/// How far the lowest notch goes in a second, there and back.
pub const NOTCH_SPEED: Outcome =
    Outcome { id: "notch_speed_oct", label: "way of the lowest notch in a second", unit: Unit::Octaves };

/// The highest point of the response over its mean power, in the middle of the cycle.
pub const PEAK_HEIGHT: Outcome =
    Outcome { id: "peak_over_mean_db", label: "highest peak over the mean", unit: Unit::Db };

/// As [`MEAN_REDUCTION`], of one band of the stage alone.
pub const MEAN_REDUCTION_OF_BAND: [Outcome; 5] = of_bands(
    MEAN_REDUCTION,
    "mean gain reduction of this band",
    [
        "mean_reduction_1_db",
        "mean_reduction_2_db",
        "mean_reduction_3_db",
        "mean_reduction_4_db",
        "mean_reduction_5_db",
    ],
);

/// As [`LARGEST_REDUCTION`], of one band of the stage alone.
pub const LARGEST_REDUCTION_OF_BAND: [Outcome; 5] = of_bands(
    LARGEST_REDUCTION,
    "largest gain reduction of this band",
    [
        "largest_reduction_1_db",
        "largest_reduction_2_db",
        "largest_reduction_3_db",
        "largest_reduction_4_db",
        "largest_reduction_5_db",
    ],
);

/// As [`LEFT_AT_NEXT_ONSET`], of one band of the stage alone.
pub const LEFT_AT_NEXT_ONSET_OF_BAND: [Outcome; 5] = of_bands(
    LEFT_AT_NEXT_ONSET,
    "reduction of this band left at the next hit",
    [
        "left_at_next_onset_1_db",
        "left_at_next_onset_2_db",
        "left_at_next_onset_3_db",
        "left_at_next_onset_4_db",
        "left_at_next_onset_5_db",
    ],
);

const fn of_bands(whole: Outcome, label: &'static str, ids: [&'static str; 5]) -> [Outcome; 5] {
    let mut all = [Outcome { label, ..whole }; 5];
    let mut band = 0;
    while band < ids.len() {
        all[band].id = ids[band];
        band += 1;
    }
    all
}

/// A change of a measured quantity that is just noticed.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Noticed {
    /// A share of what it was.
    Share(f64),
    /// So much, in its unit.
    By(f64),
}

/// Just noticeable differences: ISO 3382-1, Table A.1, by outcome and by what is read off a room. Its share for the early decay
/// time holds for the other decay times too.
const NOTICED: [(&str, Noticed); 9] = [
    (EDT.id, Noticed::Share(0.05)),
    ("t20_s", Noticed::Share(0.05)),
    (T30.id, Noticed::Share(0.05)),
    (T30_AT_8K.id, Noticed::Share(0.05)),
    (T30_AT_125.id, Noticed::Share(0.05)),
    ("c50_db", Noticed::By(1.0)),
    ("c80_db", Noticed::By(1.0)),
    ("d50", Noticed::By(0.05)),
    (CENTRE_TIME.id, Noticed::By(10.0)),
];

/// From which change on a measured quantity is heard to be another one, in its unit; none where no standard says it.
#[must_use]
pub fn just_noticeable(id: &str, value: f64) -> Option<f64> {
    let (_, noticed) = NOTICED.iter().find(|(known, _)| *known == id)?;
    Some(match noticed {
        Noticed::Share(share) => (share * value).abs(),
        Noticed::By(step) => *step,
    })
}

/// Whether a change of a measured quantity is known to be too small to be heard by itself.
#[must_use]
pub fn is_unnoticed(id: &str, from: f64, to: f64) -> bool {
    just_noticeable(id, from).is_some_and(|step| (to - from).abs() < step)
}
