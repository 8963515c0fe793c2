//! Everything that is read off a passage before and after a path.

mod alone;
mod design_view;
mod explain;
mod moving;
mod readings;
mod room_plan;
mod rooms;
mod sentence;
mod together;

pub use alone::Measured;
pub use design_view::{DesignDensity, DesignOctave, DesignView, design_of};
pub use moving::Moving;
pub(crate) use readings::cell;
pub use readings::{OctaveChange, OnsetChange, PointLevels, ReferenceLevels, Report, StageReadings};
pub use room_plan::{
    RoomBendPoint, RoomMeasured, RoomPlan, RoomReflection, brought_within, room_bend, room_of,
};
pub use sentence::{MatchSentences, Sentence, Span};
pub use together::{SendLevels, SendsCompared, SumLevels};

use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::ops::Range;

use self::alone::Alone;
use crate::outcomes;
use crate::outcomes::{Known, Readable};
use clear_bend_effects::{Passed, Quantity};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{
    Levels, PlainLevels, Pumping, Reduction, Sibilants, ducks, find_onsets, octave_levels, onset_levels,
};
use clear_bend_playing::path::{Path, Play, Stage};
use clear_bend_playing::render::{LONGEST_TAIL_S, Rendered, Run};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::energy;
use clear_bend_sound::level::{db_from_gain, db_from_power};
use clear_bend_sound::scope::Scope;

/// A path that is run again and again, with what a report reads off it between two stages.
pub type Looking = Run<Seen>;

/// What is read off one stage on the way through a path.
#[derive(Debug, Clone)]
pub struct Seen {
    /// Levels after it.
    levels: PointLevels,
    /// What it does to sibilants, where it works on them.
    sibilants: Option<Sibilants>,
    /// Whether it works on the side of a sound that has none.
    silent_side: bool,
    /// The gain that all it does comes to, dB; none where it does more than that.
    only_gain_db: Option<f64>,
}

impl Seen {
    /// Reads it off the passage before and after the stage.
    #[must_use]
    pub fn of(stage: &Stage, before: &Buffer, after: &Buffer) -> Self {
        Self {
            levels: PointLevels::from(&PlainLevels::of(after)),
            sibilants: de_esses(stage).then(|| Sibilants::between(before, after)).flatten(),
            silent_side: works_on_side(stage) && is_mono(before),
            only_gain_db: only_gain_db(before, after),
        }
    }
}

fn de_esses(stage: &Stage) -> bool {
    stage.effect.works_on_sibilants() && stage.wet() > 0.0
}

fn works_on_side(stage: &Stage) -> bool {
    stage.scope == Scope::Side && stage.wet() > 0.0
}

/// Levels after some of the stages that have been run.
pub fn levels_between(run: &mut Looking, passage: &Passage, stages: Range<usize>) -> Vec<PointLevels> {
    stages.filter_map(|stage| Some(run.seen(stage, &passage.buffer, Seen::of)?.levels)).collect()
}

/// What is read off the sound before and after a stage.
struct Between {
    sibilants: Option<Sibilants>,
    silent_side: bool,
    idle: Option<String>,
}

/// Runs a path over a passage and reads everything off the result.
#[must_use]
pub fn report(path: &Path, passage: &Passage) -> (Rendered, Report) {
    let mut run = Looking::default();
    let rendered = run.render(path, &passage.buffer, passage.play, |_| {});
    let report = read(path, passage, &rendered, &mut run, &mut Measured::default());
    (rendered, report)
}

/// Reads everything off a rendered passage, its way through the path, and the stages alone.
#[must_use]
pub fn read(
    path: &Path,
    passage: &Passage,
    rendered: &Rendered,
    run: &mut Looking,
    measured: &mut Measured,
) -> Report {
    let after = Levels::of(&rendered.after);
    let mut points = vec![PointLevels::from(&passage.levels)];
    if let Some(last) = path.stages.len().checked_sub(1) {
        points.extend(levels_between(run, passage, 0..last));
        points.push(PointLevels::from(&after));
    }
    let between: Vec<Between> = path
        .stages
        .iter()
        .enumerate()
        .map(|(i, stage)| {
            let peak_dbfs = points.get(i).map_or(f64::NEG_INFINITY, |point| point.peak_dbfs);
            let gain = rendered.gain_db(i).map(|gain| {
                gain.iter().fold((f64::MAX, 0.0f64), |(least, largest), gain| {
                    let reduced = f64::from(-gain);
                    (least.min(reduced), largest.max(reduced))
                })
            });
            let passed = Passed {
                peak_dbfs,
                gain_db: 0.0,
                reduced_db: gain,
                keyed: stage.key().is_some(),
                mix: stage.mix,
            };
            let idle =
                |passed: &Passed| (stage.effect.idle)(&stage.values, passed).filter(|_| stage.wet() > 0.0);
            let asked = de_esses(stage) || works_on_side(stage) || idle(&passed).is_some();
            let seen = asked.then(|| run.seen(i, &passage.buffer, Seen::of)).flatten();
            let only_gain_db = seen.and_then(|seen| seen.only_gain_db);
            Between {
                sibilants: seen.and_then(|seen| seen.sibilants.clone()),
                silent_side: seen.is_some_and(|seen| seen.silent_side),
                idle: only_gain_db.and_then(|gain_db| idle(&Passed { gain_db, ..passed })),
            }
        })
        .collect();
    let after_onsets = onset_levels(&rendered.after, &passage.onsets);
    let rate_hz = f64::from(passage.buffer.rate_hz());
    let reductions: Vec<Option<Reduction>> =
        (0..path.stages.len()).map(|stage| Reduction::of_stage(rendered, stage, &passage.onsets)).collect();
    let onsets = passage.onsets.iter().zip(passage.onset_levels.iter().zip(&after_onsets));
    let power = OnceCell::new();
    let alone = measured.of(path, passage);
    let mut report = Report {
        seconds: passage.buffer.seconds(),
        rate_hz: passage.buffer.rate_hz(),
        before: passage.levels,
        after,
        level_matches: passage.matches(path, &(&after).into()),
        points,
        tail_s: rendered.tail.seconds(),
        tail_left_db: tail_left_db(&rendered.tail),
        play: passage.play,
        material: passage.material,
        room_db: -after.true_peak_dbtp,
        stages: alone
            .iter()
            .zip(between)
            .enumerate()
            .map(|(i, (alone, between))| stage_readings(path, passage, rendered, i, alone, between))
            .collect(),
        outcomes: (0..path.stages.len())
            .map(|stage| {
                let known = Known {
                    levels: &after,
                    reduction: reductions[stage],
                    onset_levels: &after_onsets,
                    power: &power,
                };
                outcomes(path, passage, rendered, stage, known, alone[stage])
            })
            .collect(),
        reductions,
        octaves: octaves(path, passage, rendered),
        onsets: onsets
            .map(|(&at, (&before, &after))| OnsetChange { at_s: cast::real(at) / rate_hz, before, after })
            .collect(),
        dry_stages: dry_stages(path, passage),
        sentences: Vec::new(),
        match_sentences: None,
    };
    (report.sentences, report.match_sentences) = explain::sentences(path, &report, passage.is_sent);
    report
}

/// The stages that let what is sent to a shared path through untouched, where it is one: the stem is heard already. Through a room
/// without its dry sound nothing comes untouched, whatever stands before or after it.
fn dry_stages(path: &Path, passage: &Passage) -> Vec<usize> {
    let working = || path.stages.iter().enumerate().filter(|(_, stage)| stage.on && passage.is_sent);
    if working().any(|(_, stage)| stage.mix == 1.0 && stage.effect.rings()) {
        return Vec::new();
    }
    working().filter(|(_, stage)| stage.mix < 1.0).map(|(index, _)| index).collect()
}

/// The octaves before and after, where a filter is at work.
fn octaves(path: &Path, passage: &Passage, rendered: &Rendered) -> Vec<OctaveChange> {
    if !path.stages.iter().any(|stage| stage.effect.filters() && stage.wet() > 0.0) {
        return Vec::new();
    }
    let before = passage.octaves();
    let after = octave_levels(&rendered.after);
    let pairs = before.iter().zip(after);
    pairs
        .map(|((freq_hz, before_dbfs), (_, after_dbfs))| OctaveChange {
            freq_hz: *freq_hz,
            before_dbfs: *before_dbfs,
            after_dbfs,
        })
        .collect()
}

/// What only this stage shows.
fn stage_readings(
    path: &Path,
    passage: &Passage,
    rendered: &Rendered,
    index: usize,
    alone: &Alone,
    Between { sibilants, silent_side, idle }: Between,
) -> StageReadings {
    let stage = &path.stages[index];
    let rate_hz = passage.buffer.rate_hz();
    let gain = rendered.gain_db(index);
    let key = stage.key().and_then(|key| key.samples.as_ref()).filter(|samples| samples.frames() > 0);
    let goes_round = passage.play == Play::Round;
    StageReadings {
        beyond_loop: alone
            .room
            .as_ref()
            .filter(|_| goes_round)
            .and_then(|(response, _)| response.share_after(passage.buffer.seconds())),
        room: alone.room.as_ref().map(|(_, room)| room.clone()),
        silent_side,
        idle,
        moving: alone.movement.as_ref().and_then(|movement| {
            let delays = rendered.moved(index).find(|(what, ..)| *what == Quantity::DelayMs);
            let delays_ms = delays.map(|(.., delays_ms)| delays_ms);
            Moving::of(stage, movement, delays_ms, passage.buffer.seconds(), passage.play)
        }),
        pumping: gain.and_then(|gain| Pumping::of(gain, &passage.onsets, rate_hz)),
        sibilants,
        ducks: gain.zip(key).map_or_else(Vec::new, |(gain, key)| {
            ducks(gain, &find_onsets(key), rendered.ahead[index], rate_hz)
        }),
    }
}

/// By how much a tail that is as long as they are followed has fallen within that, dB; none where it has ended.
fn tail_left_db(tail: &Buffer) -> Option<f64> {
    if tail.seconds() < LONGEST_TAIL_S - 0.01 {
        return None;
    }
    let part = cast::frames(0.1, tail.rate_hz());
    let power = |from: usize| -> f64 { tail.channels().iter().map(|c| energy(&c[from..from + part])).sum() };
    let loudest = (0..tail.frames() / part).map(|k| power(k * part)).fold(0.0, f64::max);
    Some(db_from_power(loudest / power(tail.frames() - part)))
}

/// What is left of a sound beside a gain is none where it is so far under it, as a power: 60 dB.
const NOTHING_ELSE: f64 = 1e-6;

/// The gain that makes one sound the other, dB; none where they differ by more than that.
fn only_gain_db(before: &Buffer, after: &Buffer) -> Option<f64> {
    let pairs = before.channels().iter().zip(after.channels()).flat_map(|(x, y)| x.iter().zip(y));
    let (xx, xy, yy) = pairs.fold((0.0, 0.0, 0.0), |(xx, xy, yy), (x, y)| {
        let (x, y) = (f64::from(*x), f64::from(*y));
        (xx + x * x, xy + x * y, yy + y * y)
    });
    let gain = if xx > 0.0 { xy / xx } else { 0.0 };
    (gain > 0.0 && yy - gain * xy <= NOTHING_ELSE * yy).then(|| db_from_gain(gain))
}

/// Whether both sides are the same.
fn is_mono(buffer: &Buffer) -> bool {
    match buffer.channels() {
        [left, right] => left == right,
        _ => true,
    }
}

/// The outcomes of a stage, from what has been read already.
fn outcomes(
    path: &Path,
    passage: &Passage,
    rendered: &Rendered,
    stage: usize,
    known: Known,
    alone: &Alone,
) -> BTreeMap<&'static str, Option<f64>> {
    let mut readable = Readable::of(rendered, path, passage, stage);
    readable.known = Some(known);
    // Many parameters share an outcome, which is read once.
    let mut read = BTreeMap::new();
    for outcome in path.stages[stage].effect.all_params().filter_map(|param| param.outcome) {
        let known = alone.outcomes.get(outcome.id);
        read.entry(outcome.id)
            .or_insert_with(|| known.copied().unwrap_or_else(|| outcomes::read(&outcome, &readable)));
    }
    read
}
