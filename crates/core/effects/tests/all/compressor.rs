//! The compressor against its published formula and against the facts of the trade, on rendered audio.

use clear_bend_measures::{Levels, Reduction, find_onsets, measure_static_curve, onset_levels};
use clear_bend_playing::path::Path;
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;
use clear_bend_testing::{RATE, compressor, demo_loop, near, signal, steady_level_dbfs, tone};

/// Peak level of a 1 kHz tone after a path, dBFS.
fn through(path: &Path, level_dbfs: f64) -> f64 {
    steady_level_dbfs(&render(path, &tone(1000.0, level_dbfs, 1.0)).after)
}

/// The gain trace of the only stage.
fn gain(path: &Path, before: &Buffer) -> Vec<f32> {
    render(path, before).gain_db(0).unwrap().to_vec()
}

/// Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012, equation 4,
/// written out as published.
fn published_output(x: f64, t: f64, r: f64, w: f64) -> f64 {
    if 2.0 * (x - t) < -w {
        x
    } else if w > 0.0 && 2.0 * (x - t).abs() <= w {
        x + (1.0 / r - 1.0) * (x - t + w / 2.0).powi(2) / (2.0 * w)
    } else {
        t + (x - t) / r
    }
}

#[test]
fn steady_tones_follow_the_published_curve() {
    for (t, r, w) in [(-24.0, 4.0, 6.0), (-40.0, 2.0, 20.0), (-12.0, f64::INFINITY, 0.1), (-30.0, 1.5, 40.0)]
    {
        let path = compressor(&[("threshold_db", t), ("ratio", r), ("knee_db", w), ("attack_ms", 10.0)]);
        for point in measure_static_curve(&path.stages[0], RATE, 3) {
            let published = published_output(point.input_dbfs, t, r, w);
            near(point.predicted_dbfs.unwrap(), published, 1e-9);
            near(point.output_dbfs, published, 0.02);
        }
    }
}

#[test]
fn the_curve_holds_at_every_rate_with_long_times_and_a_fixed_gain() {
    for rate in [8_000, 44_100, 96_000] {
        let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 200.0), ("makeup_db", 6.0)]);
        for point in measure_static_curve(&path.stages[0], rate, 10) {
            near(point.output_dbfs, published_output(point.input_dbfs, -20.0, 4.0, 0.0) + 6.0, 0.05);
        }
    }
}

#[test]
fn trade_facts_of_ratio_and_threshold() {
    // Common practice: (ratio, dB over the threshold that enter, dB over that leave).
    let t = -24.0;
    for (ratio, over, left) in
        [(2.0, 4.0, 2.0), (4.0, 4.0, 1.0), (6.0, 6.0, 1.0), (5.0, 5.0, 1.0), (20.0, 20.0, 1.0)]
    {
        near(through(&compressor(&[("threshold_db", t), ("ratio", ratio)]), t + over), t + left, 0.02);
    }
    // Common practice: -12 dBFS at 2:1 takes 6 dB off a 0 dBFS peak but 4 dB off a -4 dBFS peak.
    let path = compressor(&[("threshold_db", -12.0), ("ratio", 2.0)]);
    near(through(&path, 0.0), -6.0, 0.02);
    near(through(&path, -4.0), -8.0, 0.02);
    // The output gain leaves the reduction as it is.
    let with_gain = compressor(&[("threshold_db", -12.0), ("ratio", 2.0), ("makeup_db", 5.0)]);
    near(through(&with_gain, -4.0), -3.0, 0.02);
    assert_eq!(gain(&path, &demo_loop()), gain(&with_gain, &demo_loop()));
}

#[test]
fn one_to_one_changes_nothing_bit_for_bit() {
    let before = demo_loop();
    assert_eq!(render(&compressor(&[("ratio", 1.0), ("threshold_db", -60.0)]), &before).after, before);
}

/// Hits of 50 ms, 300 ms apart: on the threshold scale 20 dB over, and silence between.
fn short_hits() -> Buffer {
    let mut hits = tone(1000.0, -4.0, 2.1);
    for (n, x) in hits.channels_mut()[0].iter_mut().enumerate() {
        if n % 14_400 >= 2_400 {
            *x = 0.0;
        }
    }
    hits
}

#[test]
fn trade_facts_of_attack_and_release() {
    // Common practice: an attack of 200 ms hardly reduces short hits that one of 20 ms does.
    let base = [("threshold_db", -24.0), ("ratio", 4.0)];
    let largest = |attack, release| {
        let path = compressor(&[&base[..], &[("attack_ms", attack), ("release_ms", release)]].concat());
        Reduction::of(&gain(&path, &short_hits()), &[], 0, RATE).largest_db
    };
    assert!(largest(20.0, 50.0) > 12.0, "{}", largest(20.0, 50.0));
    assert!(largest(200.0, 50.0) < 4.0, "{}", largest(200.0, 50.0));

    // Common practice: a release longer than the gap between hits never returns to zero reduction.
    let left = |release| {
        let path = compressor(&[&base[..], &[("attack_ms", 1.0), ("release_ms", release)]].concat());
        let onsets: Vec<usize> = (0..7).map(|k| k * 14_400).collect();
        Reduction::of(&gain(&path, &short_hits()), &onsets, 0, RATE).left_at_next_onset_db.unwrap()
    };
    assert!(left(10.0) < 0.01, "{}", left(10.0));
    assert!(left(500.0) > 6.0, "{}", left(500.0));
}

#[test]
fn a_time_constant_is_the_time_to_63_percent_of_the_step_in_db() {
    // Same source, section 2.3. A step of a constant, so that the detector adds nothing of its own.
    for rate in [44_100u32, 48_000, 96_000] {
        let frames = |seconds: f64| (seconds * f64::from(rate)).round() as usize;
        let (begin, end) = (frames(0.2), frames(1.2));
        let level = |n: usize| if (begin..end).contains(&n) { 0.5f32 } else { 0.01 };
        let step = Buffer::new(rate, vec![(0..frames(2.4)).map(level).collect()]).unwrap();
        let path = compressor(&[("threshold_db", -26.0), ("attack_ms", 40.0), ("release_ms", 150.0)]);
        let gain = gain(&path, &step);
        let full = gain[end - 1];
        let attacked = gain.iter().position(|g| *g <= full * 0.632_12).unwrap() - begin;
        let released = gain[end..].iter().position(|g| *g >= full * (1.0 - 0.632_12)).unwrap();
        near(attacked as f64 / f64::from(rate), 0.040, 0.0004);
        // The detector holds the level for 1 ms.
        near(released as f64 / f64::from(rate) - 0.001, 0.150, 0.0015);
    }
}

/// Root of the summed squares of harmonics 2 to 10 over the fundamental, by direct sums over whole waves.
fn thd(buffer: &Buffer, freq_hz: f64) -> f64 {
    let x = &buffer.channels()[0][RATE as usize..];
    let size = |k: f64| {
        let turn = |n: usize| std::f64::consts::TAU * k * freq_hz * n as f64 / f64::from(RATE);
        let (s, c) = x.iter().enumerate().fold((0.0, 0.0), |(s, c), (n, x)| {
            (s + f64::from(*x) * turn(n).sin(), c + f64::from(*x) * turn(n).cos())
        });
        f64::hypot(s, c)
    };
    (2..=10).map(|k| size(f64::from(k)).powi(2)).sum::<f64>().sqrt() / size(1.0)
}

#[test]
fn very_short_times_distort_a_bass() {
    // Common practice: a release of 5 ms distorts a bass note, one of 30 ms hardly does.
    let distortion = |release| {
        let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 1.0), ("release_ms", release)]);
        thd(&render(&path, &tone(80.0, -6.0, 2.0)).after, 80.0)
    };
    assert!(distortion(5.0) > 0.045, "{}", distortion(5.0));
    assert!(distortion(30.0) < 0.015, "{}", distortion(30.0));
    // A test of the test: the tone itself has no harmonics.
    assert!(thd(&tone(80.0, -6.0, 2.0), 80.0) < 1e-5);
}

#[test]
fn trade_facts_of_make_up_and_release_on_the_loop() {
    let before = demo_loop();
    // Common practice: with make-up gain, a compressed loop is louder at a lower peak.
    let fast = [("threshold_db", -24.0), ("ratio", 4.0), ("attack_ms", 0.0), ("release_ms", 60.0)];
    let after = render(&compressor(&[&fast[..], &[("makeup_db", 12.0)]].concat()), &before).after;
    let (was, is) = (Levels::of(&before), Levels::of(&after));
    assert!(is.loudness_lufs > was.loudness_lufs + 0.5, "{} to {}", was.loudness_lufs, is.loudness_lufs);
    assert!(is.peak_dbfs < was.peak_dbfs - 1.0, "{} to {}", was.peak_dbfs, is.peak_dbfs);

    // Common practice: a fast release lifts what lies between the hits, against a slow one.
    let onsets = find_onsets(&before);
    let between = |release| {
        let path = compressor(&[("threshold_db", -24.0), ("release_ms", release)]);
        let levels = onset_levels(&render(&path, &before).after, &onsets);
        levels.iter().map(|o| o.between_dbfs).sum::<f64>() / levels.len() as f64
    };
    assert!(between(20.0) > between(1000.0) + 3.0, "{} and {}", between(20.0), between(1000.0));
}

#[test]
fn a_mix_of_half_gives_half_of_the_untouched_signal_back() {
    let before = demo_loop();
    let mut path = compressor(&[("threshold_db", -30.0)]);
    let wet = render(&path, &before).after;
    path.stages[0].mix = 0.5;
    let half = render(&path, &before).after;
    for ((half, wet), dry) in half.channels()[1].iter().zip(&wet.channels()[1]).zip(&before.channels()[1]) {
        assert!((half - (wet + dry) / 2.0).abs() < 1e-6);
    }
}

#[test]
fn two_channels_share_one_detector() {
    // The picture between the loudspeakers must not move: both channels get the same gain.
    let loud = signal("sine", &[("level_dbfs", 0.0), ("seconds", 0.5)], 1).channels()[0].clone();
    let quiet: Vec<f32> = loud.iter().map(|x| x * 0.05).collect();
    let after =
        render(&compressor(&[("threshold_db", -30.0)]), &Buffer::new(RATE, vec![loud, quiet]).unwrap()).after;
    for (left, right) in after.channels()[0].iter().zip(&after.channels()[1]) {
        assert!((right - left * 0.05).abs() < 1e-7);
    }
}
