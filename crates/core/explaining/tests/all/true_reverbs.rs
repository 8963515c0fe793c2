//! What is told of reverbs, against slow readings of what they make of an impulse.

use std::f64::consts::TAU;

use clear_bend_catalogue::Picture;
use clear_bend_effects as effects;
use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::outcomes;
use clear_bend_explaining::report::report;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::room::{Room, RoomResponse, RoomView};
use clear_bend_playing::path::{Chain, Path, Play, Stage};
use clear_bend_playing::render::render_with;
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;

use clear_bend_testing::decays::slow_t60;
use clear_bend_testing::{RATE, SETUP, cases, near, signal, stage_with};

fn reverb(params: &[(&str, f64)]) -> Stage {
    stage_with("reverb", params)
}

fn path(stage: Stage) -> Path {
    Path { stages: vec![stage] }
}

/// Both sides of what a stage makes of a sound at full mix.
fn wet(stage: &Stage, mut sides: [Vec<f32>; 2]) -> [Vec<f32>; 2] {
    let stage = Stage { mix: 1.0, ..stage.clone() };
    let [l, r] = &mut sides;
    Chain::new(&path(stage), SETUP).process(&mut [l, r], 0);
    sides
}

/// What it makes of an impulse, turned over on the right where it works on the side.
fn answer(stage: &Stage, seconds: f64) -> [Vec<f32>; 2] {
    let frames = (seconds * f64::from(RATE)) as usize;
    let mut sides = [vec![0.0f32; frames], vec![0.0f32; frames]];
    sides[0][0] = 1.0;
    sides[1][0] = if stage.scope == Scope::Side { -1.0 } else { 1.0 };
    wet(stage, sides)
}

fn said(stage: &Stage, source: &Buffer) -> String {
    let told = report(&path(stage.clone()), &Passage::new(source.clone())).1.sentences;
    told.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
}

/// A frozen reverb never falls: no time is told of it, whatever is read, and the reason is the true one.
#[test]
fn freeze_is_no_decay() {
    let hits = signal("slip-hits", &[], 2);
    let passage = Passage::new(hits.clone());
    let bend = BendOf::new(&path(reverb(&[])), 0, "freeze").unwrap();
    let points = bend.measure(&passage, 2);
    assert!(points[0].outcome.is_some() && points[1].outcome.is_none(), "{points:?}");
    let frozen = reverb(&[("freeze", 1.0)]);
    let room = Room::of(&RoomResponse::of_stage(&frozen, RATE, 30.0));
    let times = &room.times;
    assert!(times.edt.is_none() && times.t20.is_none() && times.t30.is_none() && room.stays, "{times:?}");
    let why = times.why.clone().unwrap();
    assert!(why.contains("does not fall") && !why.contains("noise"), "{why}");
    // Its curve stays flat, too.
    assert!(RoomResponse::of_stage(&frozen, RATE, 30.0).decay().level_db(20.0) == Some(0.0));
    assert!(said(&frozen, &hits).contains("does not fall"), "{}", said(&frozen, &hits));
}

/// Of noise in stereo a reverb on the side is heard, and measured there; of a sound without a side it is not, and that is said.
#[test]
fn a_reverb_on_the_side_is_heard_and_measured() {
    let stage = Stage { scope: Scope::Side, ..reverb(&[("early_count", 0.0), ("decay_s", 1.2)]) };
    let room = Room::of(&RoomResponse::of_stage(&stage, RATE, 30.0));
    let slow = slow_t60(&answer(&stage, 3.0), RATE, 0.03, -8.0, -40.0).unwrap();
    near(room.times.t30.unwrap().seconds / slow, 1.0, 0.08);
    let noise = signal("white-noise", &[("seconds", 2.0)], 2);
    let bend = BendOf::new(&path(stage.clone()), 0, "decay_s").unwrap();
    // The shortest is single echoes, and the longest is not over after 30 s.
    let points = bend.measure(&Passage::new(noise.clone()), 5);
    assert!(points[1..4].iter().all(|point| point.outcome.is_some()), "{points:?}");
    assert!(!said(&stage, &noise).contains("Nothing enters"));
    let mono = Buffer::new(RATE, vec![noise.channels()[0].clone(); 2]).unwrap();
    assert!(said(&stage, &mono).contains("Nothing enters it: it works on the side"));
    // Also where a stage before it has taken the side away.
    let both = Path {
        stages: vec![
            stage_with("chorus", &[("voices", 1.0)]),
            Stage { scope: Scope::Side, mix: 1.0, ..stage_with("gain", &[("gain_db", -24.0)]) },
            stage.clone(),
        ],
    };
    let told = report(&both, &Passage::new(mono)).1;
    assert!(told.stages[2].silent_side && told.stages[2].room.is_some());
}

/// However late a reverb comes, its times are those of what comes.
#[test]
fn a_long_predelay_spoils_no_outcome() {
    let passage = Passage::new(signal("slip-hits", &[], 2));
    for (params, wait_s) in [
        (vec![("predelay_ms", 400.0), ("decay_s", 0.22)], 0.4),
        (vec![("predelay_note", 12.0), ("tempo_bpm", 120.0), ("decay_s", 0.3)], 0.5),
        (
            vec![
                ("predelay_ms", 500.0),
                ("predelay_on", 1.0),
                ("decay_s", 0.5),
                ("early_ms", 300.0),
                ("early_size", 2.0),
            ],
            0.5,
        ),
    ] {
        let all = [&[("early_count", 0.0)][..], &params].concat();
        let stage = reverb(&all);
        let bend = BendOf::new(&path(stage.clone()), 0, "decay_s").unwrap();
        let mut run = clear_bend_playing::render::Run::<()>::default();
        let told = bend.point(&mut run, &passage, bend.value()).outcome.unwrap();
        let made = answer(&stage, 3.0).map(|side| side[(0.999 * wait_s * 48_000.0) as usize..].to_vec());
        let slow = slow_t60(&made, RATE, 0.01, -6.0, -36.0).unwrap();
        assert!((told / slow - 1.0).abs() < 0.15, "{params:?}: told {told}, slow {slow}");
    }
    // Early reflections that come after three quarters of a second are there.
    let late =
        reverb(&[("early_ms", 300.0), ("early_size", 2.0), ("predelay_ms", 500.0), ("predelay_on", 1.0)]);
    let param = late.effect.params.iter().find(|param| param.id == "early_ms").unwrap();
    let readable = outcomes::Readable::new(&path(late.clone()), &passage, 0).rendered().after.frames();
    assert!(readable > 0);
    let p = path(late.clone());
    let span = outcomes::read(&param.outcome.unwrap(), &outcomes::Readable::new(&p, &passage, 0));
    assert!(span.is_some_and(|ms| ms > 600.0), "{span:?}");
}

/// A file goes on for as long as the reverb does, however much of it is mixed in; at 30 s it is said how far it has fallen by then.
#[test]
fn a_tail_does_not_hang_on_the_mix() {
    let hits = signal("slip-hits", &[], 2);
    let length = |mix: f64| {
        let stage = Stage { mix, ..reverb(&[("decay_s", 2.0)]) };
        render_with(&path(stage), &hits, Play::Once, |_| {}).tail.seconds()
    };
    let (all, some) = (length(1.0), length(0.25));
    assert!((some / all - 1.0).abs() < 0.25 && some > 1.0, "{some} s at 25 %, {all} s at 100 %");
    let endless = Stage { mix: 1.0, ..reverb(&[("decay_s", 60.0), ("high_decay", 1.0)]) };
    let mut passage = Passage::played(hits, Play::Once);
    passage.is_sent = false;
    let told = report(&path(endless), &passage).1;
    let left = told.tail_left_db.unwrap();
    assert!((10.0..50.0).contains(&left), "{left}");
    let said: Vec<String> = told.sentences.iter().map(ToString::to_string).collect();
    assert!(said.iter().any(|s| s.contains("longer than") && s.contains("no further followed")), "{said:?}");
}

/// Gain of the pre-delayed sound alone at a frequency, dB.
fn tone_db(params: &[(&str, f64)], hz: f64) -> f64 {
    let all = [&[("hear", 1.0), ("character", 0.0), ("predelay_ms", 0.0)][..], params].concat();
    let plain = [("hear", 1.0), ("character", 0.0), ("predelay_ms", 0.0)];
    let level = |params: &[(&str, f64)]| {
        let side = answer(&reverb(params), 0.5)[0].clone();
        let (mut re, mut im) = (0.0, 0.0);
        for (i, x) in side.iter().enumerate() {
            let at = TAU * hz * i as f64 / f64::from(RATE);
            (re, im) = (re + f64::from(*x) * at.cos(), im - f64::from(*x) * at.sin());
        }
        10.0 * (re * re + im * im).log10()
    };
    level(&all) - level(&plain)
}

/// A tilt leaves its middle where it is, and a shelf that lowers undoes one that raises (first-order shelves with half of their gain at
/// their frequency: the product of both is 1).
#[test]
fn tones_mirror() {
    for tilt in [-12.0, -6.0, 6.0, 12.0] {
        near(tone_db(&[("tilt_db", tilt)], 1000.0), 0.0, 0.05);
    }
    for hz in [60.0, 200.0, 700.0, 4000.0, 12_000.0] {
        let low = |gain: f64| tone_db(&[("low_shelf_db", gain), ("low_shelf_hz", 200.0)], hz);
        near(low(9.0) + low(-9.0), 0.0, 0.05);
        let high = |gain: f64| tone_db(&[("high_shelf_db", gain), ("high_shelf_hz", 4000.0)], hz);
        near(high(9.0) + high(-9.0), 0.0, 0.05);
    }
    near(tone_db(&[("low_shelf_db", 9.0), ("low_shelf_hz", 200.0)], 200.0), 4.5, 0.05);
}

/// The width is that of the reverb: the sound that only waits stays as loud.
#[test]
fn the_width_leaves_what_waits_as_loud() {
    for width in [0.0, 0.4, 1.0, 1.5] {
        near(tone_db(&[("width", width)], 700.0), 0.0, 0.05);
    }
}

/// What is constant does not go round.
#[test]
fn nothing_constant_stays() {
    let mut sides = [vec![0.1f32; 4 * RATE as usize], vec![0.1f32; 4 * RATE as usize]];
    sides.iter_mut().for_each(|side| side[2 * RATE as usize..].fill(0.0));
    let made = wet(&reverb(&[("decay_s", 20.0), ("low_decay", 4.0)]), sides);
    let mean = |from: usize, to: usize| {
        made[0][from..to].iter().map(|x| f64::from(*x)).sum::<f64>() / (to - from) as f64
    };
    let second = RATE as usize;
    // What the step itself holds of very low frequencies is left.
    assert!(mean(second, 2 * second).abs() < 0.01, "{}", mean(second, 2 * second));
}

/// The time until it is dense is the same beside the control and in the picture.
#[test]
fn the_density_is_told_once() {
    let stage = reverb(&[]);
    let passage = Passage::new(signal("slip-hits", &[], 2));
    let mut run = clear_bend_playing::render::Run::<()>::default();
    let bend = BendOf::new(&path(stage.clone()), 0, "diffusion").unwrap();
    let told = bend.point(&mut run, &passage, bend.value()).outcome.unwrap();
    let Some(RoomView::Density(view)) = RoomView::of_stage(&stage, RATE, Picture::Density, 300) else {
        panic!("no density")
    };
    near(told, view.dense_ms.unwrap(), 1e-6);
}

/// Three times that differ are told with the reason.
#[test]
fn what_is_set_and_what_is_measured_are_told_together() {
    let told = said(&reverb(&[]), &signal("slip-hits", &[], 2));
    println!("{told}");
    assert!(
        told.contains("At 1 kHz") && told.contains("are set") && told.contains("as the highs do"),
        "{told}"
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(cases(40)))]

    /// Whatever a reverb is set to: a time that is told is that of the windows of its response, or it is not told.
    #[test]
    fn any_reverb_is_read_as_it_falls(
        decay_log in (0.25f64).ln()..6f64.ln(),
        predelay_ms in 0.0f64..500.0,
        high_decay in 0.1f64..1.0,
        low_decay in 0.5f64..2.0,
        size_m in 3.0f64..20.0,
        seed in 0u32..1000,
        early in any::<bool>(),
        move_ms in prop_oneof![Just(0.0), 0.0f64..1.0],
        freeze in prop::bool::weighted(0.15),
        scope in prop::sample::select(Scope::ALL.to_vec()),
    ) {
        let stage = Stage { scope, ..reverb(&[
            ("decay_s", decay_log.exp()),
            ("predelay_ms", predelay_ms),
            ("high_decay", high_decay),
            ("low_decay", low_decay),
            ("size_m", size_m),
            ("seed", f64::from(seed)),
            ("early_count", if early { 12.0 } else { 0.0 }),
            ("move_ms", move_ms),
            ("freeze", f64::from(u8::from(freeze))),
        ]) };
        let room = Room::of(&RoomResponse::of_stage(&stage, RATE, 30.0));
        if freeze {
            prop_assert!(room.times.t30.is_none() && room.times.edt.is_none() && room.stays);
            return Ok(());
        }
        let mut made = answer(&stage, 0.6 + 1.2 * decay_log.exp() * low_decay.max(1.0));
        let first = made.iter().filter_map(|side| side.iter().skip(1).position(|x| x.abs() > 1e-4)).min().unwrap();
        made.iter_mut().for_each(|side| drop(side.drain(..first)));
        // The other side keeps the dry impulse where only one is worked on.
        let slow = slow_t60(&made, RATE, 0.02, -10.0, -36.0);
        if let (Some(t30), Some(slow)) = (room.times.t30, slow) {
            prop_assert!((t30.seconds / slow - 1.0).abs() < 0.25, "told {}, slow {slow}", t30.seconds);
        }
        prop_assert!(room.times.t30.is_some() || room.times.why.is_some());
    }
}

/// Every effect that rings says so.
#[test]
fn what_rings_is_measured() {
    assert!(effects::find("reverb").unwrap().rings() && effects::find("convolution").unwrap().rings());
}
