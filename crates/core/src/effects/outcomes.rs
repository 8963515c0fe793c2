//! What parameters are there to change, and how that is read off a passage before and after.

use std::borrow::Cow;

use crate::Buffer;
use crate::cast;
use crate::catalogue::{Outcome, Readable, Unit};
use crate::dsp::energy;
use crate::measures::{
    LowTone, MeanPower, OnsetLevels, Reduction, crest_db, log_freqs, loudness_or_rms, measure_distortion,
    onset_levels, peak_dbfs,
};

/// Mean of the gain reduction of the stage over the passage, dB (positive).
pub const MEAN_REDUCTION: Outcome = Outcome {
    id: "mean_reduction_db",
    label: "mean gain reduction",
    unit: Unit::Db,
    read: |r| Some(reduction(r)?.mean_db),
};

/// Largest gain reduction of the stage, dB (positive).
pub const LARGEST_REDUCTION: Outcome = Outcome {
    id: "largest_reduction_db",
    label: "largest gain reduction",
    unit: Unit::Db,
    read: |r| Some(reduction(r)?.largest_db),
};

/// Mean change of the transients of all onsets, dB; none without onsets.
pub const TRANSIENT_CHANGE: Outcome = Outcome {
    id: "transient_change_db",
    label: "change of the first crack",
    unit: Unit::Db,
    read: |r| mean_onset_change_db(r, |levels| levels.transient_dbfs),
};

/// Mean gain reduction of the stage left just before the next onset, dB (positive); none without onsets.
pub const LEFT_AT_NEXT_ONSET: Outcome = Outcome {
    id: "left_at_next_onset_db",
    label: "reduction left at the next hit",
    unit: Unit::Db,
    read: |r| reduction(r)?.left_at_next_onset_db,
};

/// Change of the integrated loudness, or of the RMS level where a passage is too short for it, dB.
pub const LOUDNESS_CHANGE: Outcome = Outcome {
    id: "loudness_change_lu",
    label: "loudness change",
    unit: Unit::Db,
    read: |r| {
        let before = r.passage.levels.loudness_or_rms();
        let read = || loudness_or_rms(&r.rendered().after);
        let after = r.known.map_or_else(read, |known| known.levels.loudness_or_rms());
        Some(after - before).filter(|change| change.is_finite())
    },
};

/// Change of the crest factor, dB.
pub const CREST_CHANGE: Outcome = Outcome {
    id: "crest_change_db",
    label: "crest factor change",
    unit: Unit::Db,
    read: |r| {
        let after = r.known.map_or_else(|| crest_db(&r.rendered().after), |known| known.levels.crest_db);
        Some(after? - r.passage.levels.crest_db?)
    },
};

/// Change of the largest sample, dB.
pub const PEAK_CHANGE: Outcome = Outcome {
    id: "peak_change_db",
    label: "peak change",
    unit: Unit::Db,
    read: |r| {
        let after = r.known.map_or_else(|| peak_dbfs(&r.rendered().after), |known| known.levels.peak_dbfs);
        Some(after - r.passage.levels.peak_dbfs).filter(|change| change.is_finite())
    },
};

/// Largest change of the balance between left and right over the passage, in windows of 50 ms, dB; none in mono.
pub const BALANCE_CHANGE: Outcome = Outcome {
    id: "balance_change_db",
    label: "shift between left and right",
    unit: Unit::Db,
    read: |r| {
        let window = cast::frames(0.05, r.passage.buffer.rate_hz());
        let (before, after) =
            (balances_db(&r.passage.buffer, window)?, balances_db(&r.rendered().after, window)?);
        let moved = before.iter().zip(&after).map(|(b, a)| (a - b).abs()).filter(|moved| moved.is_finite());
        Some(moved.fold(0.0, f64::max))
    },
};

/// Left over right in every window, dB; silence has none.
fn balances_db(buffer: &Buffer, window: usize) -> Option<Vec<f64>> {
    let [left, right] = buffer.channels() else { return None };
    let level = |x: &[f32]| (energy(x) / cast::real(x.len().max(1))).max(1e-8).log10() * 10.0;
    Some(left.chunks(window).zip(right.chunks(window)).map(|(l, r)| level(l) - level(r)).collect())
}

/// Mean change of what lies between onsets, dB; none without onsets.
pub const BETWEEN_CHANGE: Outcome = Outcome {
    id: "between_change_db",
    label: "change between the hits",
    unit: Unit::Db,
    read: |r| mean_onset_change_db(r, |levels| levels.between_dbfs),
};

/// Share of the time with more than 0.1 dB of gain reduction.
pub const SHARE_REDUCED: Outcome = Outcome {
    id: "share_of_time",
    label: "share of the time in reduction",
    unit: Unit::Percent,
    read: |r| Some(reduction(r)?.share_of_time),
};

/// Total harmonic distortion of a 100 Hz tone at -6 dBFS through the stage.
pub const TONE_DISTORTION: Outcome = Outcome {
    id: "tone_distortion",
    label: "distortion of a 100 Hz tone",
    unit: Unit::FinePercent,
    read: |r| {
        let stage = r.path.stages.get(r.stage)?;
        Some(measure_distortion(stage, r.passage.buffer.rate_hz(), &LowTone::USUAL).thd)
    },
};

/// The middle of the energy after, on a logarithmic axis.
pub const CENTROID: Outcome = Outcome {
    id: "centroid_hz",
    label: "spectral middle",
    unit: Unit::Hz,
    read: |r| {
        let power = r.known.map_or_else(
            || Cow::Owned(MeanPower::of(&r.rendered().after)),
            |known| Cow::Borrowed(known.power.get_or_init(|| MeanPower::of(&r.rendered().after))),
        );
        power.centroid_hz()
    },
};

/// How many octaves between 20 Hz and 20 kHz the stage changes by more than 1 dB on any channel, measured with an impulse.
pub const TOUCHED: Outcome = Outcome {
    id: "touched_oct",
    label: "range changed",
    unit: Unit::Octaves,
    read: |r| {
        let highest = (0.49 * f64::from(r.passage.buffer.rate_hz())).min(20_000.0);
        let freqs = log_freqs(20.0, highest, TOUCHED_POINTS);
        let responses = r.responses()?;
        let touched = freqs.iter().filter(|f| responses.iter().any(|h| h.gain_db(**f).abs() >= 1.0)).count();
        Some((highest / 20.0).log2() * cast::real(touched) / cast::real(TOUCHED_POINTS))
    },
};

/// Frequencies at which a response is looked at for its range.
const TOUCHED_POINTS: usize = 1000;

/// For how long before the main pulse of the stage's impulse response more than -80 dB of it is heard, ms.
pub const PRE_RINGING: Outcome = Outcome {
    id: "pre_ringing_ms",
    label: "ringing before the sound",
    unit: Unit::Ms,
    read: |r| r.responses()?.iter().map(|response| response.ringing().before_ms).reduce(f64::max),
};

/// Silence counts as this in a mean of changes, dBFS.
const SILENT_DBFS: f64 = -120.0;

/// Mean change of one level of all onsets, dB; none without onsets.
fn mean_onset_change_db(r: &Readable, level: fn(&OnsetLevels) -> f64) -> Option<f64> {
    let read = || Cow::Owned(onset_levels(&r.rendered().after, &r.passage.onsets));
    let after = r.known.map_or_else(read, |known| Cow::Borrowed(known.onset_levels));
    let pairs = after.iter().zip(&r.passage.onset_levels);
    let sum: f64 =
        pairs.map(|(after, before)| level(after).max(SILENT_DBFS) - level(before).max(SILENT_DBFS)).sum();
    (!after.is_empty()).then(|| sum / cast::real(after.len()))
}

fn reduction(r: &Readable) -> Option<Reduction> {
    let read = || r.rendered().reduction(r.stage, &r.passage.onsets);
    Some(r.known.map_or_else(read, |known| known.reduction).unwrap_or(Reduction::NONE))
}

/// What is read off the gain of one band.
fn band_reduction<const BAND: usize>(r: &Readable) -> Option<Reduction> {
    let found = r.rendered().band_reduction(r.stage, BAND, &r.passage.onsets);
    Some(found.unwrap_or(Reduction::NONE))
}

/// As [`MEAN_REDUCTION`], of one band of the stage alone, from 0.
#[must_use]
pub const fn mean_reduction_of_band<const BAND: usize>() -> Outcome {
    const IDS: [&str; 5] = [
        "mean_reduction_1_db",
        "mean_reduction_2_db",
        "mean_reduction_3_db",
        "mean_reduction_4_db",
        "mean_reduction_5_db",
    ];
    Outcome {
        id: IDS[BAND],
        label: "mean gain reduction of this band",
        read: |r| Some(band_reduction::<BAND>(r)?.mean_db),
        ..MEAN_REDUCTION
    }
}

/// As [`LARGEST_REDUCTION`], of one band of the stage alone, from 0.
#[must_use]
pub const fn largest_reduction_of_band<const BAND: usize>() -> Outcome {
    const IDS: [&str; 5] = [
        "largest_reduction_1_db",
        "largest_reduction_2_db",
        "largest_reduction_3_db",
        "largest_reduction_4_db",
        "largest_reduction_5_db",
    ];
    Outcome {
        id: IDS[BAND],
        label: "largest gain reduction of this band",
        read: |r| Some(band_reduction::<BAND>(r)?.largest_db),
        ..LARGEST_REDUCTION
    }
}

/// As [`LEFT_AT_NEXT_ONSET`], of one band of the stage alone, from 0.
#[must_use]
pub const fn left_at_next_onset_of_band<const BAND: usize>() -> Outcome {
    const IDS: [&str; 5] = [
        "left_at_next_onset_1_db",
        "left_at_next_onset_2_db",
        "left_at_next_onset_3_db",
        "left_at_next_onset_4_db",
        "left_at_next_onset_5_db",
    ];
    Outcome {
        id: IDS[BAND],
        label: "reduction of this band left at the next hit",
        read: |r| band_reduction::<BAND>(r)?.left_at_next_onset_db,
        ..LEFT_AT_NEXT_ONSET
    }
}
