//! What holds for every effect and every path: the same result in any block size, bit-exact bypass, finite
//! output whatever comes in, and no allocation while sound runs.

use assert_no_alloc::{AllocDisabler, assert_no_alloc};
use clear_bend_effects::{self as effects, Around, Plan, Setup};
use clear_bend_measures::difference;
use clear_bend_playing::live::Hear;
use clear_bend_playing::live::{Live, Runs};
use clear_bend_playing::mix::{Send, Strip};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;
use clear_bend_testing::{
    LATE, LATE_FRAMES, RATE, SETUP, compressor, demo_loop, place, signal, source, with_sound,
};
use proptest::prelude::*;

#[global_allocator]
static GUARD: AllocDisabler = AllocDisabler;

/// A path of three stages with different scopes and mixes.
pub fn three_stages() -> Path {
    let stage = |threshold, scope, mix| Stage {
        scope,
        mix,
        ..compressor(&[("threshold_db", threshold), ("attack_ms", 5.0)]).stages.remove(0)
    };
    Path {
        stages: vec![
            stage(-20.0, Scope::Stereo, 1.0),
            stage(-30.0, Scope::Mid, 0.6),
            stage(-40.0, Scope::Side, 1.0),
        ],
    }
}

/// Runs a chain over a second of the loop in blocks of one size, with moves on the way at fixed places.
fn in_blocks(path: &Path, block: usize) -> Buffer {
    let mut signal = demo_loop().slice(0..48_000);
    let mut chain = Chain::new(path, SETUP);
    let mut at = 0;
    // Blocks end where parameters move, as they do in the browser.
    let moves = [
        (12_000, 0, -35.0, 1.0, true),
        (12_800, 0, -10.0, 1.0, true),
        (20_000, 1, -50.0, 0.0, true),
        (30_000, 2, -40.0, 1.0, false),
    ];
    for (until, stage, threshold, mix, on) in moves.into_iter().chain([(48_000, 9, 0.0, 0.0, true)]) {
        let mut piece = signal.slice(at..until);
        piece.for_each_block(block, |io| chain.process(io, 0));
        for (out, piece) in signal.channels_mut().iter_mut().zip(piece.channels()) {
            out[at..until].copy_from_slice(piece);
        }
        if let Some(stage_now) = path.stages.get(stage) {
            let mut moved = Stage { mix, on, ..stage_now.clone() };
            moved.values[place("threshold_db")] = threshold;
            chain.set(stage, &moved);
        }
        at = until;
    }
    signal
}

#[test]
fn blocks_of_any_size_give_the_same_samples() {
    let whole = in_blocks(&three_stages(), 48_000);
    for block in [1, 64, 128, 1000] {
        let found = in_blocks(&three_stages(), block);
        let differs =
            |c: usize| found.channels()[c].iter().zip(&whole.channels()[c]).position(|(a, b)| a != b);
        assert_eq!([differs(0), differs(1)], [None, None], "blocks of {block}");
    }
}

/// A value that looks random, 0 to 1, the same for the same place.
fn scattered(seed: usize) -> f64 {
    (seed as f64 * 0.618_033_988_749).fract()
}

/// Runs one effect over half a second, its parameters moving at fixed places to values all over their ranges and to
/// both ends of each.
fn automated(effect: &'static effects::Effect, block: usize, keyed: bool) -> Buffer {
    let mut sound = demo_loop().slice(0..24_000);
    let mut stage = Stage::of(effect);
    if keyed {
        let key = source("white-noise", &[("seconds", 0.5)]);
        let sound = key.render(RATE, 2).unwrap();
        with_sound(&mut stage, 0, key, &sound, 24_000);
    }
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
    for move_at in 0..30 {
        let from = move_at * 800;
        let mut piece = sound.slice(from..from + 800);
        let mut done = 0;
        piece.for_each_block(block, |io| {
            chain.process(io, from + done);
            done += io[0].len();
        });
        for (out, piece) in sound.channels_mut().iter_mut().zip(piece.channels()) {
            out[from..from + 800].copy_from_slice(piece);
        }
        for (i, param) in effect.params.iter().enumerate() {
            let position = match (move_at + i) % 5 {
                0 => 0.0,
                1 => 1.0,
                _ => scattered(move_at * 31 + i),
            };
            stage.values[i] = param.value_at(position);
        }
        // What is heard alone hides the rest; the last moves hear the result.
        if let Some(hear) = effect.params.iter().position(|p| p.id == "hear").filter(|_| move_at % 3 != 0) {
            stage.values[hear] = 0.0;
        }
        stage.mix = if move_at % 4 == 0 { scattered(move_at) } else { 1.0 };
        stage.on = move_at % 11 != 7;
        chain.set(0, &stage);
    }
    sound
}

#[test]
fn every_effect_under_automation_is_the_same_in_any_block_size() {
    for effect in effects::ALL {
        for keyed in [false, true].into_iter().take(if effect.slot("key").is_some() { 2 } else { 1 }) {
            let whole = automated(effect, 800, keyed);
            // Filters with all their gains up may well add up to more.
            let most = if effect.filters() { f32::MAX } else { 100.0 };
            assert!(whole.channels().iter().flatten().all(|x| x.is_finite() && x.abs() < most));
            for block in [1, 64, 97] {
                let found = automated(effect, block, keyed);
                let differs =
                    |c: usize| found.channels()[c].iter().zip(&whole.channels()[c]).position(|(a, b)| a != b);
                assert_eq!([differs(0), differs(1)], [None, None], "{} in blocks of {block}", effect.id);
            }
        }
    }
}

#[test]
fn reset_equals_new() {
    for effect in effects::ALL {
        let values: Vec<f64> = effect.params.iter().map(|p| p.value_at(0.3)).collect();
        let run = |processor: &mut dyn effects::Processor| {
            let mut signal = demo_loop().slice(0..24_000);
            signal.for_each_block(128, |io| processor.process(io, &Around::default()));
            signal
        };
        let mut processor = (effect.build)(&Plan::plain(SETUP, &values));
        let first = run(processor.as_mut());
        processor.reset();
        assert!(run(processor.as_mut()) == first, "{}", effect.id);
    }
}

#[test]
fn a_switched_off_path_passes_bit_for_bit_and_its_difference_is_silence() {
    let before = demo_loop();
    let mut path = three_stages();
    path.stages[0].on = false;
    path.stages[1].mix = 0.0;
    path.stages[2].on = false;
    let after = render(&path, &before).after;
    assert!(after == before);
    assert!(difference(&before, &after, 0.0).channels().iter().flatten().all(|x| *x == 0.0));
}

#[test]
fn what_comes_late_is_aligned_in_every_scope_and_mix_and_off() {
    let before = demo_loop().slice(0..48_000);
    for scope in [Scope::Stereo, Scope::Left, Scope::Right, Scope::Mid, Scope::Side] {
        for (mix, on) in [(1.0, true), (0.4, true), (1.0, false), (0.0, true)] {
            let late = Stage { scope, mix, on, ..Stage::of(&LATE) };
            let path = Path { stages: vec![late.clone(), late] };
            assert_eq!(Chain::new(&path, SETUP).latency(), 2 * LATE_FRAMES);
            let after = render(&path, &before).after;
            let frames = before.frames() - 2 * LATE_FRAMES;
            let error = difference(&before, &after, 0.0).slice(0..frames);
            let largest = error.channels().iter().flatten().fold(0.0f32, |m, x| m.max(x.abs()));
            // Mid and side are half sums, and a mix adds two products: the last bit. Off is bit for bit.
            let allowed = if mix == 0.0 || !on { 0.0 } else { 2e-7 };
            assert!(largest <= allowed, "{scope:?}, mix {mix}, on {on}: {largest:e}");
        }
    }
    // Gain traces lie where the sound is.
    let mut path = compressor(&[("threshold_db", -30.0)]);
    let plain = render(&path, &before).gain_db(0).unwrap().to_vec();
    path.stages.insert(0, Stage::of(&LATE));
    let shifted = render(&path, &before).gain_db(1).unwrap().to_vec();
    assert!(plain[..40_000] == shifted[..40_000]);
}

/// A stage that comes out of rest is heard once its processor gives what it will give: until then the untouched signal is, as loud as ever.
/// Without that, a tone would sink for as long as the processor is late.
#[test]
fn a_stage_that_leaves_rest_leaves_no_hole() {
    for wait in [0, 1000] {
        let late = Stage { on: false, ..Stage::of(&LATE) };
        let path = Path { stages: vec![late.clone()] };
        let mut chain = Chain::new(&path, SETUP);
        let mut heard = Vec::new();
        let mut run = |chain: &mut Chain, frames: usize| {
            for _ in 0..frames / 100 {
                let (mut left, mut right) = ([0.5f32; 100], [0.25f32; 100]);
                chain.process(&mut [&mut left, &mut right], 0);
                heard.extend_from_slice(&left);
                assert!(left.iter().zip(&right).all(|(l, r)| (l - 2.0 * r).abs() < 1e-6));
            }
        };
        run(&mut chain, 2000 + wait);
        chain.set(0, &Stage { on: true, ..late });
        run(&mut chain, 6000);
        let least = heard[LATE_FRAMES..].iter().fold(1.0f32, |least, x| least.min(*x));
        assert!((least - 0.5).abs() < 1e-6, "it sinks to {least}");
    }
}

#[test]
fn mid_and_side_together_are_the_whole() {
    // With a ratio of 1 the two ways through mid and side change nothing but the last bit.
    let before = demo_loop();
    let unit = |scope| Stage { scope, ..compressor(&[("ratio", 1.0)]).stages.remove(0) };
    let after = render(&Path { stages: vec![unit(Scope::Mid), unit(Scope::Side)] }, &before).after;
    let error = difference(&before, &after, 0.0);
    assert!(error.channels().iter().flatten().all(|x| x.abs() < 1e-6));
    // A side stage of a mono source has nothing to work on.
    let mono = signal("sine", &[("seconds", 0.2)], 2);
    let side = Stage { scope: Scope::Side, ..compressor(&[("threshold_db", -60.0)]).stages.remove(0) };
    assert!(render(&Path { stages: vec![side] }, &mono).after == mono);
    // Left and right are themselves.
    let left = Stage { scope: Scope::Left, ..compressor(&[("threshold_db", -60.0)]).stages.remove(0) };
    let after = render(&Path { stages: vec![left] }, &mono).after;
    assert!(after.channels()[1] == mono.channels()[1] && after.channels()[0] != mono.channels()[0]);
}

#[test]
fn nothing_allocates_while_sound_runs() {
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: 128 }).unwrap();
    live.set_source(demo_loop());
    live.set_path(&three_stages());
    live.set_lane(Runs::Shared(0), &three_stages());
    live.set_feed(0, demo_loop());
    live.set_playing(true);
    let (mut left, mut right) = ([0.0; 128], [0.0; 128]);
    for k in 0..400 {
        if k == 200 {
            // Prepared outside, swapped in while sound runs.
            live.set_source(demo_loop());
            live.set_backing(demo_loop());
            live.set_feed(0, demo_loop());
            live.set_path(&compressor(&[]));
            live.set_lane(Runs::Shared(0), &compressor(&[]));
        }
        assert_no_alloc(|| {
            live.set_stems(k % 100 < 90, Strip::default());
            live.set_send(0, Some(Send { to: 1, level_db: scattered(k), before_strip: k % 5 == 0 }));
            live.set_return(0, Strip { level_db: -scattered(k), ..Strip::default() });
            live.set_hear([Hear::Before, Hear::After, Hear::Difference][k % 3]);
            let params = &effects::compressor::EFFECT.params;
            let (param, position) = (k % params.len(), scattered(k));
            live.set_param(0, 0, param, params[param].value_at(position)).unwrap();
            live.set_mix(0, 0, 0.5, k % 7 != 0).unwrap();
            live.set_match_gain_db(0, 3.0);
            live.process(&mut left, &mut right);
            live.read_meters();
        });
    }
}

/// Samples as they may come from a broken file or a wild effect.
fn wild_sample() -> impl Strategy<Value = f32> {
    prop_oneof![
        4 => -1f32..1.0,
        1 => prop::num::f32::ANY,
        1 => Just(1e-41f32),
        1 => Just(0.0f32),
        1 => -1e30f32..1e30,
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn whatever_comes_in_only_zero_and_normal_numbers_come_out(
        samples in prop::collection::vec(wild_sample(), 600),
        moves in prop::collection::vec((0usize..40, prop_oneof![Just(0.0), Just(1.0), 0f64..=1.0]), 6),
    ) {
        for effect in effects::ALL {
            let mut stage = Stage::new(effect, &[]).unwrap();
            let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
            for (piece, (param, position)) in samples.chunks(100).zip(&moves) {
                match effect.params.get(*param) {
                    Some(entry) => stage.values[*param] = entry.value_at(*position),
                    None => stage.mix = *position,
                }
                chain.set(0, &stage);
                let (mut left, mut right) = (piece.to_vec(), piece.to_vec());
                right.reverse();
                chain.process(&mut [&mut left, &mut right], 0);
                prop_assert!(left.iter().chain(&right).all(|x| *x == 0.0 || x.is_normal()));
            }
            // Silence in, and after its tail silence out, without denormal numbers on the way.
            for tenth in 0..30 {
                let mut quiet = vec![0.0; 4800];
                chain.process(&mut [&mut quiet], 0);
                prop_assert!(quiet.iter().all(|x| *x == 0.0 || x.is_normal()), "{}", effect.id);
                // A sharp resonance, a room and feedback ring for longer than this.
                let ends = !effect.filters() && !effect.rings() && effect.swing(&stage.values).is_none();
                prop_assert!(!ends || tenth < 20 || quiet.iter().all(|x| *x == 0.0), "{} after {tenth}", effect.id);
            }
        }
    }
}
