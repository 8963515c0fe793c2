//! The sentences: measured numbers, correct plurals, and a reason where nothing happens.

use clear_bend_explaining::report::report;
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_signals::Material;
use clear_bend_sound::Buffer;

use clear_bend_testing::bands::BELL;
use clear_bend_testing::decays::Gauss;
use clear_bend_testing::{RATE, compressor, demo_loop, near, signal, source, stage_with, tone, with_sound};
use serde_json::Value;

fn said_of(path: &Path, source: &Buffer, material: Material) -> String {
    let mut passage = Passage::new(source.clone());
    passage.material = material;
    let (_, report) = report(path, &passage);
    report.sentences.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
}

fn said(path: &Path, source: &Buffer) -> String {
    said_of(path, source, Material::Hits)
}

#[test]
fn what_happens_and_why_nothing_does() {
    let drums = demo_loop();
    let switched_off = |mix, on| {
        let mut path = compressor(&[]);
        (path.stages[0].mix, path.stages[0].on) = (mix, on);
        path
    };
    let two_hits = signal("clicks", &[("interval_ms", 500.0), ("seconds", 1.0), ("level_dbfs", 0.0)], 1);
    let two_off = Path {
        stages: vec![switched_off(1.0, false).stages.remove(0), switched_off(0.0, true).stages.remove(0)],
    };
    let all = [
        ("loop, firm", said(&compressor(&[("threshold_db", -20.0), ("release_ms", 100.0)]), &drums)),
        ("loop, loud hits only", said(&compressor(&[("threshold_db", -14.0), ("release_ms", 20.0)]), &drums)),
        (
            "loop, make-up",
            said(&compressor(&[("threshold_db", -6.0), ("makeup_db", 6.0), ("release_ms", 20.0)]), &drums),
        ),
        ("tone", said(&compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0)]), &tone(1000.0, -8.0, 4.0))),
        ("two clicks", said(&compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0)]), &two_hits)),
        ("threshold over every peak", said(&compressor(&[("threshold_db", 0.0)]), &drums)),
        ("knee over every peak", said(&compressor(&[("threshold_db", 0.0), ("knee_db", 2.0)]), &drums)),
        ("ratio one", said(&compressor(&[("ratio", 1.0)]), &drums)),
        ("ratio one, make-up", said(&compressor(&[("ratio", 1.0), ("makeup_db", -3.0)]), &drums)),
        ("mix zero", said(&switched_off(0.0, true), &drums)),
        ("off", said(&switched_off(1.0, false), &drums)),
        ("two off", said(&two_off, &drums)),
        ("empty path", said(&Path::default(), &drums)),
        ("silence", said(&compressor(&[]), &Buffer::new(RATE, vec![vec![0.0; 48_000]]).unwrap())),
    ];
    insta::assert_snapshot!(all.map(|(name, said)| format!("{name}: {said}")).join("\n"));
}

/// What single sounds are called follows the source, and only what may be a voice has sibilants; of several stages each is named.
#[test]
fn words_follow_the_material() {
    let (drums, firm) = (demo_loop(), compressor(&[("threshold_db", -20.0), ("release_ms", 100.0)]));
    for (material, word) in [
        (Material::Hits, "of the 30 hits come"),
        (Material::Notes, "of the 30 notes come"),
        (Material::Clicks, "of the 30 clicks come"),
        (Material::Sounds, "of the 30 sounds come"),
    ] {
        let said = said_of(&firm, &drums, material);
        assert!(said.contains(word), "{said}");
    }
    let one_of =
        |count: usize| Path { stages: vec![stage_with("de-esser", &[("threshold_db", -45.0)]); count] };
    let (hits, sounds) =
        (said_of(&one_of(1), &drums, Material::Hits), said_of(&one_of(1), &drums, Material::Sounds));
    assert!(hits.contains("bright hits come out") && !hits.contains("sibilant"), "{hits}");
    assert!(sounds.contains("sibilants come out"), "{sounds}");
    let twice = said_of(&one_of(2), &drums, Material::Hits);
    assert!(twice.contains("1 De-esser: The") && twice.contains("2 De-esser: The"), "{twice}");
}

/// What is said of the match, held against peaks and RMS levels taken from the samples here.
#[test]
fn what_is_said_of_the_match_is_what_is_heard() {
    let (drums, path) = (demo_loop(), compressor(&[("threshold_db", -20.0), ("release_ms", 100.0)]));
    let (rendered, report) = report(&path, &Passage::new(drums.clone()));
    let samples = |of: &Buffer| of.channels().iter().flatten().map(|x| f64::from(*x)).collect::<Vec<f64>>();
    let (before, after) = (samples(&drums), samples(&rendered.after));
    let peak = |of: &[f64]| 20.0 * of.iter().fold(0.0f64, |most, x| most.max(x.abs())).log10();
    let rms = |of: &[f64]| 10.0 * (of.iter().map(|x| x * x).sum::<f64>() / of.len() as f64).log10();
    let (peak_change, rms_change) = (peak(&after) - peak(&before), rms(&after) - rms(&before));
    let matches = report.match_sentences.unwrap();
    assert_eq!(report.sentences[matches.at], matches.loudness);
    let db = |x: f64| format!("{:.1} dB", x.abs());
    let more = |x: f64, of: &str| format!("with {} {} {of}.", db(x), if x < 0.0 { "less" } else { "more" });
    assert_eq!(
        matches.rms.to_string(),
        format!(
            "Matched by +{}, the RMS level is as before, {}",
            db(rms_change),
            more(peak_change - rms_change, "peak")
        )
    );
    assert_eq!(
        matches.peak.to_string(),
        format!(
            "Matched by +{}, the peak is as before, {}",
            db(peak_change),
            more(rms_change - peak_change, "RMS level")
        )
    );
    let needed = db(report.level_matches.loudness.gain_db);
    assert_eq!(
        matches.off.to_string(),
        format!(
            "Not matched: it is {needed} quieter than before, with {} less peak; +{needed} would be needed to make it as loud as before.",
            db(peak_change)
        )
    );
}

/// What is taken out is not made as loud as the whole.
#[test]
fn a_part_that_is_heard_alone_is_not_matched() {
    let drums = demo_loop();
    let with = |hear: f64, mix: f64| {
        let mut path = compressor(&[("threshold_db", -20.0), ("hear", hear)]);
        path.stages[0].mix = mix;
        report(&path, &Passage::new(drums.clone())).1
    };
    assert!(with(0.0, 1.0).level_matches.loudness.gain_db.abs() > 1.0);
    for hear in [1.0, 2.0] {
        let part = with(hear, 1.0);
        for matched in [part.level_matches.loudness, part.level_matches.rms, part.level_matches.peak] {
            assert!(matched.gain_db == 0.0);
        }
        let said = part.match_sentences.unwrap();
        assert_eq!(
            said.loudness.to_string(),
            "A part of the sound is heard alone, as loud as it is, so it is not matched."
        );
        assert!(part.sentences.contains(&said.loudness));
        // Where the stage is out, nothing of it is heard.
        assert!(with(hear, 0.0).level_matches.loudness.gain_db.abs() < 1e-9);
    }
}

/// A filter is told by the share of the energy that it changes, and not by octaves in which there is nothing.
#[test]
fn a_filter_is_told_by_the_energy_that_it_changes() {
    let mut two = tone(125.0, -10.0, 4.0);
    let high = tone(4000.0, -20.0, 4.0);
    for (low, high) in two.channels_mut().iter_mut().zip(high.channels()) {
        low.iter_mut().zip(high).for_each(|(low, high)| *low += high);
    }
    // A tone that is 10 dB louder than another has 10 / 11 of the energy of both.
    let bell = |freq_hz| Path {
        stages: vec![stage_with(
            "equaliser",
            &[("kind_1", BELL), ("freq_1_hz", freq_hz), ("gain_1_db", -6.0), ("q_1", 1.0)],
        )],
    };
    let said = |freq_hz| said_of(&bell(freq_hz), &two, Material::Sounds);
    let (low, high, nothing) = (said(125.0), said(4000.0), said(32.0));
    assert!(
        low.starts_with(
            "91 % of the energy is changed by 0.5 dB or more: the octave around 125 Hz falls most, by 6.0 dB"
        ),
        "{low}"
    );
    assert!(
        high.starts_with(
            "9 % of the energy is changed by 0.5 dB or more: the octave around 4.00 kHz falls most, by 6.0 dB"
        ),
        "{high}"
    );
    assert!(nothing.starts_with("None of the "), "{nothing}");
}

/// Every number to three decimals: what is written down must not hang on the last bit.
fn rounded(value: Value) -> Value {
    match value {
        Value::Number(n) => n.as_f64().map_or(Value::Null, |n| ((n * 1000.0).round() / 1000.0).into()),
        Value::Array(items) => items.into_iter().map(rounded).collect(),
        Value::Object(fields) => fields.into_iter().map(|(name, value)| (name, rounded(value))).collect(),
        other => other,
    }
}

#[test]
fn a_report_of_three_hits() {
    let hits = [("interval_ms", 1000.0), ("seconds", 3.0), ("level_dbfs", 0.0)];
    let path = compressor(&[("threshold_db", -20.0), ("attack_ms", 0.0), ("release_ms", 400.0)]);
    let mut passage = Passage::new(signal("clicks", &hits, 2));
    passage.material = Material::Clicks;
    let (_, report) = report(&path, &passage);
    insta::assert_json_snapshot!(rounded(serde_json::to_value(report).unwrap()));
}

#[test]
fn the_level_line_shows_where_a_gain_was_applied() {
    let mut path = compressor(&[("ratio", 1.0), ("makeup_db", 6.0)]);
    path.stages
        .extend(compressor(&[("threshold_db", -20.0), ("ratio", f64::INFINITY), ("attack_ms", 0.0)]).stages);
    let (_, report) = report(&path, &Passage::new(tone(1000.0, -20.0, 4.0)));
    let peaks: Vec<f64> = report.points.iter().map(|p| p.peak_dbfs).collect();
    for (found, expected) in peaks.iter().zip([-20.0, -14.0, -20.0]) {
        near(*found, expected, 0.05);
    }
    assert_eq!(report.points.len(), 3);
    near(report.level_matches.loudness.gain_db, 0.0, 0.05);
}

/// At the level as recorded, a response that brings the sound over full scale says so; as loud as dry, the same one does not.
#[test]
fn a_loud_response_warns_before_it_clips() {
    let mut gauss = Gauss::new(3);
    let mut side = || {
        (0..28_800).map(|n| (4.0 * gauss.next() * (-13.8 * f64::from(n) / 48_000.0).exp()) as f32).collect()
    };
    let response = Buffer::new(RATE, vec![side(), side()]).unwrap();
    let before = signal("boatyard-loop", &[], 2).slice(0..96_000);
    let of = |level: f64| {
        let mut stage = Stage { mix: 1.0, ..stage_with("convolution", &[("level", level)]) };
        with_sound(&mut stage, 0, source("impulse", &[]), &response, 0);
        said(&Path { stages: vec![stage] }, &before)
    };
    assert!(of(1.0).contains("over full scale"), "{}", of(1.0));
    assert!(!of(0.0).contains("over full scale"), "{}", of(0.0));
}
