//! Whole random paths through everything that is measured: whatever is set, nothing panics and no number is false by
//! being none.

use clear_bend_effects as effects;
use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::fan::{FanOf, to_csv};
use clear_bend_explaining::report::{Looking, report};
use clear_bend_measures::export::{Part, export};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{
    Histogram, LowTone, MatchBy, Resolution, Spectrum, Tail, band_levels, loudest_moments, measure_attack,
    measure_distortion, measure_response, measure_static_curve, measure_step, scopes_of,
};
use clear_bend_playing::path::Play;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::{Run, render_with};
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;

use clear_bend_testing::{cases, signal_at, source, with_sound};

/// One stage: which effect, its values as places along their controls, its switches.
#[derive(Debug, Clone)]
struct AnyStage {
    effect: usize,
    places: Vec<f64>,
    on: bool,
    mix: f64,
    scope: Scope,
    /// 0: none, 1: a key or a response that is not there, 2: noise in stereo.
    key: u8,
}

fn any_stage() -> impl Strategy<Value = AnyStage> {
    // Ends and middles are where things break.
    let place = prop_oneof![Just(0.0), Just(1.0), 0.0f64..1.0, Just(f64::NAN)];
    let scope = prop::sample::select(vec![Scope::Stereo, Scope::Left, Scope::Right, Scope::Mid, Scope::Side]);
    let mix = prop_oneof![Just(1.0), Just(0.0), 0.0f64..1.0];
    let places = prop::collection::vec(place, 40);
    (0..effects::ALL.len(), places, prop::bool::weighted(0.8), mix, scope, 0u8..3)
        .prop_map(|(effect, places, on, mix, scope, key)| AnyStage { effect, places, on, mix, scope, key })
}

fn stage_of(any: &AnyStage, frames: usize, rate_hz: u32) -> Stage {
    let effect = effects::ALL[any.effect];
    let mut stage = Stage::of(effect);
    for (i, (value, param)) in stage.values.iter_mut().zip(effect.params).enumerate() {
        // A place that is not a number stands for the default. Most of many bands stay away.
        let place = any.places[(i * 7 + i / 40) % 40];
        if !place.is_nan() && i < 48 {
            *value = param.value_at(place);
        }
    }
    (stage.on, stage.mix, stage.scope) = (any.on, any.mix, any.scope);
    if !effect.sounds.is_empty() && any.key > 0 {
        let noise = source("white-noise", &[("seconds", 0.2), ("level_dbfs", -6.0)]);
        let sound = noise.render(rate_hz, any.key.into()).unwrap();
        with_sound(&mut stage, 0, noise, &sound, frames);
        if any.key == 1 {
            stage.sounds[0].as_mut().unwrap().samples = None;
        }
    }
    stage
}

/// A sound of any length, also none at all; the last kinds have an empty channel, or nothing in them.
fn sound(kind: usize, frames: usize, channels: usize, rate_hz: u32) -> Buffer {
    let seconds = (frames as f64 / f64::from(rate_hz)).clamp(0.1, 60.0) + 0.01;
    let made = |kind: &str, params: &[(&str, f64)]| {
        let all = [&[("seconds", seconds)], params].concat();
        signal_at(rate_hz, kind, &all, channels)
    };
    let mut sound = match kind {
        0 => made("white-noise", &[("level_dbfs", -5.0)]),
        1 => signal_at(rate_hz, "burst", &[], channels),
        2 => made("clicks", &[]),
        3 => made("sine", &[("freq_hz", (0.49 * f64::from(rate_hz)).min(20_000.0)), ("level_dbfs", 0.0)]),
        4 => {
            let mut sound = made("pink-noise", &[]);
            sound.channels_mut()[0].fill(0.0);
            sound
        }
        _ => Buffer::new(rate_hz, vec![vec![0.0; frames]; channels]).unwrap(),
    };
    sound.channels_mut().iter_mut().for_each(|channel| channel.resize(frames, 0.0));
    sound
}

fn check_sound(what: &str, found: &Buffer, frames: usize) -> Result<(), TestCaseError> {
    prop_assert_eq!(found.frames(), frames, "{}", what);
    let odd = found.channels().iter().flatten().find(|x| !(**x == 0.0 || x.is_normal()));
    prop_assert!(odd.is_none(), "{what} has {odd:?}");
    Ok(())
}

/// JSON has no NaN: where a number is none, it is said to be none. Texts must not show one either.
fn check_words(text: &str) -> Result<(), TestCaseError> {
    prop_assert!(!text.contains("NaN") && !text.contains("-inf") && !text.contains("\u{2212}inf"), "{text}");
    Ok(())
}

/// A table as the csv crate reads one (RFC 4180): every row has a cell for every heading, and all behind the first `words`
/// are numbers or nothing.
fn check_table(text: &str, words: usize) -> Result<(), TestCaseError> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    for record in reader.records() {
        let record = record.map_err(|e| TestCaseError::fail(format!("{e}: {text}")))?;
        let number = |cell: &str| {
            cell.is_empty()
                || ["inf", "true", "false"].contains(&cell)
                || cell.parse().is_ok_and(f64::is_finite)
        };
        prop_assert!(record.iter().skip(words).all(number), "{record:?}");
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(24), max_shrink_iters: 64, ..ProptestConfig::default() })]

    #[test]
    fn any_path_goes_through_everything(
        stages in prop::collection::vec(any_stage(), 0..4),
        kind in 0usize..6,
        share in prop_oneof![8 => 0.0f64..0.02, 1 => 0.02f64..0.1, 1 => Just(0.0)],
        whole_minute in prop::bool::weighted(0.02),
        stereo: bool,
        rate_hz in prop::sample::select(vec![8_000u32, 11_025, 22_050, 44_100, 48_000, 96_000, 192_000]),
        param in 0usize..40,
        play in prop::sample::select(vec![Play::Round, Play::Once]),
    ) {
        let frames = (if whole_minute { 1.0 } else { share } * 60.0 * f64::from(rate_hz)) as usize;
        let before = sound(kind, frames, if stereo { 2 } else { 1 }, rate_hz);
        let path = Path { stages: stages.iter().map(|any| stage_of(any, frames, rate_hz)).collect() };
        let passage = Passage::played(before.clone(), play);
        let (rendered, report) = report(&path, &passage);
        check_sound("after", &rendered.after, frames)?;
        let gains = |stage| rendered.gain_db(stage).into_iter().chain(rendered.band_gains_db(stage));
        for gain in (0..path.stages.len()).flat_map(gains) {
            prop_assert_eq!(gain.len(), frames);
            prop_assert!(gain.iter().all(|g| g.is_finite() && *g <= 1e-3));
        }
        serde_json::to_string(&report).unwrap();
        check_words(&report.to_csv())?;
        check_table(&report.to_csv(), 2)?;
        report.sentences.iter().try_for_each(|sentence| check_words(&sentence.to_string()))?;
        for part in [Part::Before, Part::After, Part::Difference] {
            let whole = if part == Part::Before { frames } else { frames + rendered.tail.frames() };
            check_sound("an export", &export(part, &before, &path, play, MatchBy::Loudness, |_| {}), whole)?;
        }
        let _ = (loudest_moments(&rendered.after), Histogram::of(&rendered.after));
        let bands = band_levels(&rendered.after, Scope::Side, 3);
        prop_assert!(bands.iter().all(|band| !band.level_dbfs.is_nan() && band.width_db.is_none_or(f64::is_finite)));
        let points = Spectrum::of(&rendered.after, Scope::Stereo, Resolution::Coarse).points_dbfs(&[20.0, 200.0, 2000.0]);
        prop_assert!(points.iter().all(|level| level.is_finite()));

        for (at, stage) in path.stages.iter().enumerate() {
            let params: Vec<_> = stage.effect.all_params().filter(|p| p.outcome.is_some()).collect();
            let chosen = params[param % params.len()];
            let bend = BendOf::new(&path, at, chosen.id).unwrap();
            for point in bend.measure(&passage, 2) {
                prop_assert!(point.outcome.is_none_or(f64::is_finite), "{}: {point:?}", chosen.id);
            }
            let fan = FanOf::new(&path, at, chosen.id, None, &passage).unwrap();
            let (_, row) = fan.row(&mut Looking::default(), &passage, bend.value());
            serde_json::to_string(&row).unwrap();
            check_table(&to_csv(fan.bend(), &[row]), 0)?;
            for point in measure_static_curve(stage, rate_hz, 30) {
                prop_assert!(!point.output_dbfs.is_nan() && point.predicted_dbfs.is_none_or(f64::is_finite));
            }
            let distortion = measure_distortion(stage, rate_hz, &LowTone::USUAL);
            prop_assert!(distortion.thd.is_finite());
            for channel in scopes_of(stage, rate_hz) {
                let response = measure_response(stage, rate_hz, channel, Tail::Short);
                prop_assert!(response.gain_db(1000.0).is_finite());
            }
            let _ = measure_attack(stage, rate_hz);
            // Seconds of release take minutes until they rest.
            let steps = (stage.memory_s() < 0.5)
                .then(|| measure_step(stage, rate_hz, stage.effect.step(&stage.values)));
            if let Some(step) = steps.flatten() {
                prop_assert!(step.up.to_db.is_finite() && step.down.to_db.is_finite());
            }
        }
    }

    /// Whatever is moved, added or taken away, what is not run again leaves the same signals, gains and readings as if it were,
    /// however much is kept between the stages.
    #[test]
    fn any_moves_of_a_path_run_the_same_again_and_afresh(
        stages in prop::collection::vec(any_stage(), 1..5),
        moves in prop::collection::vec((0usize..5, any_stage(), 0u8..4), 1..4),
        kept in prop::sample::select(vec![0usize, 9_000, 20_000, 1 << 20]),
        kind in 0usize..6,
        frames in 0usize..3000,
        play in prop::sample::select(vec![Play::Round, Play::Once]),
    ) {
        let rate_hz = 48_000;
        let before = sound(kind, frames, 2, rate_hz);
        let mut stages: Vec<Stage> = stages.iter().map(|any| stage_of(any, frames, rate_hz)).collect();
        let mut run = Run::<Vec<Buffer>>::keeping(kept);
        for (place, any, what) in moves {
            let moved = stage_of(&any, frames, rate_hz);
            match what {
                0 => stages.insert(place.min(stages.len()), moved),
                1 if place < stages.len() => drop(stages.remove(place)),
                // The path of a parameter that is only read as far as its stage.
                2 => stages.truncate(place),
                _ => {
                    if let Some(stage) = stages.get_mut(place) {
                        *stage = moved;
                    }
                }
            }
            let path = Path { stages: stages.clone() };
            // Left at some stage, because something newer had come, or run to its end.
            let mut underway = run.begin(&path, &before, play);
            let left = run.left(&underway);
            for _ in 0..place {
                run.advance(&mut underway, Some(|_, entering, leaving| vec![entering.clone(), leaving.clone()]));
            }
            prop_assert_eq!(run.left(&underway), left.saturating_sub(place));
            drop(underway);
            let again = run.render(&path, &before, play, |_| {});
            let mut between = vec![before.clone()];
            let afresh = render_with(&path, &before, play, |signal| between.push(signal.clone()));
            between.push(afresh.after.clone());
            prop_assert!(again.after == afresh.after && again.tail == afresh.tail && again.ahead == afresh.ahead);
            for stage in 0..stages.len() {
                prop_assert_eq!(again.gain_with_tail_db(stage), afresh.gain_with_tail_db(stage));
                prop_assert!(again.band_gains_db(stage).eq(afresh.band_gains_db(stage)));
                prop_assert!(again.moved(stage).eq(afresh.moved(stage)));
                let seen = run.seen(stage, &before, |_, entering, leaving| vec![entering.clone(), leaving.clone()]);
                prop_assert!(seen.unwrap()[..] == between[stage..stage + 2], "stage {stage}");
            }
            prop_assert!(run.seen(stages.len(), &before, |_, _, _| Vec::new()).is_none());
        }
    }
}
