//! The command line: what it writes, and how it refuses.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    reason = "a test stops on the first surprise"
)]

use std::fs;
use std::path::Path;

use clear_bend_media::read_sound;
use clear_bend_sound::Buffer;
use serde_json::Value;

#[path = "../common/mod.rs"]
mod common;
mod mixing;
mod responses;
mod truth;

struct Done {
    code: i32,
    out: String,
    err: String,
}

/// Runs the program in a folder.
fn run(folder: &Path, arguments: &[&str]) -> Done {
    let output = common::program().args(arguments).current_dir(folder).output().unwrap();
    let text = |bytes: &[u8]| String::from_utf8(bytes.to_vec()).unwrap();
    Done { code: output.status.code().unwrap(), out: text(&output.stdout), err: text(&output.stderr) }
}

/// Runs the program, which must succeed, and reads its JSON.
fn json(folder: &Path, arguments: &[&str]) -> Value {
    let done = run(folder, arguments);
    assert_eq!(done.code, 0, "{}", done.err);
    serde_json::from_str(&done.out).unwrap()
}

const PATH: &str = r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"compressor","on":true,
    "scope":"stereo","mix":1.0,"params":{"threshold_db":-24,"ratio":4,"knee_db":6,"attack_ms":10,
    "release_ms":100,"makeup_db":0}}]}"#;

/// The flags that ask for a way of playing.
fn flags(play: &str) -> Vec<&str> {
    if play == "round" { vec!["--round"] } else { vec![] }
}

/// A loop is measured once, or as it sounds when it has gone round.
#[test]
fn a_loop_is_rendered_once_or_round() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let path = PATH.replace("-24", "-40").replace("\"release_ms\":100", "\"release_ms\":1000");
    fs::write(at.join("path.json"), path).unwrap();
    let noise = ["signal", "pink-noise", "--seconds", "2", "-o", "loop.wav"];
    assert_eq!(run(at, &noise).code, 0);
    let rms = |play: &str| {
        let render =
            ["render", "--path", "path.json", "loop.wav", "-o", "out.wav", "--report", "report.json"];
        assert_eq!(run(at, &[&render, &flags(play)[..]].concat()).err, "");
        let report: Value =
            serde_json::from_str(&fs::read_to_string(at.join("report.json")).unwrap()).unwrap();
        assert_eq!(report["play"], play);
        let levels = json(at, &["measure", "levels", "out.wav"]);
        assert!(
            (report["after"]["rms_dbfs"].as_f64().unwrap() - levels["rms_dbfs"].as_f64().unwrap()).abs()
                < 0.01
        );
        levels["crest_db"].as_f64().unwrap()
    };
    // From rest, the first milliseconds pass before the gain has fallen, and stand out.
    let (once, round) = (rms("once"), rms("round"));
    assert!(once > round + 3.0 && round < 15.0, "{once} and {round} dB");
    let bend = |play: &str| {
        let bend = ["bend", "--path", "path.json", "--param", "threshold_db", "--points", "3", "loop.wav"];
        json(at, &[&bend, &flags(play)[..]].concat())["points"].clone()
    };
    assert!(bend("once") != bend("round"));
    // What is late rings out where that is asked for, and a file is as long as it was where it is not.
    let late = r#"{"format":"clear-bend-path","version":3,"stages":[{"effect":"equaliser","params":{"phase":"linear",
        "bands":[{"kind":"bell","freq_hz":60.0,"gain_db":12.0,"q":8.0}]}}]}"#;
    fs::write(at.join("late.json"), late).unwrap();
    let frames = |flags: &[&str]| {
        let render = ["render", "--path", "late.json", "loop.wav", "-o", "late.wav"];
        assert_eq!(run(at, &[&render, flags].concat()).err, "");
        read_sound(&fs::read(at.join("late.wav")).unwrap()).unwrap().frames()
    };
    assert_eq!((frames(&[]), frames(&["--round"])), (96_000, 96_000));
    assert!(frames(&["--tail"]) > 96_000 + 2_000, "{}", frames(&["--tail"]));
    let refused = run(at, &["render", "--path", "path.json", "loop.wav", "-o", "x.wav", "--round", "--tail"]);
    assert_eq!(refused.code, 2);
    assert!(refused.err.contains("--round") && refused.err.contains("--tail"), "{}", refused.err);
}

/// What is handed out matched is as loud as before by what it was matched by, and louder by nothing else: a fixed gain.
#[test]
fn a_matched_file_is_as_loud_as_before() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    fs::write(
        at.join("path.json"),
        r#"{"format":"clear-bend-path","version":3,"stages":[{"effect":"compressor","params":{"threshold_db":-30,"ratio":8}}]}"#,
    )
    .unwrap();
    run(at, &["signal", "boatyard-loop", "-o", "in.wav"]);
    let sound = |name: &str| read_sound(&fs::read(at.join(name)).unwrap()).unwrap();
    let render = |part: &str, by: &str| {
        let done = run(
            at,
            &["render", "--path", "path.json", "in.wav", "-o", "out.wav", "--part", part, "--match", by],
        );
        assert_eq!((done.code, done.err.as_str()), (0, ""));
        sound("out.wav")
    };
    let before = sound("in.wav");
    let after = render("after", "rms");
    let samples =
        |sound: &Buffer| sound.channels().iter().flatten().map(|x| f64::from(*x)).collect::<Vec<_>>();
    // All are as long as each other.
    let rms = |sound: &Buffer| samples(sound).iter().map(|x| x * x).sum::<f64>().sqrt();
    let peak = |sound: &Buffer| samples(sound).iter().fold(0.0f64, |peak, x| peak.max(x.abs()));
    let by_rms = render("matched", "rms");
    assert!((rms(&by_rms) / rms(&before) - 1.0).abs() < 1e-4 && rms(&after) < 0.8 * rms(&before));
    assert!((peak(&render("matched", "peak")) / peak(&before) - 1.0).abs() < 1e-4);
    assert!(render("matched", "off") == after);
    let gain = rms(&before) / rms(&after);
    assert!(samples(&after).iter().zip(samples(&by_rms)).all(|(x, y)| (gain * x - y).abs() < 1e-4));
    let refused = run(at, &["render", "--path", "path.json", "in.wav", "-o", "x.wav", "--part", "louder"]);
    assert!(refused.code == 2 && refused.err.contains("`matched`"), "{}", refused.err);
}

/// A flanger of 1 ms has twenty notches, 1 kHz apart, from 500 Hz on; a vibrato of 5 Hz and 0.5 ms sways by 27 cents, and a tremolo
/// has two lines 6.02 dB under the tone (docs/measures.md, "Modulation").
#[test]
fn what_moves_is_measured_as_the_formulas_say() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let put = |stage: &str| {
        let path = format!(r#"{{"format":"clear-bend-path","version":3,"stages":[{stage}]}}"#);
        fs::write(at.join("path.json"), path).unwrap();
    };
    put(r#"{"effect":"flanger","mix":0.5,"params":{"delay_ms":1,"depth_ms":0}}"#);
    let comb = json(at, &["measure", "notches", "--path", "path.json", "--at", "90"]);
    let found: Vec<f64> =
        comb["freqs_hz"].as_array().unwrap().iter().map(|hz| hz.as_f64().unwrap()).collect();
    assert_eq!(found.len(), 20);
    let expected = (0..20u8).map(|k| 500.0 + 1000.0 * f64::from(k));
    assert!(found.iter().zip(expected).all(|(hz, comb)| (hz / comb - 1.0).abs() < 0.002));
    put(r#"{"effect":"vibrato","params":{"rate_hz":5,"depth_ms":0.5}}"#);
    let vibrato = json(at, &["measure", "modulation", "--path", "path.json"]);
    assert!(
        (vibrato["pitch_sway_cents"].as_f64().unwrap() - 27.2).abs() < 0.2,
        "{}",
        vibrato["pitch_sway_cents"]
    );
    assert_eq!(vibrato["notches"].as_array().unwrap().len(), 16);
    put(r#"{"effect":"tremolo","params":{"rate_hz":4,"depth":1}}"#);
    let lines = json(at, &["measure", "modulation", "--path", "path.json", "--tone", "1000"]);
    let line = |order: i64| {
        let all = lines["sidebands"]["lines"].as_array().unwrap();
        all.iter().find(|line| line["order"] == order).unwrap()["level_db"].as_f64().unwrap()
    };
    assert!((line(1) - line(0) + 6.02).abs() < 0.02, "{} {}", line(1), line(0));
    // The envelope of the tone sways as deep as is set, at the rate that is set.
    let mark = &lines["modulation_spectrum"]["marks"][0];
    assert_eq!(mark["freq_hz"], 4.0);
    assert!((mark["depths"][1].as_f64().unwrap() - 1.0).abs() < 0.01, "{mark}");
    // A flanger of 1 ms at rest: the formula's notches and those that are found.
    put(r#"{"effect":"flanger","params":{"delay_ms":1,"depth_ms":0},"mix":0.5}"#);
    let notches = json(at, &["measure", "notches", "--path", "path.json"]);
    for of in ["predicted_hz", "freqs_hz"] {
        let found = notches[of].as_array().unwrap();
        assert_eq!(found.len(), 20, "{of}");
        assert!((found[0].as_f64().unwrap() - 500.0).abs() < 1.0, "{of}");
    }
    put(r#"{"effect":"gain"}"#);
    for wrong in [
        &["measure", "modulation", "--path", "path.json"][..],
        &["measure", "notches", "--path", "path.json"],
        &["measure", "notches", "--path", "path.json", "--at", "361"],
        &["measure", "modulation", "--path", "path.json", "--tone", "0"],
        &["measure", "modulation", "--path", "path.json", "--stage", "1"],
    ] {
        let refused = run(at, wrong);
        assert_eq!(refused.code, 2, "{wrong:?}: {}", refused.err);
        assert_eq!(refused.err.lines().count(), 1, "{}", refused.err);
    }
}

#[test]
fn signal_render_and_measure_agree_with_the_formula() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    fs::write(at.join("path.json"), PATH).unwrap();
    let made = run(
        at,
        &[
            "signal",
            "sine",
            "--freq",
            "997",
            "--level",
            "-10",
            "--seconds",
            "5",
            "--rate",
            "44100",
            "--channels",
            "1",
            "-o",
            "in.wav",
        ],
    );
    assert_eq!((made.code, made.out, made.err), (0, String::new(), String::new()));
    let before = json(at, &["measure", "levels", "in.wav"]);
    assert_eq!((before["rate_hz"].as_u64(), before["channels"].as_u64()), (Some(44_100), Some(1)));
    assert!((before["peak_dbfs"].as_f64().unwrap() + 10.0).abs() < 0.001);
    // ITU-R BS.1770: 997 Hz on one channel reads 3.01 under its peak level.
    assert!((before["loudness_lufs"].as_f64().unwrap() + 13.01).abs() < 0.05);

    assert_eq!(
        run(at, &["render", "--path", "path.json", "in.wav", "-o", "out.wav", "--report", "report.json"])
            .code,
        0
    );
    let after = json(at, &["measure", "levels", "out.wav"]);
    // 14 dB over the threshold at 4:1 leave 3.5 dB over; the attack lets the first wave pass.
    let change = after["rms_dbfs"].as_f64().unwrap() - before["rms_dbfs"].as_f64().unwrap();
    assert!((change + 10.5).abs() < 0.1, "{change}");
    let report: Value = serde_json::from_str(&fs::read_to_string(at.join("report.json")).unwrap()).unwrap();
    assert!((report["reductions"][0]["largest_db"].as_f64().unwrap() - 10.5).abs() < 0.02);
    assert!(
        (report["after"]["rms_dbfs"].as_f64().unwrap() - after["rms_dbfs"].as_f64().unwrap()).abs() < 1e-6
    );

    let bend = json(at, &["bend", "--path", "path.json", "--param", "ratio", "--points", "3", "in.wav"]);
    // At 1:1 nothing, at 2:1 half and without limit all of the 14 dB over the threshold.
    let outcomes: Vec<f64> =
        bend["points"].as_array().unwrap().iter().map(|p| p["outcome"].as_f64().unwrap()).collect();
    for (found, expected) in outcomes.iter().zip([0.0, 7.0, 14.0]) {
        assert!((found - expected).abs() < 0.02, "{bend}");
    }
    assert_eq!(bend["points"][2]["value"], "inf");

    let curve = json(at, &["measure", "static-curve", "--path", "path.json", "--step", "6"]);
    let points = curve["points"].as_array().unwrap();
    assert_eq!(points.len(), 11);
    for point in points {
        let gap = point["output_dbfs"].as_f64().unwrap() - point["predicted_dbfs"].as_f64().unwrap();
        assert!(gap.abs() < 0.02, "{point}");
    }
}

#[test]
fn steps_distortion_and_keys_from_the_command_line() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    fs::write(at.join("path.json"), PATH).unwrap();
    let step = json(at, &["measure", "step", "--path", "path.json", "--rate", "44100"]);
    let near = |value: &Value, expected: f64, by: f64| {
        let found = value.as_f64().unwrap();
        assert!((found - expected).abs() < by, "{found} instead of {expected}");
    };
    near(&step["up"]["to_63_ms"], 10.0, 0.5);
    near(&step["down"]["to_63_ms"], 101.0, 2.0);
    // By the formula: 14 dB over the threshold at 4:1.
    near(&step["up"]["to_db"], -10.5, 0.05);
    let bend = r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"saturation","params":{"drive_db":3.522,
        "level_db":-6,"corner":0}}]}"#;
    fs::write(at.join("bend.json"), bend).unwrap();
    let distortion = json(at, &["measure", "distortion", "--path", "bend.json"]);
    near(&distortion["harmonics_db"][1], -19.08, 0.05);

    // A key file drives the detector: a silent one reduces nothing, a loud one does.
    let signal = |level: &str, file: &str| {
        let made = run(at, &["signal", "sine", "--level", level, "--seconds", "1", "-o", file]);
        assert_eq!(made.code, 0, "{}", made.err);
    };
    signal("-6", "music.wav");
    signal("-100", "quiet.wav");
    signal("0", "loud.wav");
    let reduced = |key: &str| {
        let arguments = [
            "render",
            "--path",
            "path.json",
            "--key",
            key,
            "music.wav",
            "-o",
            "out.wav",
            "--report",
            "report.json",
        ];
        assert_eq!(run(at, &arguments).code, 0);
        let report: Value =
            serde_json::from_str(&fs::read_to_string(at.join("report.json")).unwrap()).unwrap();
        report["reductions"][0]["largest_db"].as_f64().unwrap()
    };
    assert!(reduced("quiet.wav") < 0.01);
    assert!((reduced("loud.wav") - 18.0).abs() < 0.1, "{}", reduced("loud.wav"));
}

#[test]
fn the_catalogue_names_every_effect_and_signal() {
    let folder = tempfile::tempdir().unwrap();
    let catalogue = json(folder.path(), &["effects"]);
    assert_eq!(catalogue["effects"][0]["id"], "compressor");
    // Every signal of the catalogue can be made.
    for signal in catalogue["signals"].as_array().unwrap() {
        let id = signal["id"].as_str().unwrap();
        assert_eq!(run(folder.path(), &["signal", id, "-o", "x.wav"]).code, 0, "{id}");
        assert!(json(folder.path(), &["measure", "levels", "x.wav"])["peak_dbfs"].as_f64().unwrap() <= 0.0);
    }
}

#[test]
fn bad_input_is_one_line_and_exit_code_two() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    fs::write(at.join("path.json"), PATH).unwrap();
    fs::write(at.join("ratio.json"), PATH.replace("\"ratio\":4", "\"ratio\":0.5")).unwrap();
    fs::write(at.join("nan.json"), PATH.replace("\"ratio\":4", "\"ratio\":NaN")).unwrap();
    fs::write(at.join("field.json"), PATH.replace("\"mix\"", "\"blend\"")).unwrap();
    fs::write(at.join("huge.json"), " ".repeat(1_000_001)).unwrap();
    fs::write(at.join("empty.wav"), "").unwrap();
    run(at, &["signal", "clicks", "--seconds", "1", "-o", "whole.wav"]);
    let whole = fs::read(at.join("whole.wav")).unwrap();
    fs::write(at.join("cut.wav"), &whole[..5000]).unwrap();
    let mut silent = whole;
    silent[22..24].fill(0);
    fs::write(at.join("no-channels.wav"), silent).unwrap();
    fs::write(
        at.join("gain.json"),
        r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"gain"}]}"#,
    )
    .unwrap();
    let kept = format!(
        r#"{{"format":"clear-bend-path","version":1,"stages":[{{"effect":"gate","key":{{"kind":"track","track":"{}"}}}}]}}"#,
        "a".repeat(64)
    );
    fs::write(at.join("kept.json"), kept).unwrap();
    run(at, &["signal", "clicks", "--seconds", "1", "--rate", "8000", "-o", "slow.wav"]);
    let cases: [&[&str]; 27] = [
        &[],
        &["measure", "loudness"],
        &["frobnicate"],
        &["signal", "whistle", "-o", "x.wav"],
        &["signal", "sine", "--freq", "-3", "-o", "x.wav"],
        &["signal", "sine", "--freq", "loud", "-o", "x.wav"],
        &["signal", "sine", "--tempo", "90", "-o", "x.wav"],
        &["signal", "sine", "--seconds", "nan", "-o", "x.wav"],
        &["signal", "sine", "--channels", "0", "-o", "x.wav"],
        &["signal", "sine", "--rate", "3", "-o", "x.wav"],
        &["render", "--path", "ratio.json", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "nan.json", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "field.json", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "huge.json", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "path.json", "nowhere.wav", "-o", "x.wav"],
        &["bend", "--path", "path.json", "--param", "warmth", "whole.wav"],
        &["bend", "--path", "path.json", "--param", "ratio", "--points", "1", "whole.wav"],
        &["measure", "levels", "empty.wav"],
        &["measure", "levels", "cut.wav"],
        &["measure", "levels", "no-channels.wav"],
        &["measure", "static-curve", "--path", "path.json", "--stage", "1"],
        &["measure", "step", "--path", "gain.json"],
        &["measure", "step", "--path", "path.json", "--loud", "3"],
        &["measure", "distortion", "--path", "path.json", "--freq", "40000"],
        &["render", "--path", "kept.json", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "path.json", "--key", "missing.wav", "whole.wav", "-o", "x.wav"],
        &["render", "--path", "path.json", "--response", "slow.wav", "whole.wav", "-o", "x.wav"],
    ];
    let said = cases.map(|arguments| {
        let done = run(at, arguments);
        assert_eq!((done.code, done.err.lines().count()), (2, 1), "{arguments:?}: {}", done.err);
        assert!(done.out.is_empty());
        done.err
    });
    insta::assert_snapshot!(said.concat());
    assert!(!at.join("x.wav").exists());
    // What cannot be written is a failure, not bad input.
    assert_eq!(run(at, &["signal", "sine", "-o", "no/such/folder/x.wav"]).code, 1);
}

/// The response of a second-order low cut by Butterworth's formula, a tone that reads its level, and pink noise in bands.
#[test]
fn responses_and_spectra_carry_their_units_and_agree_with_the_formula() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let path = r#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"equaliser","params":{"kind_1":1,
        "freq_1_hz":1000,"slope_1":12}}]}"#;
    fs::write(at.join("cut.json"), path).unwrap();
    let response = json(at, &["response", "--path", "cut.json", "--points", "64", "--rate", "44100"]);
    let points = response["points"].as_array().unwrap();
    assert_eq!((points.len(), response["rate_hz"].as_u64()), (64, Some(44_100)));
    for point in points {
        let [hz, db] = ["frequency_hz", "magnitude_db"].map(|key| point[key].as_f64().unwrap());
        let exact = -10.0 * (1.0 + (1000.0 / hz).powi(4)).log10();
        assert!((db - exact).abs() < 0.05 || exact < -60.0, "{hz} Hz: {db} of {exact}");
        assert!(point["phase_deg"].is_number() && point["group_delay_ms"].is_number());
    }
    assert_eq!(response["ringing"]["latency_ms"], 0.0);

    let made =
        run(at, &["signal", "sine", "--freq", "1234", "--level", "-15", "--seconds", "3", "-o", "tone.wav"]);
    assert_eq!(made.code, 0, "{}", made.err);
    let spectrum =
        json(at, &["measure", "spectrum", "tone.wav", "--resolution", "fine", "--bands", "third-octave"]);
    let levels = spectrum["points"].as_array().unwrap().iter().map(|p| p["level_dbfs"].as_f64().unwrap());
    let highest = levels.fold(f64::MIN, f64::max);
    assert!(highest < -14.95, "{highest}");
    let bands = spectrum["bands"].as_array().unwrap();
    let loudest =
        bands.iter().max_by(|a, b| a["level_dbfs"].as_f64().partial_cmp(&b["level_dbfs"].as_f64()).unwrap());
    // All of the tone's power lies in the third of an octave at 1259 Hz (IEC 61260-1).
    let loudest = loudest.unwrap();
    assert!((loudest["freq_hz"].as_f64().unwrap() - 1258.9).abs() < 0.1);
    assert!((loudest["level_dbfs"].as_f64().unwrap() + 18.01).abs() < 0.05, "{loudest}");

    for (arguments, says) in [
        (
            vec!["response", "--path", "cut.json", "--rate", "4000"],
            "--rate is 4000; accepted: 8000 to 192000 Hz",
        ),
        (vec!["measure", "spectrum", "none.wav"], "none.wav: cannot be read"),
        (vec!["measure", "spectrum", "tone.wav", "--resolution", "huge"], "coarse, medium, fine"),
    ] {
        let done = run(at, &arguments);
        assert_eq!(done.code, 2, "{}", done.err);
        assert!(done.err.lines().count() == 1 && done.err.contains(says), "{}", done.err);
    }
}

/// Two settings that share a name but for the unit have a flag each; help says for whom a range is.
#[test]
fn every_setting_of_every_signal_can_be_set() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let two = [
        "signal",
        "two-tones",
        "--level",
        "-60",
        "--second-hz",
        "2500",
        "--second-dbfs",
        "-6",
        "-o",
        "two.wav",
    ];
    assert_eq!(run(at, &two).code, 0);
    let levels = json(at, &["measure", "levels", "two.wav"]);
    let near =
        |found: &Value, expected: f64| assert!((found.as_f64().unwrap() - expected).abs() < 0.05, "{found}");
    near(&levels["rms_dbfs"], -9.01);
    let spectrum = json(
        at,
        &["measure", "spectrum", "two.wav", "--points", "36", "--scope", "left", "--bands", "octave"],
    );
    let points = spectrum["points"].as_array().unwrap();
    let highest = points.iter().map(|p| p["level_dbfs"].as_f64().unwrap()).fold(f64::MIN, f64::max);
    assert!((highest + 6.0).abs() < 0.05, "{highest}");
    let refused = run(at, &["signal", "sine", "--freq", "5000", "--rate", "8000", "-o", "no.wav"]);
    assert_eq!(refused.code, 2);
    assert_eq!(
        refused.err.trim(),
        "clear-bend: --freq: freq_hz is 5000; accepted: under 4000 Hz, half the sample rate"
    );
    assert!(!at.join("no.wav").exists());
    let help = run(at, &["signal", "--help"]).out;
    let help = help.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(help.contains("-100 to -13 dBFS (pink-noise)"), "{help}");
    assert!(
        help.contains("Time before, 0.1 to 10 s (burst); Time before, 0 to 10 s (noise-burst)"),
        "{help}"
    );
}

/// The response goes up to half the rate, and what a file cannot carry is said to be none.
#[test]
fn nothing_is_hidden_and_nothing_is_made_up() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    fs::write(at.join("path.json"), PATH).unwrap();
    let response = json(at, &["response", "--path", "path.json", "--rate", "44100", "--points", "50"]);
    let last = response["points"].as_array().unwrap().last().unwrap().clone();
    assert!(
        (last["frequency_hz"].as_f64().unwrap() - 22_050.0).abs() < 1e-6 && last["magnitude_db"].is_number()
    );
    assert_eq!(run(at, &["signal", "sine", "--seconds", "0.3", "-o", "short.wav"]).code, 0);
    let levels = json(at, &["measure", "levels", "short.wav"]);
    for none in ["momentary_max_lufs", "short_term_max_lufs", "range_lu"] {
        assert_eq!(levels[none], Value::Null, "{none}");
    }
    // A report that cannot be written leaves no output behind, and an old one as it was.
    fs::write(at.join("old.wav"), "old").unwrap();
    for out in ["new.wav", "old.wav"] {
        let done = run(
            at,
            &["render", "--path", "path.json", "short.wav", "-o", out, "--report", "no/such/report.json"],
        );
        assert_eq!(done.code, 1, "{}", done.err);
        assert!(done.err.contains("no/such/report.json: cannot be written"), "{}", done.err);
    }
    assert!(!at.join("new.wav").exists());
    assert_eq!(fs::read_to_string(at.join("old.wav")).unwrap(), "old");
    assert_eq!(fs::read_dir(at).unwrap().count(), 3);
}

/// Whole random paths through every command: each ends with an answer or a refusal, never with a panic.
#[test]
fn any_path_goes_through_every_command() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    for (name, arguments) in [
        ("loop.wav", vec!["boatyard-loop"]),
        ("mono.wav", vec!["white-noise", "--seconds", "0.4", "--rate", "8000", "--channels", "1"]),
        ("high.wav", vec!["clicks", "--seconds", "0.3", "--rate", "192000"]),
        ("key.wav", vec!["slip-drum"]),
    ] {
        assert_eq!(run(at, &[&["signal"], &arguments[..], &["-o", name]].concat()).code, 0);
    }
    let catalogue = json(at, &["effects"]);
    let effects = catalogue["effects"].as_array().unwrap();
    let mut state = 12_345u64;
    let mut random = move |below: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % below
    };
    for round in 0..24 {
        let stages: Vec<Value> = (0..=random(3))
            .map(|_| {
                let effect = &effects[random(effects.len())];
                let mut params = serde_json::Map::new();
                for param in effect["params"].as_array().unwrap().iter().take(40) {
                    let choices = param["choices"].as_array().unwrap().len();
                    // The ends of the range, or a choice; most are left alone.
                    let value = match (choices, random(4)) {
                        (0, 0) => param["min"].clone(),
                        (0, 1) => param["max"].clone(),
                        (0, _) => continue,
                        (_, 0 | 1) => Value::from(random(choices)),
                        _ => continue,
                    };
                    params.insert(param["id"].as_str().unwrap().to_owned(), value);
                }
                let scopes = ["stereo", "left", "right", "mid", "side"];
                let mix = [0.0, 0.5, 1.0][random(3)];
                serde_json::json!({"effect": effect["id"], "on": random(4) > 0, "mix": mix,
                    "scope": scopes[random(5)], "params": params})
            })
            .collect();
        let count = stages.len();
        let file = serde_json::json!({"format": "clear-bend-path", "version": 2, "stages": stages});
        fs::write(at.join("any.json"), file.to_string()).unwrap();
        let sound = ["loop.wav", "mono.wav", "high.wav"][round % 3];
        let stage = random(count).to_string();
        let effect = effects
            .iter()
            .find(|e| e["id"] == file["stages"][stage.parse::<usize>().unwrap()]["effect"])
            .unwrap();
        let bends: Vec<&str> = effect["params"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|p| !p["outcome"].is_null())
            .map(|p| p["id"].as_str().unwrap())
            .collect();
        let param = bends[random(bends.len())];
        let of_stage = ["--path", "any.json", "--stage", &stage];
        let key: &[&str] = if sound == "loop.wav" { &["--key", "key.wav"] } else { &[] };
        let commands: Vec<Vec<&str>> = vec![
            [&["render", "--path", "any.json", sound, "-o", "out.wav", "--report", "report.json"], key]
                .concat(),
            vec!["render", "--path", "any.json", sound, "-o", "difference.wav", "--part", "difference"],
            [&["bend", "--param", param, sound, "--points", "3"], &of_stage[..]].concat(),
            [&["fan", "--param", param, sound, "--values", "3"], &of_stage[..]].concat(),
            vec!["response", "--path", "any.json", "--points", "20"],
            [&["measure", "static-curve", "--step", "20"], &of_stage[..]].concat(),
            [&["measure", "distortion"], &of_stage[..]].concat(),
            [&["measure", "step"], &of_stage[..]].concat(),
            vec!["measure", "levels", "out.wav"],
            vec!["measure", "spectrum", "out.wav"],
        ];
        for arguments in commands {
            let done = run(at, &arguments);
            assert!(
                done.code == 0 || done.code == 2,
                "{arguments:?} ends with {}: {}\n{file}",
                done.code,
                done.err
            );
            assert!(!done.out.contains("NaN"), "{arguments:?}: {file}");
        }
    }
}
