//! The shipped voice through a de-esser: what it takes, and what it leaves.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::cast_precision_loss,
    clippy::cast_possible_truncation,
    clippy::cast_sign_loss,
    reason = "a test stops on the first surprise"
)]

use clear_bend_effects as effects;
use clear_bend_explaining::report::report;
use clear_bend_measures::Sibilants;
use clear_bend_measures::passage::Passage;
use clear_bend_media::read_sound;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_sound::Buffer;

fn voice() -> Buffer {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../store/demo/voice.flac");
    read_sound(&std::fs::read(file).unwrap()).unwrap()
}

fn de_esser(params: &[(&str, f64)]) -> Path {
    let all = [&[("freq_hz", 5500.0), ("ratio", 4.0), ("knee_db", 0.0), ("range_db", 24.0)], params].concat();
    Path { stages: vec![Stage::new(effects::find("de-esser").unwrap(), &all).unwrap()] }
}

/// Level under 3 kHz, dB, of the whole passage.
fn under_3_khz_db(buffer: &Buffer) -> f64 {
    // A sum over a window is a low-pass; three in a row have no side lobes to speak of. Half power near 3 kHz.
    let mut x: Vec<f64> = buffer.channels()[0].iter().map(|x| f64::from(*x)).collect();
    for _ in 0..3 {
        x = x.windows(5).map(|w| w.iter().sum::<f64>() / 5.0).collect();
    }
    10.0 * (x.iter().map(|x| x * x).sum::<f64>() / x.len() as f64).log10()
}

#[test]
fn a_de_esser_on_the_voice_takes_sibilants_and_leaves_the_rest() {
    // Common practice: 4:1 above 5.5 kHz, set for about 3 dB.
    let before = voice();
    let path = de_esser(&[("threshold_db", -31.0)]);
    let rendered = render(&path, &before);
    let gain = rendered.gain_db(0).unwrap();
    let sibilants = Sibilants::between(&before, &rendered.after).unwrap();
    let taken: Vec<f64> =
        sibilants.all.iter().map(|s| s.before_dbfs - s.after_dbfs).filter(|db| *db > 0.5).collect();
    let mean = taken.iter().sum::<f64>() / taken.len() as f64;
    assert!(sibilants.all.len() >= 12 && taken.len() >= 5, "{} of {}", taken.len(), sibilants.all.len());
    assert!((2.0..4.0).contains(&mean), "{mean} dB off the {} that are over the threshold", taken.len());
    assert_eq!(sibilants.lisping, 0);

    // It acts in sibilants only, and while the gain comes back from one.
    let rate = f64::from(before.rate_hz());
    let inside = |i: usize| {
        let t = i as f64 / rate;
        sibilants.all.iter().any(|s| t >= s.from_s - 0.01 && t <= s.to_s + 0.15)
    };
    let without = gain.iter().enumerate().filter(|(i, _)| !inside(*i));
    let deepest = without.fold(0.0f32, |a, (_, g)| a.min(*g));
    assert!(deepest > -0.1, "{deepest} dB outside of sibilants");

    // Everything under 3 kHz stays: by the share of the band that the filter leaves there, and as measured.
    let change = under_3_khz_db(&rendered.after) - under_3_khz_db(&before);
    assert!(change.abs() < 0.1, "{change} dB");
    let rest = sibilants.rest_change_db.unwrap();
    assert!(rest.abs() < 0.1, "{rest} dB");
}

#[test]
fn a_stage_is_read_between_its_own_ends() {
    // A gain in front of the de-esser is not what the de-esser has done.
    let passage = Passage::new(voice());
    let gain = Stage::new(effects::find("gain").unwrap(), &[("gain_db", -7.0)]).unwrap();
    let mut path = de_esser(&[("threshold_db", -38.0)]);
    path.stages.insert(0, gain);
    let (_, report) = report(&path, &passage);
    let found = report.stages[1].sibilants.as_ref().unwrap();
    assert!(found.rest_change_db.unwrap().abs() < 0.1, "{:?}", found.rest_change_db);
    let said: Vec<String> = report.sentences.iter().map(ToString::to_string).collect();
    assert!(
        said.iter().any(|s| s.contains("sibilants come out") && s.ends_with("everything else stays.")),
        "{said:?}"
    );
}

#[test]
fn too_much_of_it_lisps() {
    let before = voice();
    let path = de_esser(&[("threshold_db", -60.0), ("ratio", f64::INFINITY), ("freq_hz", 4000.0)]);
    let sibilants = Sibilants::between(&before, &render(&path, &before).after).unwrap();
    assert!(sibilants.lisping >= sibilants.all.len() / 2, "{} of {}", sibilants.lisping, sibilants.all.len());
}
