//! What files are said to be, against the files themselves.

use std::fs;

use clear_bend_media::{read_sound, write_wav};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

use crate::{json, run};

fn path(stage: &str) -> String {
    format!(r#"{{"format":"clear-bend-path","version":3,"stages":[{stage}]}}"#)
}

/// A mono file plays on both sides, as it does on the page: what makes two channels of it is written with both.
#[test]
fn a_mono_file_comes_out_on_both_sides() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    run(at, &["signal", "sine", "--freq", "440", "--seconds", "2", "--channels", "1", "-o", "mono.wav"]);
    let rendered = |stage: &str| {
        fs::write(at.join("path.json"), path(stage)).unwrap();
        let done = run(at, &["render", "--path", "path.json", "mono.wav", "-o", "out.wav"]);
        assert_eq!((done.code, done.err.as_str()), (0, ""), "{stage}");
        read_sound(&fs::read(at.join("out.wav")).unwrap()).unwrap()
    };
    let pan = rendered(r#"{"effect":"auto-pan","params":{"depth":1,"rate_hz":1}}"#);
    let [left, right] = pan.channels() else { panic!("one channel") };
    // With constant power the squares of both sides come to twice that of the sound.
    let dry = read_sound(&fs::read(at.join("mono.wav")).unwrap()).unwrap();
    for ((l, r), x) in left.iter().zip(right).zip(&dry.channels()[0]) {
        let (l, r, x) = (f64::from(*l), f64::from(*r), f64::from(*x));
        assert!((l * l + r * r - 2.0 * x * x).abs() < 1e-4);
    }
    for stage in [
        r#"{"effect":"reverb","mix":1}"#,
        r#"{"effect":"chorus"}"#,
        r#"{"effect":"gain","scope":"left","params":{"gain_db":-6}}"#,
    ] {
        let made = rendered(stage);
        assert_eq!(made.channels().len(), 2, "{stage}");
        assert!(made.channels()[0] != made.channels()[1], "{stage}");
    }
    // What treats both sides alike stays as it came.
    assert_eq!(rendered(r#"{"effect":"compressor"}"#).channels().len(), 1);
}

/// A response at any rate is as loud as it was recorded: an impulse at 96 kHz is an impulse at 48 kHz.
#[test]
fn a_response_keeps_its_level_at_any_rate() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    run(at, &["signal", "pink-noise", "--seconds", "2", "-o", "noise.wav"]);
    let stage = r#"{"effect":"convolution","mix":1,"params":{"level":"as recorded"},"sounds":{"response":{"kind":"response-chart-room"}}}"#;
    fs::write(at.join("path.json"), path(stage)).unwrap();
    let rms = |sound: &Buffer| {
        let all = || sound.channels().iter().flatten().map(|x| f64::from(*x).powi(2));
        10.0 * (all().sum::<f64>() / cast::real(all().count())).log10()
    };
    let mut same = None;
    for rate_hz in [48_000u32, 22_050, 44_100, 96_000, 192_000] {
        // A short smooth pulse, whose sum over time is the same at every rate.
        let rate = f64::from(rate_hz);
        let sigma_s = 30e-6;
        let pulse = |i: usize| {
            let t = (cast::real(i) / rate - 0.002) / sigma_s;
            cast::sample((-0.5 * t * t).exp() / (rate * sigma_s * (2.0 * std::f64::consts::PI).sqrt()))
        };
        let samples: Vec<f32> = (0..cast::frames(0.02, rate_hz)).map(pulse).collect();
        let wav = write_wav(&Buffer::new(rate_hz, vec![samples]).unwrap()).unwrap();
        fs::write(at.join("response.wav"), wav).unwrap();
        let done = run(
            at,
            &["render", "--path", "path.json", "--response", "response.wav", "noise.wav", "-o", "out.wav"],
        );
        assert_eq!((done.code, done.err.as_str()), (0, ""), "{rate_hz}");
        let wet = rms(&read_sound(&fs::read(at.join("out.wav")).unwrap()).unwrap());
        let same = *same.get_or_insert(wet);
        assert!((wet - same).abs() < 0.3, "{rate_hz} Hz: {wet} for {same} dB");
    }
}

/// The right side is answered by the right response, by that of its own input where there are four.
#[test]
fn the_right_side_takes_the_right_response() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let impulse = |gains: &[f32]| {
        let channels = gains.iter().map(|gain| vec![*gain, 0.0]).collect();
        write_wav(&Buffer::new(48_000, channels).unwrap()).unwrap()
    };
    fs::write(at.join("in.wav"), impulse(&[1.0, 1.0])).unwrap();
    for (scope, gains, wanted) in [
        ("right", vec![0.25, 0.5], [1.0, 0.5]),
        ("left", vec![0.25, 0.5], [0.25, 1.0]),
        ("right", vec![0.1, 0.2, 0.3, 0.4], [1.0, 0.4]),
        ("left", vec![0.1, 0.2, 0.3, 0.4], [0.1, 1.0]),
        ("mid", vec![0.25, 0.5], [0.375, 0.375]),
    ] {
        let stage = format!(
            r#"{{"effect":"convolution","mix":1,"scope":"{scope}","params":{{"level":"as recorded"}},"sounds":{{"response":{{"kind":"response-chart-room"}}}}}}"#
        );
        fs::write(at.join("path.json"), path(&stage)).unwrap();
        fs::write(at.join("response.wav"), impulse(&gains)).unwrap();
        let done = run(
            at,
            &["render", "--path", "path.json", "--response", "response.wav", "in.wav", "-o", "out.wav"],
        );
        assert_eq!((done.code, done.err.as_str()), (0, ""), "{scope}");
        let made = read_sound(&fs::read(at.join("out.wav")).unwrap()).unwrap();
        for (channel, wanted) in made.channels().iter().zip(wanted) {
            assert!((channel[0] - wanted).abs() < 1e-5, "{scope}, {gains:?}: {} for {wanted}", channel[0]);
        }
    }
}

/// What would be ignored is refused; angles may be negative; 64-bit numbers are read.
#[test]
fn nothing_that_is_asked_for_is_ignored() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    run(at, &["signal", "boatyard-loop", "-o", "loop.wav"]);
    fs::write(at.join("gain.json"), path(r#"{"effect":"gain"}"#)).unwrap();
    for argument in ["--response", "--key"] {
        let done =
            run(at, &["render", "--path", "gain.json", argument, "loop.wav", "loop.wav", "-o", "out.wav"]);
        assert_eq!(done.code, 2);
        assert!(done.err.contains(argument) && done.err.contains("has no stage"), "{}", done.err);
    }
    fs::write(at.join("flanger.json"), path(r#"{"effect":"flanger"}"#)).unwrap();
    let held = json(at, &["measure", "notches", "--path", "flanger.json", "--at", "-5"]);
    assert!(held.to_string().contains("freqs_hz"), "{held}");
    let mut wide = Vec::new();
    wide.extend(b"RIFF");
    wide.extend((36u32 + 8 * 4800).to_le_bytes());
    wide.extend(b"WAVEfmt ");
    wide.extend(16u32.to_le_bytes());
    for number in [3u16, 1] {
        wide.extend(number.to_le_bytes());
    }
    wide.extend(48_000u32.to_le_bytes());
    wide.extend((8 * 48_000u32).to_le_bytes());
    for number in [8u16, 64] {
        wide.extend(number.to_le_bytes());
    }
    wide.extend(b"data");
    wide.extend((8u32 * 4800).to_le_bytes());
    (0..4800).for_each(|i| wide.extend((0.25 * f64::from(i) / 4800.0).to_le_bytes()));
    let read = read_sound(&wide).unwrap();
    assert_eq!((read.rate_hz(), read.frames()), (48_000, 4800));
    assert!((f64::from(read.channels()[0][2400]) - 0.125).abs() < 1e-6);
}

/// What is set for a wall and not heard, as the wall is of a surface, is refused, and said of a file.
#[test]
fn what_a_surface_hides_is_said() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let room = |more: &[&str]| {
        let mut arguments =
            vec!["signal", "response-of-a-room", "--floor-absorption-1000", "0.5", "-o", "room.wav"];
        arguments.extend(more);
        run(at, &arguments)
    };
    let done = room(&[]);
    assert_eq!(done.code, 2, "{}", done.err);
    assert!(
        done.err.contains("--floor-absorption-1000: is not heard: the floor is of wooden floor on joists"),
        "{}",
        done.err
    );
    assert!(!at.join("room.wav").exists());
    assert_eq!(room(&["--floor-surface", "0"]).code, 0);
    let source = r#"{"kind": "response-of-a-room", "params": {"floor_absorption_1000": 0.5}}"#;
    fs::write(at.join("room.json"), source).unwrap();
    let measured = json(at, &["measure", "room", "--source", "room.json"]);
    assert!(
        measured["plan"]["sentences"].to_string().contains("What is set by hand for the floor is not heard")
    );
}
