//! The live bench: what is heard is what is rendered, and nothing clicks.

use clear_bend_effects::Setup;
use clear_bend_playing::live::Hear;
use clear_bend_playing::live::Live;
use clear_bend_playing::mix::Strip;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::scope::Scope;
use clear_bend_testing::live::{BLOCK, play};
use clear_bend_testing::{
    LATE, LATE_FRAMES, RATE, SETUP, compressor, demo_loop, lateness, near, place, signal, stage_with, tone,
};

fn live(source: clear_bend_sound::Buffer, path: &Path) -> Live {
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    live.set_source(source);
    live.set_path(path);
    live.set_playing(true);
    live
}

/// Frames of the fade at the start.
const FADE: usize = 480;

/// The largest step from one sample to the next.
fn largest_step(x: &[f32]) -> f32 {
    x.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0, f32::max)
}

#[test]
fn live_and_offline_are_the_same_samples() {
    let one = compressor(&[("threshold_db", -30.0), ("makeup_db", -3.0)]);
    for path in [one, crate::processing::three_stages()] {
        let before = demo_loop();
        let after = render(&path, &before).after;
        let heard = play(&mut live(before, &path), 96_000);
        for (heard, after) in heard.iter().zip(after.channels()) {
            let late = Chain::new(&path, SETUP).latency();
            let skip = 2 * FADE + BLOCK;
            assert!(heard[late + skip..96_000] == after[skip..96_000 - late]);
        }
    }
}

#[test]
fn a_moved_parameter_is_heard_in_the_next_block() {
    let path = compressor(&[("threshold_db", 0.0), ("attack_ms", 0.0)]);
    let [mut still, mut moved] = [0; 2].map(|_| live(demo_loop(), &path));
    play(&mut still, 24_000);
    play(&mut moved, 24_000);
    moved.set_param(0, 0, place("makeup_db"), 6.0).unwrap();
    assert!(play(&mut still, BLOCK) != play(&mut moved, BLOCK));
}

#[test]
fn the_loop_closes_without_a_gap() {
    // Whole waves, so that the end of the loop leads into its start.
    let source = tone(1000.0, -6.0, 0.5);
    let slope = largest_step(&source.channels()[0]);
    let mut live = live(source, &Path::default());
    assert!(largest_step(&play(&mut live, 100_000)[0][FADE..]) <= slope * 1.001);
}

#[test]
fn difference_is_after_minus_before_at_the_matched_level() {
    let path = compressor(&[("threshold_db", -30.0)]);
    let before = demo_loop();
    let after = render(&path, &before).after;
    let mut live = live(before.clone(), &path);
    live.set_match_gain_db(0, 5.0);
    live.set_hear(Hear::Difference);
    let heard = play(&mut live, 24_000);
    let gain = 10f32.powf(0.25);
    let heard = &heard[0][lateness()..];
    let signals = heard.iter().zip(&after.channels()[0]).zip(&before.channels()[0]);
    for ((heard, after), before) in signals.take(24_000).skip(2_000) {
        assert!((heard - (gain * after - before)).abs() < 1e-5);
    }
}

#[test]
fn snapshots_switch_at_once_as_if_they_had_always_been_on() {
    let paths = [-40.0, -10.0, -25.0].map(|threshold| compressor(&[("threshold_db", threshold)]));
    let before = demo_loop();
    let rendered = [0, 1, 2].map(|k| render(&paths[k], &before).after);
    let mut live = live(before.clone(), &paths[0]);
    for (index, path) in paths.iter().enumerate().skip(1) {
        live.set_lane(index, path);
    }
    let mut at = 0;
    for index in [0, 2, 1, 0, 1] {
        live.set_heard(index);
        let heard = play(&mut live, 128 * 150);
        for (heard, after) in heard.iter().zip(rendered[index].channels()) {
            // The first one also waits for the sound to come out of the compressor, and fades in.
            let skip = 2 * FADE + BLOCK + lateness();
            let (heard, after) = (&heard[skip..], &after[at + skip - lateness()..]);
            assert!(heard[..] == after[..heard.len()], "snapshot {index} at {at}");
        }
        at += heard[0].len();
    }
    // A lane beside the heard one comes and goes without a gap.
    live.set_lane(2, &paths[1]);
    live.keep_lanes(2);
    let heard = play(&mut live, 12_800);
    let from = at - lateness();
    assert!(heard[0][..] == rendered[1].channels()[0][from..from + heard[0].len()]);
}

/// What is set last of a lane is what it plays, also when it was heard at the first setting and is not at the second, with no block
/// between.
#[test]
fn the_last_setting_of_a_lane_counts() {
    let path = |db| Path { stages: vec![stage_with("gain", &[("gain_db", db)])] };
    let mut live = live(tone(1000.0, -6.0, 4.0), &path(-10.0));
    live.set_lane(1, &path(-20.0));
    play(&mut live, 9_600);
    live.set_lane(0, &path(-30.0));
    live.set_heard(1);
    live.set_lane(0, &path(-3.0));
    play(&mut live, 9_600);
    live.set_heard(0);
    play(&mut live, 9_600);
    let heard = play(&mut live, 9_600);
    let peak = heard[0].iter().fold(0.0f32, |peak, x| peak.max(x.abs()));
    near(20.0 * f64::from(peak).log10(), -9.0, 0.01);
}

#[test]
fn lanes_of_different_latency_and_before_stay_in_step() {
    let late = Path { stages: vec![clear_bend_playing::path::Stage::of(&LATE)] };
    let source = demo_loop();
    let mut live = live(source.clone(), &Path::default());
    play(&mut live, 4_800);
    live.set_lane(1, &late);
    play(&mut live, 9_600);
    for (hear, lane) in [(Hear::After, 0), (Hear::After, 1), (Hear::Before, 1)] {
        live.set_hear(hear);
        live.set_heard(lane);
        play(&mut live, 1_280);
        let at = (live.read_meters().position_s * f64::from(RATE)).round() as usize - LATE_FRAMES;
        let heard = play(&mut live, 1_280);
        assert!(heard[0][..] == source.channels()[0][at..at + 1_280], "{hear:?} {lane}");
    }
    live.set_hear(Hear::Difference);
    play(&mut live, 1_280);
    assert!(play(&mut live, 48_000).iter().flatten().all(|x| *x == 0.0));
}

#[test]
fn other_stems_and_a_reference_are_heard_beside_the_work() {
    let level = |live: &mut Live| {
        play(live, 4_800);
        let heard = play(live, 48_000);
        heard.map(|c| {
            10.0 * (2.0 * c.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / c.len() as f64).log10()
        })
    };
    let mut live = live(tone(1000.0, -20.0, 1.0), &Path::default());
    live.set_backing(signal("sine", &[("freq_hz", 300.0), ("level_dbfs", -30.0), ("seconds", 1.0)], 2));
    live.set_reference(tone(500.0, -40.0, 0.5), 14.0);
    let strip = Strip { level_db: -6.0, pan: 1.0, ..Strip::default() };
    live.set_stems(false, strip);
    let [left, right] = level(&mut live);
    near(left, -20.0, 0.01);
    near(right, -20.0, 0.01);
    // Among the others: its own level and place, and theirs.
    live.set_stems(true, strip);
    let [left, right] = level(&mut live);
    near(left, -30.0, 0.01);
    near(right, 10.0 * (10f64.powf(-2.6) + 10f64.powf(-3.0)).log10(), 0.01);
    live.set_hear(Hear::Reference);
    let [left, right] = level(&mut live);
    near(left, -26.0, 0.01);
    near(right, -26.0, 0.01);
    live.set_hear(Hear::Difference);
    assert!(level(&mut live)[0] < -200.0);
}

#[test]
fn switching_moving_seeking_and_pausing_do_not_click() {
    // A low tone has small steps of its own; anything larger would be a click.
    let source = tone(100.0, -6.0, 4.0);
    let slope = largest_step(&source.channels()[0]);
    let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 30.0), ("release_ms", 300.0)]);
    let mut live = live(source, &path);
    live.set_lane(1, &compressor(&[("threshold_db", -40.0), ("attack_ms", 30.0), ("release_ms", 300.0)]));
    play(&mut live, 48_000);
    let mut heard = vec![];
    for k in 0..70 {
        match k % 14 {
            0 => live.set_hear(Hear::Before),
            1 => live.set_hear(Hear::Difference),
            2 => live.set_hear(Hear::After),
            3 => live.set_match_gain_db(0, 6.0),
            4 => live.set_param(0, 0, place("threshold_db"), -40.0).unwrap(),
            5 => live.set_mix(0, 0, 0.3, true).unwrap(),
            6 => live.set_mix(0, 0, 1.0, false).unwrap(),
            7 => live.seek(0.1237),
            8 => live.set_playing(false),
            9 => live.set_playing(true),
            10 => live.set_path(&compressor(&[])),
            11 => live.set_heard(k % 2),
            12 => live.set_stems(k % 2 == 0, Strip { level_db: -6.0, pan: 0.5, ..Strip::default() }),
            _ => live.set_path(&path),
        }
        heard.extend_from_slice(&play(&mut live, 2_500)[0]);
    }
    // A fade over 10 ms at full level adds at most 1/480 per sample to the slope, a gain of 6 dB doubles it.
    let allowed = 2.0 * slope + 2.5 / 480.0;
    assert!(largest_step(&heard) < allowed, "{} against {allowed}", largest_step(&heard));
}

/// Every effect as it comes, and those that look ahead with all of it, switched on and off and mixed in and out while a tone plays.
#[test]
fn switching_a_stage_on_and_mixing_it_in_do_not_click() {
    let ahead: &[(&str, f64)] = &[("lookahead_ms", 8.0)];
    let variants = ["compressor", "limiter"].map(|id| stage_with(id, ahead));
    let linear = stage_with("equaliser", &[("phase", 2.0), ("kind_1", 6.0), ("gain_1_db", 6.0)]);
    let as_they_come = clear_bend_effects::ALL.iter().map(|effect| stage_with(effect.id, &[]));
    let scopes = [Scope::Left, Scope::Mid, Scope::Side]
        .into_iter()
        .flat_map(|scope| ["compressor", "chorus", "gain"].map(|id| Stage { scope, ..stage_with(id, &[]) }));
    for stage in as_they_come.chain(variants).chain([linear]).chain(scopes) {
        let name = format!("{} {:?}", stage.effect.id, stage.values.get(..12));
        // The other side is heard as well, and left alone by a stage on one side.
        let source = tone(100.0, -6.0, 4.0);
        let mut steady = live(source.clone(), &Path { stages: vec![stage.clone()] });
        play(&mut steady, 48_000);
        // What it does to the tone while it is on is no click.
        let largest = |heard: [Vec<f32>; 2]| largest_step(&heard[0]).max(largest_step(&heard[1]));
        let slope = largest(play(&mut steady, 24_000)).max(largest_step(&source.channels()[0]));
        let mut off = stage.clone();
        off.on = false;
        let mut live = live(source, &Path { stages: vec![off] });
        play(&mut live, 24_000);
        let mut heard = [vec![], vec![]];
        for k in 0..31 {
            match k % 4 {
                0 => live.set_mix(0, 0, 1.0, true).unwrap(),
                1 => live.set_mix(0, 0, 0.0, true).unwrap(),
                2 => live.set_mix(0, 0, 1.0, true).unwrap(),
                _ => live.set_mix(0, 0, 1.0, false).unwrap(),
            }
            // Now and then again at once, before it has been heard.
            let now = play(&mut live, if k % 3 == 2 { 301 } else { 12_077 });
            heard.iter_mut().zip(now).for_each(|(heard, now)| heard.extend(now));
        }
        // From silence to twice the tone over 20 ms, at most.
        let allowed = 1.3 * slope + 1.0 / 960.0;
        let found = largest(heard);
        assert!(found < allowed, "{name}: {found} against {allowed}");
    }
}

#[test]
fn the_monitor_is_limited_and_says_so() {
    let path = compressor(&[("ratio", 1.0), ("makeup_db", 24.0)]);
    let mut live = live(signal("sine", &[("level_dbfs", 0.0), ("seconds", 1.0)], 2), &path);
    let heard = play(&mut live, 24_000);
    assert!(heard.iter().flatten().all(|x| x.abs() <= 0.892));
    let meters = live.read_meters();
    near(f64::from(meters.heard_peak), 10f64.powf(24.0 / 20.0), 0.1);
    near(f64::from(meters.own_peak), 10f64.powf(24.0 / 20.0), 0.1);
    // A tone that fits and is over full scale only by its match: what it is itself is known all the same.
    let quiet = signal("sine", &[("level_dbfs", -9.0), ("seconds", 1.0)], 2);
    let mut matched = self::live(quiet, &compressor(&[("ratio", 1.0), ("makeup_db", 3.0)]));
    matched.set_match_gain_db(0, 12.0);
    play(&mut matched, 24_000);
    matched.read_meters();
    play(&mut matched, 24_000);
    let lifted = matched.read_meters();
    near(f64::from(lifted.heard_peak), 10f64.powf(6.0 / 20.0), 0.01);
    near(f64::from(lifted.own_peak), 10f64.powf(-6.0 / 20.0), 0.01);
    // Back at a harmless level, the limiter lets go.
    live.set_param(0, 0, place("makeup_db"), -6.0).unwrap();
    play(&mut live, 240_000);
    live.read_meters();
    let heard = play(&mut live, 4_800);
    let peak = heard[0].iter().fold(0.0f32, |p, x| p.max(x.abs()));
    near(f64::from(peak), 10f64.powf(-0.3), 1e-3);
}

#[test]
fn meters_read_before_after_and_gain() {
    let path = compressor(&[("threshold_db", -20.0), ("ratio", 4.0), ("release_ms", 500.0)]);
    let mut live = live(signal("sine", &[("level_dbfs", -8.0), ("seconds", 1.0)], 2), &path);
    play(&mut live, 120_000);
    live.read_meters();
    play(&mut live, 4_800);
    let meters = live.read_meters();
    let db = |x: f32| 20.0 * f64::from(x).log10();
    near(db(meters.before_peak), -8.0, 0.02);
    near(db(meters.before_rms), -11.01, 0.02);
    near(db(meters.after_rms), -20.01, 0.05);
    near(f64::from(meters.gain_db), -9.0, 0.05);
    assert!(meters.playing && meters.position_s > 0.0 && meters.position_s < 1.0);
}

/// The limiter of the monitor turns down, it does not clip: of a tone that is 12 dB too loud a tone is left, and both sides are turned
/// down alike, so that a sound stays where it is. A clipper would leave a third of it as harmonics.
#[test]
fn the_monitor_turns_down_and_does_not_clip() {
    let frames = 48_000;
    let wave = |size: f64| {
        (0..frames)
            .map(|i| (size * (std::f64::consts::TAU * 1000.0 * f64::from(i) / 48_000.0).sin()) as f32)
            .collect()
    };
    let source = clear_bend_sound::Buffer::new(RATE, vec![wave(1.0), wave(0.25)]).unwrap();
    let path = compressor(&[("ratio", 1.0), ("makeup_db", 12.0)]);
    let [left, right] = play(&mut live(source, &path), 24_000);
    for (heard, peak) in [(&left, 0.891_25), (&right, 0.891_25 / 4.0)] {
        // The last tenth of a second: a hundred waves.
        let settled = clear_bend_sound::Buffer::new(RATE, vec![heard[19_200..24_000].to_vec()]).unwrap();
        let powers = clear_bend_testing::powers(&settled, [1.0, 0.0]);
        let all: f64 = powers[1..].iter().sum();
        let rest = (all - powers[100]) / all;
        assert!(rest < 1e-3, "{rest} of the power is no tone");
        near((2.0 * powers[100]).sqrt(), peak, 0.01 * peak);
    }
}

/// Between two readings the meter shows the most that has been taken, though the gain has long come back.
#[test]
fn the_gain_meter_shows_the_deepest_gain() {
    let mut samples = vec![0.0f32; 24_000];
    for (i, x) in samples.iter_mut().enumerate().take(2_400) {
        *x = (0.5 * (std::f64::consts::TAU * 1000.0 * i as f64 / 48_000.0).sin()) as f32;
    }
    let source = clear_bend_sound::Buffer::new(RATE, vec![samples]).unwrap();
    let path = compressor(&[("threshold_db", -20.0), ("ratio", 4.0), ("release_ms", 5.0)]);
    let mut live = live(source, &path);
    play(&mut live, 48_000);
    live.read_meters();
    // A whole turn of the loop: the burst, then silence for nine times as long.
    play(&mut live, 24_000);
    // -6 dBFS is 14 dB over the threshold, of which three quarters are taken.
    near(f64::from(live.read_meters().gain_db), -0.75 * (20.0 - 6.02), 0.2);
    // A little of the next turn's burst has been played by now; well after it, nothing is taken.
    play(&mut live, 4_800);
    live.read_meters();
    play(&mut live, 12_800);
    near(f64::from(live.read_meters().gain_db), 0.0, 0.1);
}

#[test]
fn what_is_not_there_is_refused() {
    let mut live = live(tone(100.0, -6.0, 1.0), &compressor(&[]));
    assert!(live.set_param(0, 1, 0, -20.0).is_err());
    assert!(live.set_param(0, 0, 99, -20.0).is_err());
    assert_eq!(
        live.set_param(0, 0, place("ratio"), 0.5).unwrap_err().to_string(),
        "ratio is 0.5; accepted: 1 to inf"
    );
    assert!(live.set_mix(0, 0, f64::NAN, true).is_err());
    // Without a source there is silence, not a fault.
    let mut empty = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    empty.set_playing(true);
    assert!(play(&mut empty, 1_000)[0].iter().all(|x| *x == 0.0));
}

/// A parameter that changes the latency makes the lane anew: before and after stay in step, and what has become quick
/// again is quick again.
#[test]
fn another_phase_of_an_equaliser_keeps_everything_in_step() {
    use clear_bend_effects::equaliser::EFFECT;
    use clear_bend_playing::path::Stage;
    let path = Path { stages: vec![Stage::new(&EFFECT, &[("kind_1", 6.0)]).unwrap()] };
    let phase = EFFECT.params.iter().position(|p| p.id == "phase").unwrap();
    let mut live = live(tone(440.0, -12.0, 2.0), &path);
    live.set_hear(Hear::Difference);
    play(&mut live, 24_000);
    for (value, late) in [(1.0, 9216), (2.0, 9216), (0.0, 0)] {
        live.set_param(0, 0, phase, value).unwrap();
        play(&mut live, 2 * late + 24_000);
        let [left, _] = play(&mut live, 24_000);
        let largest = left.iter().fold(0.0f32, |a, x| a.max(x.abs()));
        assert!(largest < 1e-5, "phase {value}: before and after are {largest} apart");
        // How late a jump comes through says how late everything is.
        live.set_hear(Hear::Before);
        live.seek(0.0);
        let [left, _] = play(&mut live, 24_000);
        let silent = left.iter().skip(FADE + BLOCK).take_while(|x| x.abs() < 1e-4).count();
        assert!(
            silent >= late.saturating_sub(2 * FADE) && silent < late + 3 * FADE,
            "phase {value}: {silent}"
        );
        live.set_hear(Hear::Difference);
    }
}
