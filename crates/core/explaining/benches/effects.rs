//! Speed of effects and measures: `cargo bench -p clear-bend-explaining`. Throughput is in samples per channel, so
//! that "elements per second" divided by 48,000 is the number of times real time.

#![allow(clippy::unwrap_used, missing_docs, reason = "a benchmark may stop on the first error")]

use std::hint::black_box;

use clear_bend_catalogue::{Param, Values};
use clear_bend_effects::{self as effects, Around, Plan, Processor, Setup};
use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::report::{DesignView, Looking, Measured, design_of, read, report};
use clear_bend_measures::Levels;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::room::{LONGEST_S, Room, RoomResponse};
use clear_bend_playing::path::{Path, Play, Sound, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals::design::Maker;
use clear_bend_signals::{Source, SourceDocument};
use criterion::{Bencher, Criterion, Throughput, criterion_group, criterion_main};

const SETUP: Setup = Setup { rate_hz: 48_000, max_block: 128 };

fn demo_loop() -> clear_bend_sound::Buffer {
    let document = SourceDocument::of_kind("boatyard-loop", Values::default());
    Source::from_document(&document).unwrap().render(48_000, 2).unwrap()
}

/// Sends the source through a processor in blocks of 128, again and again.
fn over_and_over(b: &mut Bencher, source: &clear_bend_sound::Buffer, processor: &mut dyn Processor) {
    let mut work = source.clone();
    b.iter(|| {
        for (to, from) in work.channels_mut().iter_mut().zip(source.channels()) {
            to.copy_from_slice(from);
        }
        let mut at = 0;
        work.for_each_block(128, |io| {
            let mut around = Around::default();
            around.at = at;
            processor.process(io, &around);
            at += 128;
        });
        black_box(&work);
    });
}

fn compressor(c: &mut Criterion) {
    let source = demo_loop();
    let mut group = c.benchmark_group("stereo 48 kHz, 8 s");
    group.throughput(Throughput::Elements(source.frames() as u64));
    for effect in effects::ALL {
        let usual: Vec<f64> = effect.params.iter().map(|p| p.default).collect();
        let switched = |p: &Param| if p.choices == effects::OFF_ON { 1.0 } else { p.default };
        let costly: Vec<f64> = effect.params.iter().map(switched).collect();
        let both = [("", &usual), (", every switch on", &costly)];
        for (how, values) in both.into_iter().take(if usual == costly { 1 } else { 2 }) {
            let mut processor = (effect.build)(&Plan::plain(SETUP, values));
            group.bench_function(format!("{}{how}, in blocks of 128", effect.id), |b| {
                over_and_over(b, &source, processor.as_mut())
            });
        }
    }
    group.bench_function("levels", |b| b.iter(|| black_box(Levels::of(&source))));
    let passage = Passage::new(source.clone());
    let path = Path { stages: vec![Stage::new(effects::ALL[0], &[]).unwrap()] };
    group.bench_function("render and report of one compressor", |b| {
        b.iter(|| black_box(report(&path, &passage)));
    });
    group.finish();
}

/// Bands of an equaliser, in minimum and in linear phase.
fn equaliser(c: &mut Criterion) {
    let source = demo_loop();
    let mut group = c.benchmark_group("stereo 48 kHz, 8 s");
    group.throughput(Throughput::Elements(source.frames() as u64));
    for (phase, name) in [(0.0, "minimum"), (1.0, "linear")] {
        for bands in [12u32, 24] {
            let mut params = vec![("phase".to_owned(), phase)];
            for band in 1..=bands {
                params.push((format!("kind_{band}"), 6.0));
                params.push((format!("freq_{band}_hz"), 40.0 * 1.28f64.powi(band.cast_signed())));
                params.push((format!("gain_{band}_db"), 3.0));
            }
            let params: Vec<(&str, f64)> = params.iter().map(|(id, value)| (id.as_str(), *value)).collect();
            let stage = Stage::new(&effects::equaliser::EFFECT, &params).unwrap();
            let mut processor = (stage.effect.build)(&Plan::plain(SETUP, &stage.values));
            group.bench_function(format!("equaliser, {bands} bells, {name} phase, in blocks of 128"), |b| {
                over_and_over(b, &source, processor.as_mut())
            });
        }
    }
    group.finish();
}

/// Effects that move, with all that they have.
fn movement(c: &mut Criterion) {
    let source = demo_loop();
    let mut group = c.benchmark_group("stereo 48 kHz, 8 s");
    group.throughput(Throughput::Elements(source.frames() as u64));
    for (name, effect, place, most) in [
        ("chorus of 8 voices", &effects::chorus::EFFECT, "voices", 8.0),
        ("phaser of 12 sections", &effects::phaser::EFFECT, "sections", 5.0),
    ] {
        let params = &[(place, most), ("feedback", 0.3)];
        let stage = Stage::new(effect, params).unwrap();
        let mut processor = (effect.build)(&Plan::plain(SETUP, &stage.values));
        group.bench_function(format!("{name}, in blocks of 128"), |b| {
            over_and_over(b, &source, processor.as_mut());
        });
    }
    group.finish();
}

/// A reverb with all that it has at work, and what is read off its response.
fn reverb(c: &mut Criterion) {
    let source = demo_loop();
    let mut group = c.benchmark_group("stereo 48 kHz, 8 s");
    group.throughput(Throughput::Elements(source.frames() as u64));
    let all = [("diffusion", 1.0), ("all_passes", 8.0), ("move_ms", 0.5), ("early_count", 64.0)];
    for (name, place) in [("ahead of", 0.0), ("inside", 1.0)] {
        let params = [&all[..], &[("diffusion_place", place)]].concat();
        let stage = Stage::new(&effects::reverb::EFFECT, &params).unwrap();
        let mut processor = (stage.effect.build)(&Plan::plain(SETUP, &stage.values));
        group.bench_function(
            format!("reverb, 16 moving lines, all diffusion {name} them, in blocks of 128"),
            |b| {
                over_and_over(b, &source, processor.as_mut());
            },
        );
    }
    group.finish();
    let stage = Stage::new(&effects::reverb::EFFECT, &[("decay_s", 3.0)]).unwrap();
    c.bench_function("a decay of 3 s recorded", |b| {
        b.iter(|| black_box(RoomResponse::of_stage(&stage, 48_000, LONGEST_S)));
    });
    let response = RoomResponse::of_stage(&stage, 48_000, LONGEST_S);
    c.bench_function("a decay of 3 s read off in all bands", |b| b.iter(|| black_box(Room::of(&response))));
}

/// A response of two seconds, and of ten.
fn convolution(c: &mut Criterion) {
    let source = demo_loop();
    let mut group = c.benchmark_group("stereo 48 kHz, 8 s");
    group.throughput(Throughput::Elements(source.frames() as u64));
    for seconds in [2.0, 10.0] {
        let noise = Values::from_iter([("seconds", seconds)]);
        let noise = SourceDocument::of_kind("white-noise", noise);
        let response = Source::from_document(&noise).unwrap().render(48_000, 2).unwrap();
        let stage = Stage::new(&effects::convolution::EFFECT, &[]).unwrap();
        let sounds = [Some(std::sync::Arc::new(response))];
        let plan = Plan { sounds: &sounds, ..Plan::plain(SETUP, &stage.values) };
        let mut processor = (stage.effect.build)(&plan);
        group.bench_function(format!("convolution with {seconds} s, in blocks of 128"), |b| {
            over_and_over(b, &source, processor.as_mut());
        });
    }
    group.finish();
    // As a passage is rendered, its kernels made first.
    let noise = |seconds: f64| {
        let noise = SourceDocument::of_kind("white-noise", Values::from_iter([("seconds", seconds)]));
        let source = Source::from_document(&noise).unwrap();
        (source.render(48_000, 2).unwrap(), source)
    };
    let (passage, _) = noise(60.0);
    let (response, of) = noise(2.0);
    let stage = Stage::new(&effects::convolution::EFFECT, &[("level", 1.0)]).unwrap();
    let sound = Sound { samples: Some(response.into()), ..Sound::of(of) };
    let path = Path { stages: vec![Stage { mix: 1.0, sounds: vec![Some(sound)], ..stage }] };
    let mut group = c.benchmark_group("stereo 48 kHz, 60 s");
    group.throughput(Throughput::Elements(passage.frames() as u64));
    group.sample_size(10);
    group.bench_function("convolution with 2 s, rendered", |b| b.iter(|| black_box(render(&path, &passage))));
    group.finish();
}

/// A designed response of 3 s, made and read as the page does it while a hand moves a point.
fn design(c: &mut Criterion) {
    let params = Values::from_iter([("length_s", 3.0)]);
    let design = design_of(&SourceDocument::of_kind("response-by-design", params)).unwrap();
    let mut group = c.benchmark_group("a designed response of 3 s");
    group.sample_size(20);
    group.bench_function("made", |b| b.iter(|| black_box(Maker::default().made(&design, 48_000, 2).sides)));
    group.bench_function("made and read", |b| {
        b.iter(|| black_box(DesignView::of(&design, 48_000, 400).unwrap()));
    });
    let mut maker = Maker::default();
    group.bench_function("made and read, its fall moved", |b| {
        b.iter(|| black_box(DesignView::by(&mut maker, &design, 48_000, 400).unwrap()));
    });
    group.finish();
}

/// A path with every effect and some compressors, twenty stages in all: run and read afresh, and again while one stage moves.
fn twenty_stages(c: &mut Criterion) {
    let passage = Passage::played(demo_loop(), Play::Round);
    let more = std::iter::repeat(&effects::compressor::EFFECT);
    let all = effects::ALL.iter().copied().chain(more).take(20);
    let mut path = Path { stages: all.map(|effect| Stage::new(effect, &[]).unwrap()).collect() };
    let mut group = c.benchmark_group("twenty stages on stereo 48 kHz, 8 s");
    group.sample_size(10);
    group.bench_function("afresh", |b| b.iter(|| black_box(report(&path, &passage))));
    let (mut run, mut measured) = (Looking::default(), Measured::default());
    for place in [0, 10, 19] {
        let mut mixes = [0.5, 1.0].into_iter().cycle();
        group.bench_function(format!("run again after stage {} has moved", place + 1), |b| {
            b.iter(|| {
                path.stages[place].mix = mixes.next().unwrap();
                black_box(run.render(&path, &passage.buffer, passage.play, |_| {}));
            });
        });
        group.bench_function(format!("run and read again after stage {} has moved", place + 1), |b| {
            b.iter(|| {
                path.stages[place].mix = mixes.next().unwrap();
                let rendered = run.render(&path, &passage.buffer, passage.play, |_| {});
                black_box(read(&path, &passage, &rendered, &mut run, &mut measured));
            });
        });
    }
    let bend = BendOf::new(&path, 19, "threshold_db").unwrap();
    group.bench_function("a point of a bend of the last one", |b| {
        let mut values = [-30.0, -20.0].into_iter().cycle();
        b.iter(|| black_box(bend.point(&mut run, &passage, values.next().unwrap())));
    });
    group.finish();
}

criterion_group!(benches, compressor, equaliser, movement, reverb, convolution, design, twenty_stages);
criterion_main!(benches);
