//! Loops as they are heard once they have gone round, and sounds that are played once, with what is left after the end.

use clear_bend_effects::Setup;
use clear_bend_explaining::report::report;
use clear_bend_measures::export::{Part, export};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{Levels, MatchBy};
use clear_bend_playing::live::Live;
use clear_bend_playing::path::Play;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::{Rendered, render, render_with};
use clear_bend_sound::Buffer;
use clear_bend_testing::bands::{BELL, band, stage};
use clear_bend_testing::{RATE, compressor, demo_loop, near, signal, source, stage_with, tone, with_sound};
use proptest::prelude::*;

fn round(path: &Path, before: &Buffer) -> Rendered {
    render_with(path, before, Play::Round, |_| {})
}

/// The same sound so many times.
fn repeated(sound: &Buffer, times: usize) -> Buffer {
    Buffer::new(sound.rate_hz(), sound.channels().iter().map(|c| c.repeat(times)).collect()).unwrap()
}

/// The largest difference of two sounds, over the loudest sample of both.
fn largest_difference(one: &Buffer, other: &Buffer) -> f32 {
    let of = |sound: &Buffer| sound.channels().iter().flatten().fold(1e-9f32, |most, x| most.max(x.abs()));
    let all = one.channels().iter().zip(other.channels()).flat_map(|(a, b)| a.iter().zip(b));
    assert_eq!(one.frames(), other.frames());
    all.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max) / of(one).max(of(other))
}

/// A loop of a second with as long a release: from rest, its start is not yet turned down by its end.
#[test]
fn a_short_loop_with_a_long_release_is_measured_as_it_is_heard() {
    let before = demo_loop().slice(0..RATE as usize);
    let path = compressor(&[("threshold_db", -40.0), ("ratio", 20.0), ("release_ms", 1000.0)]);
    let often = render(&path, &repeated(&before, 12)).after;
    let heard = often.slice(11 * RATE as usize..12 * RATE as usize);
    let settled = round(&path, &before);
    assert!(largest_difference(&settled.after, &heard) < 1e-3);
    assert_eq!(settled.tail.frames(), 0);
    let (_, told) = report(&path, &Passage::played(before.clone(), Play::Round));
    near(told.after.rms_dbfs, Levels::of(&heard).rms_dbfs, 0.01);
    // From rest it says something else, which is why this matters.
    let (_, once) = report(&path, &Passage::new(before));
    assert!((once.after.rms_dbfs - told.after.rms_dbfs).abs() > 1.0);
}

/// Noise at a steady level is noise at a steady level after a compressor, with the crest factor of noise: about 12 dB
/// (common practice), not that of the first milliseconds before the attack.
#[test]
fn steady_noise_keeps_the_crest_factor_of_noise() {
    let noise = signal("pink-noise", &[("seconds", 4.0)], 1);
    let path =
        compressor(&[("threshold_db", -40.0), ("ratio", 8.0), ("attack_ms", 30.0), ("release_ms", 200.0)]);
    let crest = |play| report(&path, &Passage::played(noise.clone(), play)).1.after.crest_db.unwrap();
    let later = render(&path, &repeated(&noise, 3)).after.slice(4 * RATE as usize..8 * RATE as usize);
    near(crest(Play::Round), Levels::of(&later).crest_db.unwrap(), 0.05);
    assert!(crest(Play::Round) < 15.0, "{}", crest(Play::Round));
    assert!(crest(Play::Once) > crest(Play::Round) + 3.0);
}

/// The sources of keys go round with the passage.
#[test]
fn a_key_acts_over_the_seam() {
    let frames = RATE as usize;
    let kick = source("slip-drum", &[]);
    // Its blow lies at the end of the loop, so that the gain comes back in its beginning.
    let mut key = vec![0.0; frames];
    key[frames - 4800..].copy_from_slice(&kick.render(RATE, 1).unwrap().channels()[0][..4800]);
    let sound = Buffer::new(RATE, vec![key]).unwrap();
    let mut ducker = compressor(&[("threshold_db", -40.0), ("ratio", 10.0), ("release_ms", 150.0)]);
    let key = |stage: &mut Stage, times| with_sound(stage, 0, kick.clone(), &sound, times * frames);
    let before = tone(440.0, -12.0, 1.0);
    key(&mut ducker.stages[0], 1);
    let settled = round(&ducker, &before);
    key(&mut ducker.stages[0], 6);
    let often = render(&ducker, &repeated(&before, 6)).after;
    assert!(largest_difference(&settled.after, &often.slice(5 * frames..6 * frames)) < 1e-3);
    assert!(settled.gain_db(0).unwrap()[0] < -3.0);
}

/// A gate, which has a state that jumps: behind another stage it may jump a little earlier or later in a round, where that
/// one has settled but for a hundred-thousandth. So it stands first.
fn any_first() -> impl Strategy<Value = Stage> {
    let gate = (-50.0f64..-10.0, 5.0f64..300.0)
        .prop_map(|(t, l)| stage_with("gate", &[("threshold_db", t), ("release_ms", l)]));
    prop_oneof![1 => gate, 4 => any_stage()]
}

fn any_stage() -> impl Strategy<Value = Stage> {
    prop_oneof![
        (-50.0f64..-10.0, 1.5f64..20.0, 0.0f64..30.0, 10.0f64..400.0).prop_map(|(t, r, a, l)| {
            stage_with(
                "compressor",
                &[("threshold_db", t), ("ratio", r), ("attack_ms", a), ("release_ms", l)],
            )
        }),
        (0.0f64..18.0, 5.0f64..300.0)
            .prop_map(|(i, l)| stage_with("limiter", &[("drive_db", i), ("release_ms", l)])),
        (-40.0f64..-10.0).prop_map(|t| stage_with("de-esser", &[("threshold_db", t)])),
        Just(stage_with("multiband", &[])),
        (40.0f64..12_000.0, -18.0f64..18.0, 0.3f64..20.0, 0usize..3).prop_map(|(hz, gain, q, phase)| {
            let mut params = band(BELL, hz, gain, q);
            params.push(("phase", phase as f64));
            stage(&params)
        }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, max_shrink_iters: 32, ..ProptestConfig::default() })]

    /// A round is what comes out when the loop is sent through again and again.
    #[test]
    fn a_round_is_what_repeating_comes_to(
        first in any_first(),
        then in prop::option::of(any_stage()),
        seconds in 0.15f64..1.5,
        from in 0.0f64..6.0,
    ) {
        let from = (from * f64::from(RATE)) as usize;
        let before = demo_loop().slice(from..from + (seconds * f64::from(RATE)) as usize);
        let path = Path { stages: [Some(first), then].into_iter().flatten().collect() };
        let times = (12.0 / seconds).ceil() as usize;
        let often = render(&path, &repeated(&before, times)).after;
        let frames = before.frames();
        // The last round misses what comes after it, where a filter looks ahead.
        let last = often.slice((times - 2) * frames..(times - 1) * frames);
        let difference = largest_difference(&round(&path, &before).after, &last);
        prop_assert!(difference < 2e-3, "{difference}");
    }
}

/// A bell rings at its own frequency, and falls as its poles say: exp(-pi t f / (A Q)) with A the square root of its gain
/// (Audio EQ Cookbook).
#[test]
fn a_tail_is_as_long_as_the_bell_rings() {
    let (freq_hz, gain_db, q) = (200.0, 18.0, 30.0);
    let path = Path { stages: vec![stage(&band(BELL, freq_hz, gain_db, q))] };
    let before = tone(freq_hz, -30.0, 4.0);
    let rendered = render(&path, &before);
    let (a, gain) = (10f64.powf(gain_db / 40.0), 10f64.powf(gain_db / 20.0));
    // What rings is what the bell adds.
    let seconds = (1000.0 * (gain - 1.0) / gain).ln() * a * q / (std::f64::consts::PI * freq_hz);
    near(rendered.tail.seconds(), seconds, 0.03 * seconds);
    let (_, told) = report(&path, &Passage::new(before.clone()));
    near(told.tail_s, rendered.tail.seconds(), 1e-9);
    let said = told.sentences.iter().map(ToString::to_string).collect::<String>();
    assert!(said.contains("After its end it goes on for 0.9"), "{said}");
    // It is handed out, too, and what stands in front of it is as long as it was.
    let file = export(Part::After, &before, &path, Play::Once, MatchBy::Off, |_| {});
    assert_eq!(file.frames(), before.frames() + rendered.tail.frames());
    assert!(file.channels()[0][before.frames()..] == rendered.tail.channels()[0]);
    assert_eq!(
        export(Part::Before, &before, &path, Play::Once, MatchBy::Off, |_| {}).frames(),
        before.frames()
    );
    assert_eq!(
        export(Part::After, &before, &path, Play::Round, MatchBy::Off, |_| {}).frames(),
        before.frames()
    );
}

#[test]
fn what_does_not_ring_has_no_tail() {
    let before = demo_loop();
    let flat = Path { stages: vec![stage(&band(BELL, 1000.0, 0.0, 1.0))] };
    for path in [Path::default(), compressor(&[("threshold_db", -30.0)]), flat] {
        assert_eq!(render(&path, &before).tail.frames(), 0);
    }
}

/// Played once, the live bench gives the passage and its tail, stops, and begins from rest the next time.
#[test]
fn playing_once_is_heard_as_it_is_rendered_and_ends() {
    const BLOCK: usize = 128;
    let before = signal("burst", &[], 2);
    let path = Path {
        stages: vec![
            stage(&band(BELL, 300.0, 12.0, 20.0)),
            compressor(&[("threshold_db", -30.0), ("release_ms", 800.0)]).stages[0].clone(),
        ],
    };
    let rendered = render(&path, &before);
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    live.set_play(Play::Once);
    live.set_source(before.clone());
    live.set_path(&path);
    let mut take = || {
        live.set_playing(true);
        let mut out = Vec::new();
        for _ in 0..20 * RATE as usize / BLOCK {
            let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
            live.process(&mut left, &mut right);
            out.extend_from_slice(&left);
            let meters = live.read_meters();
            if !meters.playing {
                break;
            }
        }
        assert!(!live.read_meters().playing, "it does not end");
        // The gate closes.
        for _ in 0..8 {
            live.process(&mut [0.0; BLOCK], &mut [0.0; BLOCK]);
        }
        out
    };
    let (first, second) = (take(), take());
    let late =
        clear_bend_playing::path::Chain::new(&path, Setup { rate_hz: RATE, max_block: BLOCK }).latency();
    let whole = rendered.with_tail();
    let whole = &whole.channels()[0];
    let start = 4 * BLOCK + 480;
    for heard in [&first, &second] {
        assert!(heard.len() >= late + whole.len());
        let at = heard.len().min(whole.len());
        // The gate waits for what is late; after that, every sample is the rendered one.
        let offset = (0..2 * late + 2 * BLOCK)
            .find(|offset| (0..2000).all(|i| heard.get(offset + start + i) == whole.get(start + i)));
        let offset = offset.expect("the rendered samples are heard");
        assert!((start..at - offset).all(|i| heard[offset + i] == whole[i]));
        assert!(heard[offset + whole.len()..].iter().all(|x| x.abs() < 1e-3));
    }
}
