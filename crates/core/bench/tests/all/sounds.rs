//! The sounds that stages take beside the passage: how they are laid, when two are the same, and that a key of two channels
//! drives a stage as the signal itself would.

use std::sync::Arc;

use clear_bend_bench::BenchDocument;
use clear_bend_bench::origin::{Origin, laid_on_bench};
use clear_bend_catalogue::{KEY, SoundSlot};
use clear_bend_playing::path::{Path, Play, Sound, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals::Source;
use clear_bend_sound::Buffer;
use clear_bend_sound::region::Region;
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;

use clear_bend_testing::{RATE, compressor, demo_loop, signal, source, stage_with, with_sound};

fn ramp(frames: usize, channels: usize) -> Buffer {
    let channel = |c: usize| (0..frames).map(|i| (i + 1) as f32 * if c == 0 { 1.0 } else { -3.0 }).collect();
    Buffer::new(RATE, (0..channels).map(channel).collect()).unwrap()
}

#[test]
fn a_sound_is_laid_as_its_slot_says() {
    let mono = SoundSlot { channels: 1, ..KEY };
    let whole = SoundSlot { whole: true, ..KEY };
    // In step: again and again, or cut, with its own channels or their mean.
    assert_eq!(KEY.laid(&ramp(3, 2), 7).channels()[1], [-3.0, -6.0, -9.0, -3.0, -6.0, -9.0, -3.0]);
    assert_eq!(KEY.laid(&ramp(3, 2), 2).channels()[0], [1.0, 2.0]);
    assert_eq!(KEY.laid(&ramp(3, 1), 4).channels(), [[1.0, 2.0, 3.0, 1.0]]);
    assert_eq!(mono.laid(&ramp(2, 2), 3).channels(), [[-1.0, -2.0, -1.0]]);
    // Whole: as it is, whatever the passage.
    assert_eq!(whole.laid(&ramp(3, 2), 7), ramp(3, 2));
    assert_eq!(KEY.laid(&ramp(0, 2), 7).frames(), 0);
    // On a bench, what runs in step is cut as the passage is, with its seam; what is whole is not.
    let region = Some(Region { from_s: 0.5, to_s: 1.0 });
    let cut = laid_on_bench(&KEY, &ramp(48_000, 1), None, region, Play::Once, 24_000);
    assert_eq!((cut.channels()[0][0], cut.frames()), (24_001.0, 24_000));
    assert_eq!(laid_on_bench(&whole, &ramp(48_000, 1), None, region, Play::Once, 24_000).frames(), 48_000);
}

/// Two paths are equal when their sounds are: from the same place, with the same samples.
#[test]
fn paths_are_equal_when_their_sounds_are() {
    let path = |source: Source, sound: Option<&Buffer>| {
        let mut path = compressor(&[]);
        path.stages[0].sounds[0] =
            Some(Sound { source, samples: sound.map(|sound| Arc::new(sound.clone())) });
        path
    };
    let [one, other] = [ramp(100, 1), ramp(100, 2)];
    let noise = || source("white-noise", &[]);
    assert_eq!(path(noise(), Some(&one)), path(noise(), Some(&one)));
    assert!(path(noise(), Some(&one)) != path(noise(), Some(&other)), "as long, but another sound");
    assert!(path(noise(), Some(&one)) != path(noise(), None));
    assert!(path(noise(), Some(&one)) != path(Source::Stem { place: 0, after: false }, Some(&one)));
    assert!(path(noise(), None) != compressor(&[]));
}

/// The stage's own signal as its key drives it exactly as without one, in stereo, linked or not, on every scope that leaves
/// the channels as they are.
#[test]
fn a_key_that_is_the_signal_itself_changes_nothing() {
    let passage = demo_loop().slice(0..48_000);
    let compressors =
        [0.0, 0.5, 1.0].map(|link| stage_with("compressor", &[("threshold_db", -30.0), ("link", link)]));
    for stage in compressors.into_iter().chain([stage_with("gate", &[("threshold_db", -30.0)])]) {
        let free = Path { stages: vec![stage] };
        let mut keyed = free.clone();
        with_sound(&mut keyed.stages[0], 0, source("boatyard-loop", &[]), &passage, 48_000);
        assert!(render(&free, &passage).after == render(&keyed, &passage).after, "{:?}", free.stages[0]);
    }
}

/// Both channels of a key count: one that is the other upside down would be silent in mono. Unlinked, each channel goes by
/// its own; a single one goes by the louder.
#[test]
fn both_channels_of_a_key_drive_a_stage() {
    let loud = signal("sine", &[("level_dbfs", -6.0), ("seconds", 1.0)], 1).channels()[0].clone();
    let against = Buffer::new(RATE, vec![loud.clone(), loud.iter().map(|x| -x).collect()]).unwrap();
    let right_only = Buffer::new(RATE, vec![vec![0.0; 48_000], loud]).unwrap();
    let passage = signal("pink-noise", &[("level_dbfs", -40.0), ("seconds", 1.0)], 2);
    let taken = |link: f64, scope: Scope, key: &Buffer| {
        let mut stage = stage_with(
            "compressor",
            &[("threshold_db", -26.0), ("ratio", f64::INFINITY), ("knee_db", 0.0), ("link", link)],
        );
        stage.scope = scope;
        with_sound(&mut stage, 0, source("sine", &[]), key, 48_000);
        let after = render(&Path { stages: vec![stage] }, &passage).after;
        // The gain of each channel over the last half, dB.
        [0, 1].map(|c| {
            let power =
                |sound: &Buffer| sound.channels()[c][24_000..].iter().map(|x| f64::from(x * x)).sum::<f64>();
            10.0 * (power(&after) / power(&passage)).log10()
        })
    };
    let near = |found: [f64; 2], expected: [f64; 2]| {
        assert!(found.iter().zip(expected).all(|(a, b)| (a - b).abs() < 0.1), "{found:?}, not {expected:?}");
    };
    near(taken(1.0, Scope::Stereo, &against), [-20.0, -20.0]);
    near(taken(0.0, Scope::Stereo, &against), [-20.0, -20.0]);
    near(taken(1.0, Scope::Stereo, &right_only), [-20.0, -20.0]);
    near(taken(0.0, Scope::Stereo, &right_only), [0.0, -20.0]);
    near(taken(0.0, Scope::Left, &right_only), [-20.0, 0.0]);
    near(taken(1.0, Scope::Right, &against), [0.0, -20.0]);
}

/// A stem is heard by its source; what is no stem comes from where it says.
#[test]
fn a_stem_is_heard_by_its_source() {
    let text = r#"{"format": "clear-bend-bench", "version": 3, "stems": [
        {"source": {"kind": "slip-bass"}, "snapshots": [{"stages": [
            {"effect": "compressor", "sounds": {"key": {"kind": "stem", "stem": 1}}},
            {"effect": "gate", "sounds": {"key": {"kind": "stem", "stem": 0}}},
            {"effect": "limiter", "sounds": {"key": {"kind": "sine"}}}]}]},
        {"source": {"kind": "slip-drum"}, "snapshots": [{"stages": []}]}]}"#;
    let bench = BenchDocument::from_json(text).unwrap();
    let stems = bench.check().unwrap();
    let kinds =
        stems[0].path.stages.iter().map(|stage| match Origin::of(&stage.key().unwrap().source, &stems) {
            Origin { source: Source::Made(kind, _), path: None } => kind.id,
            other => panic!("{other:?}"),
        });
    assert_eq!(kinds.collect::<Vec<_>>(), ["slip-drum", "slip-bass", "sine"]);
    // A source that is asked for again is found for every slot that takes it.
    let mut asked = Vec::new();
    let path = stems[0].path.clone().with_sounds(|effect, slot, source| {
        asked.push((effect.id, slot.id, source.clone()));
        None
    });
    assert_eq!(asked.len(), 3);
    assert!(path.stages.iter().all(|stage: &Stage| stage.key().unwrap().samples.is_none()));
}

/// A stem after its path is heard as it leaves it, and no two stems wait for each other.
#[test]
fn a_stem_is_heard_after_its_path() {
    let text = r#"{"format": "clear-bend-bench", "version": 3, "stems": [
        {"source": {"kind": "slip-bass"}, "snapshots": [{"stages": [
            {"effect": "compressor", "sounds": {"key": {"kind": "stem", "stem": 1, "after": true}}}]}]},
        {"source": {"kind": "slip-drum"}, "snapshots": [{"stages": [
            {"effect": "gain", "params": {"gain_db": -20}},
            {"effect": "compressor", "mix": 0, "sounds": {"key": {"kind": "stem", "stem": 0, "after": true}}}]}]}]}"#;
    let bench = BenchDocument::from_json(text).unwrap();
    let stems = bench.check().unwrap();
    let key = &stems[0].path.stages[0].key().unwrap().source;
    assert_eq!(*key, Source::Stem { place: 1, after: true });
    let Origin { source, path } = Origin::of(key, &stems);
    let path = path.unwrap();
    assert_eq!(path.stages[1].key().unwrap().source, Source::Stem { place: 0, after: false });
    let sound = source.render(48_000, 2).unwrap();
    let region = Some(Region { from_s: 1.0, to_s: 3.0 });
    for play in [Play::Round, Play::Once] {
        let [before, after] =
            [None, Some(&path)].map(|path| laid_on_bench(&KEY, &sound, path, region, play, 96_000));
        assert_eq!((before.frames(), after.frames()), (96_000, 96_000));
        for (x, y) in before.channels()[0].iter().zip(&after.channels()[0]) {
            assert!((0.1 * x - y).abs() < 1e-6, "{x} {y}");
        }
    }
    let only = r#"{"kind": "sine", "after": true}"#;
    let refused = Source::from_document(&serde_json::from_str(only).unwrap()).unwrap_err();
    assert!(refused.to_string().contains("after"), "{refused}");
}

proptest! {
    /// However long a sound is, laid in step it is as long as the passage, and each of its frames is one of the sound's.
    #[test]
    fn what_is_laid_in_step_is_as_long_as_the_passage(sound in 1usize..300, passage in 0usize..1000, channels in 1usize..3) {
        let laid = KEY.laid(&ramp(sound, channels), passage);
        prop_assert_eq!(laid.frames(), passage);
        prop_assert_eq!(laid.channels().len(), channels);
        for (i, x) in laid.channels()[0].iter().enumerate() {
            prop_assert_eq!(*x, (i % sound + 1) as f32);
        }
    }
}
