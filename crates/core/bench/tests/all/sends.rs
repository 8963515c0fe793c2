//! Shared paths: what stems send to them, what comes back, and that it is what an insert would have done.

use clear_bend_bench::origin::desk;
use clear_bend_bench::{BenchDocument, Stem};
use clear_bend_catalogue::Values;
use clear_bend_effects::Setup;
use clear_bend_explaining::report::{SendsCompared, SumLevels, report};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::live::{Live, MOST_LANES, Runs};
use clear_bend_playing::mix::{Desk, Send, SendsAs, Strip};
use clear_bend_playing::path::{Path, Play, Stage};
use clear_bend_signals::SourceDocument;
use clear_bend_sound::Buffer;
use clear_bend_sound::refusal::Refusal;
use proptest::prelude::*;

use clear_bend_testing::live::{BLOCK, play};
use clear_bend_testing::{RATE, near, stage_with};

fn source(kind: &str) -> SourceDocument {
    SourceDocument::of_kind(kind, Values::default())
}

fn stem(kind: &str, stages: Vec<Stage>, strip: Strip, sends: &[Send]) -> Stem {
    Stem { strip, sends: sends.to_vec(), ..Stem::new(source(kind), Path { stages }.to_document()) }
}

fn shared(stages: Vec<Stage>, strip: Strip) -> Stem {
    stem("sent", stages, strip, &[])
}

fn gain(gain_db: f64) -> Stage {
    stage_with("gain", &[("gain_db", gain_db)])
}

fn wet(effect: &str, params: &[(&str, f64)]) -> Stage {
    Stage { mix: 1.0, ..stage_with(effect, params) }
}

fn send(to: usize, level_db: f64, before_strip: bool) -> Send {
    Send { to, level_db, before_strip }
}

fn bench(stems: Vec<Stem>, work: usize) -> BenchDocument {
    let mut bench = BenchDocument { stems, work, play: Play::Once, ..BenchDocument::fresh() };
    bench.view.spotlight = None;
    bench.listening.all_stems = true;
    bench
}

fn with_desk<T>(bench: &BenchDocument, read: impl FnOnce(&Desk) -> T) -> T {
    let stems = bench.check().unwrap();
    read(&desk(bench, &stems, |source| source.render(RATE, 2)).unwrap())
}

fn sum(bench: &BenchDocument) -> Buffer {
    with_desk(bench, |desk| desk.sum(&desk.beside(), &desk.at_work()).0)
}

/// The largest difference of two sounds against the loudest sample of the first, dB.
fn apart_db(one: &Buffer, other: &Buffer) -> f64 {
    let (mut most, mut loudest) = (0.0f64, 0.0f64);
    for (one, other) in one.channels().iter().zip(other.channels()) {
        for i in 0..one.len().max(other.len()) {
            let [a, b] = [one, other].map(|x| f64::from(x.get(i).copied().unwrap_or(0.0)));
            most = most.max((a - b).abs());
            loudest = loudest.max(a.abs());
        }
    }
    20.0 * (most / loudest).log10()
}

/// The mean square of both channels at once, dB.
fn rms_db(sound: &Buffer) -> f64 {
    let all = sound.channels().iter().flatten();
    10.0 * (all.map(|x| f64::from(*x).powi(2)).sum::<f64>() / (2 * sound.frames()) as f64).log10()
}

/// A path of gains, sends and strips, worked out by hand: pans turn the far side down by a cosine.
#[test]
fn the_sum_is_what_the_formula_says() {
    let right = Strip { level_db: -4.0, pan: 0.5, ..Strip::default() };
    let back = Strip { level_db: -3.0, pan: -0.25, ..Strip::default() };
    let sine = |stages, strip, sends: &[Send]| stem("sine", stages, strip, sends);
    let stems = vec![
        sine(vec![gain(-6.0)], right, &[send(2, -10.0, false), send(3, -8.0, true)]),
        sine(vec![], Strip::default(), &[send(2, 2.0, false)]),
        shared(vec![gain(5.0)], back),
        shared(vec![gain(-2.0)], Strip::default()),
    ];
    let db = |db: f64| 10f64.powf(db / 20.0);
    let far = |pan: f64| (pan * std::f64::consts::FRAC_PI_2).cos();
    let expected = [far(0.5), 1.0].into_iter().zip([1.0, far(0.25)]).map(|(first, back)| {
        let one = db(-6.0 - 4.0) * first;
        let into_two = one * db(-10.0) + db(2.0);
        one + 1.0 + into_two * db(5.0 - 3.0) * back + db(-6.0 - 8.0 - 2.0)
    });
    let plain = source("sine");
    let plain = clear_bend_signals::Source::from_document(&plain).unwrap().render(RATE, 2).unwrap();
    // Whichever of them is worked on.
    for work in 0..4 {
        let sum = sum(&bench(stems.clone(), work));
        for (channel, gain) in sum.channels().iter().zip(expected.clone()) {
            for (x, one) in channel.iter().zip(&plain.channels()[0]) {
                near(f64::from(*x), f64::from(*one) * gain, 1e-6);
            }
        }
    }
}

/// The room of a stem becomes a room for all, and nothing is heard of that: at 100 % wet on a send beside the dry sound it is what it
/// was as an insert, at any balance, level and pan.
#[test]
fn a_send_at_full_wet_beside_the_dry_sound_is_the_insert() {
    let strips = [Strip::default(), Strip { level_db: -7.0, pan: -0.6, ..Strip::default() }];
    let rooms = [
        stage_with("reverb", &[("decay_s", 0.8)]),
        stage_with("reverb", &[("decay_s", 0.8), ("output_db", -5.0)]),
        stage_with("convolution", &[]),
    ];
    let mut worst = f64::NEG_INFINITY;
    for room in rooms {
        for (strip, mix) in strips.into_iter().zip([0.33, 0.02]).chain([(strips[0], 0.9), (strips[1], 0.66)])
        {
            let stage = Stage { mix, ..room.clone() };
            // A mono sound: what is panned before a room, and what is panned after it, would else be two things.
            let hits = || stem("slip-hits", vec![gain(2.0), stage.clone()], Strip { pan: 0.0, ..strip }, &[]);
            let insert = bench(vec![hits(), stem("slip-bass", vec![], strip, &[])], 0);
            let sends = insert.sharing(1).unwrap();
            assert_eq!((sends.work, sends.stems.len()), (2, 3));
            assert_eq!(sends.stems[2].snapshots[0].stages[0].mix, Some(1.0));
            worst = worst.max(apart_db(&sum(&insert), &sum(&sends)));
            // Worked on from the other side, too.
            worst = worst.max(apart_db(&sum(&insert), &sum(&BenchDocument { work: 0, ..sends })));
        }
    }
    println!("send against insert: {worst:.1} dB");
    assert!(worst < -120.0, "{worst}");
}

/// A mix of 100 % leaves nothing to be heard beside it: it is sent before the strip, which is shut.
#[test]
fn an_insert_that_is_all_wet_is_sent_before_its_strip() {
    let room = wet("reverb", &[("decay_s", 0.6)]);
    let strip = Strip { level_db: -3.0, ..Strip::default() };
    let insert = bench(vec![stem("slip-hits", vec![room], strip, &[])], 0);
    let sends = insert.sharing(0).unwrap();
    assert_eq!(sends.stems[0].sends, [send(1, -3.0, true)]);
    near(sends.stems[0].strip.level_db, -60.0, 1e-9);
    assert!(apart_db(&sum(&insert), &sum(&sends)) < -50.0);
}

/// What acts by sums alone makes no difference between one path for all and one for each; what goes by level does.
#[test]
fn one_room_for_all_is_a_room_for_each_unless_it_goes_by_level() {
    let with = |stages: Vec<Stage>| {
        bench(
            vec![
                stem("slip-hits", vec![], Strip::default(), &[send(3, -6.0, false)]),
                stem("slip-keys", vec![], Strip { pan: 0.4, ..Strip::default() }, &[send(3, -3.0, false)]),
                stem("slip-bass", vec![], Strip::default(), &[send(3, -12.0, true)]),
                shared(stages, Strip { level_db: -2.0, ..Strip::default() }),
            ],
            0,
        )
    };
    let room = with_desk(&with(vec![wet("reverb", &[("decay_s", 1.0)])]), SendsCompared::of).unwrap();
    assert!(room.difference_db < -110.0, "{}", room.difference_db);
    assert_eq!((room.shared_runs, room.insert_runs), (1, 3));
    near(room.shared.loudness_lufs, room.inserts.loudness_lufs, 0.001);
    let said = room.sentence.to_string();
    assert!(said.contains("the sum is the same") && said.contains("once instead of 3 times"), "{said}");

    let squeezed = vec![wet("compressor", &[("threshold_db", -40.0), ("ratio", 10.0)])];
    let squeezed = with(squeezed);
    let found = with_desk(&squeezed, SendsCompared::of).unwrap();
    // Also while the shared path is worked on, or one of the others.
    for work in 1..4 {
        let other = BenchDocument { work, ..squeezed.clone() };
        let other = with_desk(&other, SendsCompared::of).unwrap();
        // As long as the stem at work or, for the shared path, the longest.
        near(other.difference_db, found.difference_db, 1.0);
    }
    let [one, each] = [SendsAs::Shared, SendsAs::Inserts].map(|sends_as| {
        let mut bench = squeezed.clone();
        bench.listening.sends_as = sends_as;
        sum(&bench)
    });
    let mut apart = one.clone();
    for (x, y) in apart.channels_mut().iter_mut().flatten().zip(each.channels().iter().flatten()) {
        *x -= y;
    }
    near(found.difference_db, rms_db(&apart) - rms_db(&one), 0.01);
    assert!(found.difference_db > -40.0 && found.sentence.to_string().contains("goes by level"));
}

/// Solo leaves the room standing, mute silences what is sent, and a soloed room is heard alone.
#[test]
fn solo_and_mute_act_on_what_is_sent() {
    let quiet = Strip { mute: true, ..Strip::default() };
    let solo = Strip { solo: true, ..Strip::default() };
    let strips = |strips: [Strip; 4]| {
        let [one, two, three, back] = strips;
        let mut bench = bench(
            vec![
                stem("sine", vec![], one, &[send(3, 0.0, false)]),
                stem("sine", vec![gain(20.0)], two, &[send(3, 0.0, false)]),
                stem("sine", vec![gain(40.0)], three, &[]),
                shared(vec![gain(-10.0)], back),
            ],
            2,
        );
        // The one at work is always heard: it is taken off the sum.
        bench.stems[2].source = source("impulse");
        bench.stems[2].snapshots[0].stages.clear();
        let sum = sum(&bench);
        f64::from(sum.channels()[0][12_000..13_000].iter().fold(0.0f32, |most, x| most.max(x.abs()))) * 10.0
    };
    let usual = Strip::default();
    let back = |all: f64| all * 10f64.powf(-0.5);
    for (strips_of, expected) in [
        ([usual, usual, usual, usual], 11.0 + back(11.0)),
        ([usual, quiet, usual, usual], 1.0 + back(1.0)),
        ([solo, usual, usual, usual], 1.0 + back(1.0)),
        ([usual, usual, usual, solo], back(11.0)),
        ([solo, usual, usual, solo], 1.0 + back(1.0)),
        ([usual, usual, usual, quiet], 11.0),
    ] {
        near(strips(strips_of), expected, 0.02 * expected);
    }
}

/// What goes there and comes back is measured at its own levels, in the sum of the report.
#[test]
fn what_goes_there_and_comes_back_is_measured() {
    let bench = bench(
        vec![
            stem(
                "pink-noise",
                vec![gain(-6.0)],
                Strip { level_db: -2.0, ..Strip::default() },
                &[send(1, -7.0, false)],
            ),
            shared(vec![gain(4.0)], Strip { level_db: -1.0, ..Strip::default() }),
        ],
        0,
    );
    with_desk(&bench, |desk| {
        let before = desk.stems[0].source.as_ref().unwrap().clone().into_owned();
        let levels = SumLevels::of(desk, &desk.beside(), &before, &desk.at_work());
        let plain = clear_bend_measures::PlainLevels::of(&before);
        let [way] = levels.sends.as_slice() else { panic!("{:?}", levels.sends) };
        near(way.sent.loudness_lufs, plain.loudness_lufs - 6.0 - 2.0 - 7.0, 0.01);
        near(way.back.loudness_lufs, plain.loudness_lufs - 6.0 - 2.0 - 7.0 + 4.0 - 1.0, 0.01);
        let together = 20.0 * (1.0 + 10f64.powf((-7.0 + 3.0) / 20.0)).log10();
        near(levels.after.loudness_lufs, plain.loudness_lufs - 8.0 + together, 0.01);
        near(levels.before.loudness_lufs, plain.loudness_lufs - 2.0 + together, 0.01);
    });
}

/// On a send the mix belongs at 100 % wet: said where what is sent comes back dry, and only there.
#[test]
fn dry_sound_on_a_send_is_said() {
    let sent = |is_sent| {
        let mut passage = Passage::new(clear_bend_testing::demo_loop());
        passage.is_sent = is_sent;
        passage
    };
    let at = |effect: &str, mix| Stage { mix, ..stage_with(effect, &[]) };
    let reported = |stages: &[Stage], is_sent| report(&Path { stages: stages.to_vec() }, &sent(is_sent)).1;
    let advice = "On a send the mix belongs at 100 % wet";
    for (stages, dry) in [
        (vec![at("reverb", 0.33)], vec![0]),
        (vec![at("reverb", 1.0)], vec![]),
        (vec![at("chorus", 0.5), at("reverb", 1.0)], vec![]),
        (vec![gain(3.0), at("reverb", 0.5)], vec![1]),
        (vec![Stage { on: false, ..at("reverb", 0.5) }, gain(1.0)], vec![]),
    ] {
        let found = reported(&stages, true);
        let said = found.sentences.iter().any(|sentence| sentence.to_string().contains(advice));
        assert_eq!(said, !dry.is_empty());
        assert_eq!(found.dry_stages, dry);
        // A stem of its own may have any mix.
        assert!(reported(&stages, false).dry_stages.is_empty());
    }
}

#[test]
fn what_leads_nowhere_or_in_a_circle_is_refused() {
    let stems = |one: &[Send], back: &[Send]| {
        vec![
            stem("sine", vec![], Strip::default(), one),
            stem("sent", vec![gain(0.0)], Strip::default(), back),
            stem("sent", vec![gain(0.0)], Strip::default(), &[]),
        ]
    };
    let refused = |stems: Vec<Stem>| bench(stems, 0).check().map(|_| ()).map_err(|e: Refusal| e.to_string());
    let mut keyed = stems(&[send(1, 0.0, false)], &[]);
    let key = r#"{"effect": "compressor", "sounds": {"key": {"kind": "stem", "stem": 1, "after": true}}}"#;
    keyed[0].snapshots[0].stages.push(serde_json::from_str(key).unwrap());
    let mut many = stems(&[], &[]);
    many.extend((0..3).map(|_| shared(vec![], Strip::default())));
    let mut reference = bench(stems(&[], &[]), 0);
    reference.reference = Some(source("sent"));
    let mut response = stems(&[], &[]);
    let taken = r#"{"effect": "convolution", "sounds": {"response": {"kind": "sent"}}}"#;
    response[0].snapshots[0].stages.push(serde_json::from_str(taken).unwrap());
    let all = [
        refused(stems(&[send(1, -3.0, true), send(2, 0.0, false)], &[])),
        refused(stems(&[], &[send(2, 0.0, false)])),
        refused(stems(&[], &[send(1, 0.0, false)])),
        refused(stems(&[send(0, 0.0, false)], &[])),
        refused(stems(&[send(7, 0.0, false)], &[])),
        refused(vec![stem("sine", vec![], Strip::default(), &[send(0, 0.0, false)])]),
        refused(stems(&[send(1, 0.0, false), send(1, -3.0, true)], &[])),
        refused(stems(&[send(1, 13.0, false)], &[])),
        refused(stems(&[send(1, f64::NAN, false)], &[])),
        refused(keyed),
        refused(many),
        refused(vec![shared(vec![], Strip::default())]),
        reference.check().map(|_| ()).map_err(|e| e.to_string()),
        refused(response),
    ];
    let said: Vec<_> =
        all.into_iter().map(|found| found.map_or_else(|e| e, |()| "accepted".to_owned())).collect();
    insta::assert_snapshot!(said.join("\n"));
    let usual = bench(stems(&[send(1, -3.0, true)], &[]), 0);
    for (stage, work) in [(0, 1), (3, 0)] {
        assert!(BenchDocument { work, ..usual.clone() }.sharing(stage).is_err());
    }
    // It comes back from its file as it was.
    let text = serde_json::to_string(&usual.to_file().unwrap()).unwrap();
    assert_eq!(BenchDocument::from_json(&text).unwrap().stems[0].sends, usual.stems[0].sends);
}

/// What is heard is what is measured: with returns that are late, stems that are late, and sends from both sides of the strip.
#[test]
fn shared_paths_are_heard_as_they_are_rendered() {
    let late = || stage_with("compressor", &[("threshold_db", -30.0), ("lookahead_ms", 5.0)]);
    let strip = Strip { level_db: -14.0, pan: 0.3, ..Strip::default() };
    let quiet = Strip { level_db: -16.0, ..Strip::default() };
    let back = Strip { level_db: -2.0, pan: -0.5, ..Strip::default() };
    for (own, first, second) in [
        (vec![], vec![wet("reverb", &[("decay_s", 0.5)])], vec![gain(-3.0)]),
        (vec![late()], vec![gain(1.0)], vec![late(), gain(-2.0)]),
        (vec![gain(-1.0)], vec![late(), wet("reverb", &[("decay_s", 0.5)])], vec![late(), late()]),
    ] {
        let bench = bench(
            vec![
                stem("slip-keys", own, strip, &[send(2, -3.0, false), send(3, -9.0, true)]),
                stem("slip-hits", vec![], quiet, &[send(2, -6.0, false)]),
                shared(first, back),
                shared(second, Strip::default()),
            ],
            0,
        );
        let (beside, rendered, dry) = with_desk(&bench, |desk| {
            let beside = desk.beside();
            let (rendered, _) = desk.sum(&beside, &desk.at_work());
            (beside, rendered, desk.stems[0].source.clone().unwrap().into_owned())
        });
        let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
        let checked = bench.check().unwrap();
        live.set_source(dry);
        live.set_backing(beside.backing);
        live.set_path(&checked[0].path);
        live.set_stems(true, strip);
        live.set_play(Play::Once);
        for (number, (place, feed)) in beside.feeds.into_iter().enumerate() {
            live.set_lane(Runs::Shared(number), &checked[place].path);
            live.set_feed(number, feed);
            live.set_return(number, checked[place].strip);
            live.set_send(number, checked[0].sends.iter().find(|send| send.to == place).copied());
        }
        live.set_playing(true);
        let heard = play(&mut live, RATE as usize * 4);
        // Levels move to their places first, and the sound comes in; after that, it is the same.
        let late = (0..9600).find(|late| {
            let at = 60_000..60_400;
            at.clone().all(|i| (heard[0][i + late] - rendered.channels()[0][i]).abs() < 2e-5)
        });
        let late = late.expect("heard as rendered, late");
        let mut most = 0.0f32;
        for (heard, rendered) in heard.iter().zip(rendered.channels()) {
            for i in 48_000..rendered.len().min(180_000) {
                most = most.max((heard[i + late] - rendered[i]).abs());
            }
        }
        assert!(most < 1e-5, "{most} at {late}");
    }
}

/// A stem that is heard alone sends nothing that is heard; all together again, it does, with no click.
#[test]
fn shared_paths_rest_while_one_stem_is_heard_alone() {
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    let tone = clear_bend_testing::tone(100.0, -20.0, 2.0);
    live.set_source(tone.clone());
    live.set_path(&Path::default());
    live.set_lane(Runs::Shared(0), &Path { stages: vec![gain(0.0)] });
    live.set_send(0, Some(send(1, 0.0, false)));
    live.set_stems(false, Strip::default());
    live.set_playing(true);
    let peak = |x: &[f32]| f64::from(x.iter().fold(0.0f32, |most, x| most.max(x.abs())));
    let one = peak(&play(&mut live, 24_000)[0][12_000..]);
    near(one, 0.1, 1e-3);
    live.set_stems(true, Strip::default());
    let heard = play(&mut live, 24_000);
    near(peak(&heard[0][12_000..]), 0.2, 1e-3);
    let step = heard[0].windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0f32, f32::max);
    assert!(f64::from(step) < 0.2 * std::f64::consts::TAU * 100.0 / f64::from(RATE) * 1.2);
    live.set_send(0, None);
    near(peak(&play(&mut live, 24_000)[0][12_000..]), 0.1, 1e-3);
    // As many lanes as there may be make no lane of a shared path.
    (1..MOST_LANES).for_each(|lane| live.set_lane(lane, &Path::default()));
    live.set_lane(Runs::Shared(0), &Path { stages: vec![gain(-20.0)] });
    live.set_send(0, Some(send(1, 0.0, false)));
    near(peak(&play(&mut live, 48_000)[0][24_000..]), 0.11, 1e-3);
    // A path that is exchanged while it sounds, for one that looks ahead: everything waits for it.
    live.set_send(0, Some(send(1, -6.0, true)));
    play(&mut live, 4_800);
    live.set_lane(
        Runs::Shared(0),
        &Path {
            stages: vec![stage_with(
                "compressor",
                &[("threshold_db", 0.0), ("ratio", 1.0), ("lookahead_ms", 10.0)],
            )],
        },
    );
    let heard = play(&mut live, 48_000);
    near(peak(&heard[0][24_000..]), 0.1 * (1.0 + 10f64.powf(-0.3)), 1e-3);
}

prop_compose! {
    fn any_strip()(level_db in -60.0f64..12.0, pan in -1.0f64..=1.0, mute in prop::bool::weighted(0.2), solo in prop::bool::weighted(0.2)) -> Strip {
        Strip { level_db, pan, mute, solo }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// The sum does not depend on which stem is worked on, is finite, and comes back from its file, whatever is sent where.
    #[test]
    fn any_sends_are_added_and_measured(
        strips in prop::collection::vec(any_strip(), 5),
        levels in prop::collection::vec((0usize..3, -60.0f64..=12.0, any::<bool>()), 3),
        effect in 0usize..4,
        mix in 0.0f64..=1.0,
        round in any::<bool>(),
    ) {
        let effect = ["reverb", "compressor", "chorus", "saturation"][effect];
        let quiet = |strip: &Strip| Strip { solo: false, mute: false, ..*strip };
        let sends: Vec<Vec<Send>> = levels.iter().map(|(to, level_db, before)| match to {
            0 => vec![],
            1 => vec![send(3, *level_db, *before)],
            _ => vec![send(4, *level_db, *before), send(3, -*level_db / 5.0, !before)],
        }).collect();
        let burst = |i: usize| {
            let text = format!(r#"{{"kind": "noise-burst", "params": {{"lead_s": 0.1, "burst_ms": 150, "tail_s": {}}}}}"#, 0.2 + 0.1 * i as f64);
            serde_json::from_str::<SourceDocument>(&text).unwrap()
        };
        let mut stems: Vec<Stem> = (0..3).map(|i| Stem {
            source: burst(0), ..stem("sine", vec![], quiet(&strips[i]), &sends[i])
        }).collect();
        stems.push(shared(vec![Stage { mix, ..stage_with(effect, &[]) }], quiet(&strips[3])));
        stems.push(shared(vec![gain(-6.0)], quiet(&strips[4])));
        let mut bench = bench(stems, 0);
        bench.play = if round { Play::Round } else { Play::Once };
        let first = sum(&bench);
        prop_assert!(first.channels().iter().flatten().all(|x| x.is_finite()));
        for work in 1..5 {
            let other = sum(&BenchDocument { work, ..bench.clone() });
            prop_assert!(apart_db(&first, &other) < -100.0 || first.channels()[0].iter().all(|x| x.abs() < 1e-6));
        }
        // With any switches and lengths it is added up, compared and measured all the same.
        for (i, stem) in bench.stems.iter_mut().enumerate() {
            stem.strip = strips[i];
            if i < 3 {
                stem.source = burst(i);
            }
        }
        for work in 0..5 {
            bench.work = work;
            let text = serde_json::to_string(&bench.to_file().unwrap()).unwrap();
            prop_assert_eq!(&BenchDocument::from_json(&text).unwrap().stems[0].sends, &bench.stems[0].sends);
            with_desk(&bench, |desk| {
                let after = desk.at_work();
                let levels = SumLevels::of(desk, &desk.beside(), &after, &after);
                assert!(levels.sends.iter().all(|way| way.to >= 3));
                if let Some(found) = SendsCompared::of(desk) {
                    assert!(!found.sentence.to_string().contains("NaN"));
                }
            });
        }
    }
}
