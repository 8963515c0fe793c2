//! The fan: several values of one parameter, rendered side by side and set against each other.

use serde::Serialize;

use crate::bend::{BendOf, BendPoint};
use crate::outcomes::{self, Readable};
use crate::report::{Looking, PointLevels, cell, levels_between};
use clear_bend_catalogue::Number;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{LevelMatches, PlainLevels, Reduction};
use clear_bend_playing::path::{Path, PathDocument};
use clear_bend_playing::render::Rendered;
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;

/// How many values a fan may have.
pub const COUNTS: std::ops::RangeInclusive<usize> = 2..=9;

/// How many values it usually has.
pub const USUAL_COUNT: usize = 5;

/// Accepts a number of values.
///
/// # Errors
/// Refuses fewer than 2 and more than 9.
pub fn check_count(count: usize) -> Result<(), Refusal> {
    if COUNTS.contains(&count) { Ok(()) } else { Err(Refusal::new("values", count, "2 to 9 values")) }
}

/// Values of the bend's parameter between which its outcome moves by equal amounts, both ends included. Where the
/// outcome hardly moves, they lie evenly along the control.
#[must_use]
pub fn propose(bend: &BendOf, points: &[BendPoint], count: usize) -> Vec<f64> {
    let count = count.clamp(*COUNTS.start(), *COUNTS.end());
    // The way that the outcome has gone at every point, up or down.
    let mut way = vec![0.0; points.len()];
    for k in 1..points.len() {
        let step = points[k].outcome.zip(points[k - 1].outcome).map_or(0.0, |(a, b)| (a - b).abs());
        way[k] = way[k - 1] + if step.is_finite() { step } else { 0.0 };
    }
    let whole = way.last().copied().unwrap_or(0.0);
    let place = |share: f64| {
        if whole < 0.01 {
            return share;
        }
        let wanted = share * whole;
        let k = way.iter().position(|&w| w >= wanted - 1e-12).unwrap_or(0).max(1);
        let (from, to) = (way[k - 1], way[k]);
        let within = if to > from { ((wanted - from) / (to - from)).clamp(0.0, 1.0) } else { 0.0 };
        (cast::real(k - 1) + within) / cast::real(points.len() - 1)
    };
    let mut values: Vec<f64> =
        (0..count).map(|i| bend.param.value_at(place(cast::real(i) / cast::real(count - 1)))).collect();
    values.dedup();
    values
}

/// One value of a fan.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct FanRow {
    /// Value of the parameter.
    pub value: Number,
    /// The outcome of the parameter there.
    pub outcome: Option<f64>,
    /// Where the second parameter went, if one was moved.
    pub moved_to: Option<Number>,
    /// Whether the same amount could be reached.
    pub reached: bool,
    /// Levels after, not matched.
    pub levels: PlainLevels,
    /// Levels after the stage and after every later one, not matched; before it, all values are the same.
    pub points: Vec<PointLevels>,
    /// Gain reduction of the stage, if it reports one.
    pub reduction: Option<Reduction>,
    /// The gains that make it as loud as before.
    pub level_matches: LevelMatches,
    /// The path with these values.
    pub path: PathDocument,
}

/// A fan that has been checked.
#[derive(Debug, Clone)]
pub struct FanOf {
    bend: BendOf,
    path: Path,
    stage: usize,
    same: Option<Same>,
}

/// The second parameter, and the amount of its outcome that all values are to reach.
#[derive(Debug, Clone)]
struct Same {
    param: String,
    amount: f64,
}

impl FanOf {
    /// Finds the parameter, and the second one that is moved to keep its outcome as it is now.
    ///
    /// # Errors
    /// Refuses what [`BendOf::new`] refuses, a second parameter that is the first, and one whose outcome this
    /// passage does not show.
    pub fn new(
        path: &Path,
        stage: usize,
        param: &str,
        same: Option<&str>,
        passage: &Passage,
    ) -> Result<Self, Refusal> {
        let bend = BendOf::new(path, stage, param)?;
        let same = same.map(|second| {
            let refuse = |accepted: &str| Refusal::new("same", format!("\u{201c}{second}\u{201d}"), accepted);
            if second == param {
                return Err(refuse("another parameter than the first"));
            }
            let other = BendOf::new(path, stage, second).map_err(|e| refuse(&e.accepted))?;
            let now = other.point(&mut Looking::default(), passage, other.value()).outcome;
            let amount = now.ok_or_else(|| refuse("a parameter whose outcome this passage shows"))?;
            Ok(Same { param: second.to_owned(), amount })
        });
        Ok(Self { bend, path: path.clone(), stage, same: same.transpose()? })
    }

    /// The parameter and its outcome.
    #[must_use]
    pub fn bend(&self) -> &BendOf {
        &self.bend
    }

    /// Accepts values of the parameter.
    ///
    /// # Errors
    /// Refuses too few, too many, and values out of range.
    pub fn check(&self, values: &[f64]) -> Result<(), Refusal> {
        check_count(values.len())?;
        values.iter().try_for_each(|&value| self.bend.param.check(value).map(|_| ()))
    }

    /// One value: the rendered passage, and what is read off it.
    #[must_use]
    pub fn row(&self, run: &mut Looking, passage: &Passage, value: f64) -> (Rendered, FanRow) {
        let mut path = self.bend.path_at(value);
        let mut moved_to = None;
        let mut reached = true;
        if let Some((other, amount)) = self.second(&path) {
            let found = reach(&other, amount, run, passage);
            reached = found.1;
            moved_to = Some(Number(found.0));
            path = other.path_at(found.0);
        }
        let rendered = run.render(&path, &passage.buffer, passage.play, |_| {});
        let mut points = levels_between(run, passage, self.stage..path.stages.len() - 1);
        let outcome =
            outcomes::read(&self.bend.outcome, &Readable::of(&rendered, &path, passage, self.stage));
        let levels = PlainLevels::of(&rendered.after);
        points.push(PointLevels::from(&levels));
        let reduction = Reduction::of_stage(&rendered, self.stage, &passage.onsets);
        let row = FanRow {
            value: Number(value),
            outcome,
            moved_to,
            reached,
            levels,
            points,
            reduction,
            level_matches: passage.matches(&path, &levels),
            path: path.to_document(),
        };
        (rendered, row)
    }

    fn second(&self, path: &Path) -> Option<(BendOf, f64)> {
        let Same { param, amount } = self.same.as_ref()?;
        Some((BendOf::new(path, self.stage, param).ok()?, *amount))
    }

    /// The path that the fan starts from.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }
}

/// The value of a parameter at which its outcome is what it is on another path.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Equal {
    /// The value, or the nearest one.
    pub value: Number,
    /// The outcome on the other path.
    pub outcome: f64,
    /// Whether it could be reached.
    pub reached: bool,
}

impl Equal {
    /// Moves a parameter of a stage until its outcome is that of the same stage of another path.
    ///
    /// # Errors
    /// Refuses what [`BendOf::new`] refuses of either path, and an outcome that the passage does not show on the other one.
    pub fn find(
        path: &Path,
        other: &Path,
        stage: usize,
        param: &str,
        passage: &Passage,
    ) -> Result<Self, Refusal> {
        let theirs = BendOf::new(other, stage, param)?;
        let mut run = Looking::default();
        let outcome = theirs.point(&mut run, passage, theirs.value()).outcome;
        let outcome = outcome.ok_or_else(|| {
            let found = format!("\u{201c}{param}\u{201d}");
            Refusal::new("param", found, "a parameter whose outcome this passage shows on the other path")
        })?;
        let (value, reached) = reach(&BendOf::new(path, stage, param)?, outcome, &mut run, passage);
        Ok(Self { value: Number(value), outcome, reached })
    }
}

/// The table of a fan as CSV, one row per value.
#[must_use]
pub fn to_csv(bend: &BendOf, rows: &[FanRow]) -> String {
    let number = |n: Option<Number>| n.map_or(String::new(), |n| n.to_string());
    let mut csv = format!(
        "{},{},moved_to,reached,peak_dbfs,rms_dbfs,crest_db,loudness_lufs,mean_reduction_db,largest_reduction_db,match_gain_db\n",
        bend.param.id, bend.outcome.id
    );
    for row in rows {
        let reduction = |read: fn(&Reduction) -> f64| cell(row.reduction.as_ref().map_or(f64::NAN, read));
        csv += &[
            row.value.to_string(),
            cell(row.outcome.unwrap_or(f64::NAN)),
            number(row.moved_to),
            row.reached.to_string(),
            cell(row.levels.peak_dbfs),
            cell(row.levels.rms_dbfs),
            cell(row.levels.crest_db.unwrap_or(f64::NAN)),
            cell(row.levels.loudness_lufs),
            reduction(|r| r.mean_db),
            reduction(|r| r.largest_db),
            cell(row.level_matches.loudness.gain_db),
        ]
        .join(",");
        csv.push('\n');
    }
    csv
}

/// Amounts closer than this count as the same, in the outcome's unit.
const SAME_WITHIN: f64 = 0.02;
/// Most renders of one search.
const MOST_TRIES: usize = 24;

/// The value at which an outcome that goes one way reaches an amount, by false position after Illinois (Dowell and
/// Jarratt, BIT 11, 1971); the nearer end and `false` where it does not.
fn reach(bend: &BendOf, amount: f64, run: &mut Looking, passage: &Passage) -> (f64, bool) {
    // Finer than values are written: steps of a control may be coarser than what is asked for.
    let param = bend.param;
    let mut miss =
        |place: f64| bend.point(run, passage, param.place_value(place)).outcome.map(|o| o - amount);
    let (mut a, mut b) = (0.0, 1.0);
    let (Some(mut miss_a), Some(mut miss_b)) = (miss(a), miss(b)) else { return (bend.value(), false) };
    if miss_a.signum() == miss_b.signum() {
        let (place, missed) = if miss_a.abs() < miss_b.abs() { (a, miss_a) } else { (b, miss_b) };
        return (param.value_at(place), missed.abs() <= SAME_WITHIN);
    }
    let mut best = if miss_a.abs() < miss_b.abs() { (a, miss_a) } else { (b, miss_b) };
    for _ in 0..MOST_TRIES {
        if best.1.abs() <= SAME_WITHIN || (b - a).abs() < 1e-6 {
            break;
        }
        let place = (a * miss_b - b * miss_a) / (miss_b - miss_a);
        let Some(missed) = miss(place) else { break };
        if missed.abs() < best.1.abs() {
            best = (place, missed);
        }
        if missed.signum() == miss_b.signum() {
            miss_a /= 2.0;
        } else {
            (a, miss_a) = (b, miss_b);
        }
        (b, miss_b) = (place, missed);
    }
    // As it is written, where that is near enough.
    let written = param.value_at(best.0);
    let near = bend.point(run, passage, written).outcome.is_some_and(|o| (o - amount).abs() <= SAME_WITHIN);
    let value = if near { written } else { param.place_value(best.0) };
    (value, best.1.abs() <= SAME_WITHIN)
}
