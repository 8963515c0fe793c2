//! The live bench: what is heard is what is rendered, and nothing clicks.

use crate::common::{RATE, compressor, demo_loop, near, signal, tone};
use clear_bend_core::bench::Hear;
use clear_bend_core::effects::Setup;
use clear_bend_core::live::Live;
use clear_bend_core::path::Path;
use clear_bend_core::render::render;

const BLOCK: usize = 128;

fn live(source: clear_bend_core::Buffer, path: &Path) -> Live {
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    live.set_source(source);
    live.set_path(path);
    live.set_playing(true);
    live
}

/// Plays some frames and returns left and right.
fn play(live: &mut Live, frames: usize) -> [Vec<f32>; 2] {
    let mut out = [vec![], vec![]];
    for _ in 0..frames.div_ceil(BLOCK) {
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        live.process(&mut left, &mut right);
        out[0].extend_from_slice(&left);
        out[1].extend_from_slice(&right);
    }
    out
}

/// Frames of the fade at the start.
const FADE: usize = 480;

/// The largest step from one sample to the next.
fn largest_step(x: &[f32]) -> f32 {
    x.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0, f32::max)
}

#[test]
fn live_and_offline_are_the_same_samples() {
    let path = compressor(&[("threshold_db", -30.0), ("makeup_db", -3.0)]);
    let before = demo_loop();
    let after = render(&path, &before).after;
    let heard = play(&mut live(before, &path), 96_000);
    for (heard, after) in heard.iter().zip(after.channels()) {
        assert!(heard[FADE..96_000] == after[FADE..96_000]);
    }
}

#[test]
fn a_moved_parameter_is_heard_in_the_next_block() {
    let path = compressor(&[("threshold_db", 0.0), ("attack_ms", 0.0)]);
    let [mut still, mut moved] = [0; 2].map(|_| live(demo_loop(), &path));
    play(&mut still, 24_000);
    play(&mut moved, 24_000);
    moved.set_param(0, 5, 6.0).unwrap();
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
    live.set_match_gain_db(5.0);
    live.set_hear(Hear::Difference);
    let heard = play(&mut live, 24_000);
    let gain = 10f32.powf(0.25);
    let signals = heard[0].iter().zip(&after.channels()[0]).zip(&before.channels()[0]);
    for ((heard, after), before) in signals.take(24_000).skip(2_000) {
        assert!((heard - (gain * after - before)).abs() < 1e-5);
    }
}

#[test]
fn switching_moving_seeking_and_pausing_do_not_click() {
    // A low tone has small steps of its own; anything larger would be a click.
    let source = tone(100.0, -6.0, 4.0);
    let slope = largest_step(&source.channels()[0]);
    let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 30.0), ("release_ms", 300.0)]);
    let mut live = live(source, &path);
    play(&mut live, 48_000);
    let mut heard = vec![];
    for k in 0..60 {
        match k % 12 {
            0 => live.set_hear(Hear::Before),
            1 => live.set_hear(Hear::Difference),
            2 => live.set_hear(Hear::After),
            3 => live.set_match_gain_db(6.0),
            4 => live.set_param(0, 0, -40.0).unwrap(),
            5 => live.set_mix(0, 0.3, true).unwrap(),
            6 => live.set_mix(0, 1.0, false).unwrap(),
            7 => live.seek(0.1237),
            8 => live.set_playing(false),
            9 => live.set_playing(true),
            10 => live.set_path(&compressor(&[])),
            _ => live.set_path(&path),
        }
        heard.extend_from_slice(&play(&mut live, 2_500)[0]);
    }
    // A fade over 10 ms at full level adds at most 1/480 per sample to the slope, a gain of 6 dB doubles it.
    let allowed = 2.0 * slope + 2.5 / 480.0;
    assert!(largest_step(&heard) < allowed, "{} against {allowed}", largest_step(&heard));
}

#[test]
fn the_monitor_is_limited_and_says_so() {
    let path = compressor(&[("ratio", 1.0), ("makeup_db", 24.0)]);
    let mut live = live(signal("sine", &[("level_dbfs", 0.0), ("seconds", 1.0)], 2), &path);
    let heard = play(&mut live, 24_000);
    assert!(heard.iter().flatten().all(|x| x.abs() <= 0.892));
    let meters = live.read_meters();
    near(f64::from(meters.heard_peak), 10f64.powf(24.0 / 20.0), 0.1);
    // Back at a harmless level, the limiter lets go.
    live.set_param(0, 5, -6.0).unwrap();
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

#[test]
fn what_is_not_there_is_refused() {
    let mut live = live(tone(100.0, -6.0, 1.0), &compressor(&[]));
    assert!(live.set_param(1, 0, -20.0).is_err());
    assert!(live.set_param(0, 99, -20.0).is_err());
    assert_eq!(live.set_param(0, 1, 0.5).unwrap_err().to_string(), "ratio is 0.5; accepted: 1 to inf");
    assert!(live.set_mix(0, f64::NAN, true).is_err());
    // Without a source there is silence, not a fault.
    let mut empty = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    empty.set_playing(true);
    assert!(play(&mut empty, 1_000)[0].iter().all(|x| *x == 0.0));
}
