//! What parameters are there to change, and how that is read off a passage before and after.

use std::borrow::Cow;

use crate::cast;
use crate::catalogue::{Outcome, Readable, Unit};
use crate::measures::{Reduction, crest_db, loudness_or_rms, onset_levels};

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
    read: |r| {
        let read = || Cow::Owned(onset_levels(&r.rendered.after, &r.passage.onsets));
        let after = r.known.map_or_else(read, |known| Cow::Borrowed(known.onset_levels));
        let pairs = after.iter().zip(&r.passage.onset_levels);
        let changes: Vec<f64> = pairs
            .map(|(after, before)| after.transient_dbfs - before.transient_dbfs)
            .filter(|change| change.is_finite())
            .collect();
        (!changes.is_empty()).then(|| changes.iter().sum::<f64>() / cast::real(changes.len()))
    },
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
        let read = || loudness_or_rms(&r.rendered.after);
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
        let after = r.known.map_or_else(|| crest_db(&r.rendered.after), |known| known.levels.crest_db);
        Some(after - r.passage.levels.crest_db)
    },
};

fn reduction(r: &Readable) -> Option<Reduction> {
    let gain = r.rendered.gains_db.get(r.stage)?.as_deref();
    let read = || gain.map(|gain| Reduction::of(gain, &r.passage.onsets));
    // A stage that is switched off reduces nothing.
    Some(r.known.map_or_else(read, |known| known.reduction).unwrap_or_else(|| Reduction::of(&[0.0], &[])))
}
