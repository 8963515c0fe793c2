//! What the core's tests share: signals, one compressor, readings of steady tones.
#![allow(
    clippy::unwrap_used,
    clippy::cast_possible_truncation,
    clippy::cast_precision_loss,
    clippy::cast_sign_loss,
    clippy::missing_panics_doc,
    clippy::must_use_candidate,
    reason = "a test stops on the first surprise"
)]

pub mod bands;
pub mod decays;
pub mod live;

use std::sync::Arc;

use clear_bend_effects::{self as effects, Around, Effect, Processor, Setup, gain};
use clear_bend_playing::path::{Chain, Path, Sound, Stage};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Buffer;
use clear_bend_sound::dsp::Delay;
use rustfft::FftPlanner;
use rustfft::num_complex::Complex;

/// The rate of most tests, Hz.
pub const RATE: u32 = 48_000;
/// How processors are made for most tests.
pub const SETUP: Setup = Setup { rate_hz: RATE, max_block: 512 };

/// A test signal at the usual rate.
pub fn signal(kind: &str, params: &[(&str, f64)], channels: usize) -> Buffer {
    signal_at(RATE, kind, params, channels)
}

/// A test signal at a rate, Hz.
pub fn signal_at(rate_hz: u32, kind: &str, params: &[(&str, f64)], channels: usize) -> Buffer {
    source(kind, params).render(rate_hz, channels).unwrap()
}

/// How many cases a property is tried with: `CLEAR_BEND_CASES` times as many as are usual.
pub fn cases(usual: u32) -> u32 {
    let times = std::env::var("CLEAR_BEND_CASES").ok().and_then(|times| times.parse().ok());
    usual * times.unwrap_or(1)
}

/// A signal as a source.
pub fn source(kind: &str, params: &[(&str, f64)]) -> Source {
    Source::from_document(&SourceDocument::of_kind(kind, params.iter().copied().collect())).unwrap()
}

/// A stage of an effect with some of its values.
pub fn stage_with(effect: &str, params: &[(&str, f64)]) -> Stage {
    Stage::new(effects::find(effect).unwrap(), params).unwrap()
}

/// Gives a stage a sound in a slot, with a passage of so many frames.
pub fn with_sound(stage: &mut Stage, slot: usize, source: Source, sound: &Buffer, frames: usize) {
    let laid = stage.effect.sounds[slot].laid(sound, frames);
    stage.sounds[slot] = Some(Sound { source, samples: Some(Arc::new(laid)) });
}

/// A sine.
pub fn tone(freq_hz: f64, level_dbfs: f64, seconds: f64) -> Buffer {
    signal("sine", &[("freq_hz", freq_hz), ("level_dbfs", level_dbfs), ("seconds", seconds)], 1)
}

/// The loop of the demo scenario, both channels.
pub fn demo_loop() -> Buffer {
    signal("boatyard-loop", &[], 2)
}

/// A path of one compressor with a hard knee, 1 ms attack and 50 ms release unless said otherwise.
pub fn compressor(params: &[(&str, f64)]) -> Path {
    let mut all = vec![("knee_db", 0.0), ("attack_ms", 1.0), ("release_ms", 50.0)];
    all.extend_from_slice(params);
    Path { stages: vec![Stage::new(effects::find("compressor").unwrap(), &all).unwrap()] }
}

/// Place of a parameter of the compressor in the catalogue.
pub fn place(param: &str) -> usize {
    effects::compressor::EFFECT.params.iter().position(|p| p.id == param).unwrap()
}

/// Frames by which a compressor is late.
pub fn lateness() -> usize {
    Chain::new(&compressor(&[]), SETUP).latency()
}

/// Peak level of a steady tone from the RMS of the last quarter of a buffer, dBFS.
pub fn steady_level_dbfs(buffer: &Buffer) -> f64 {
    let channel = &buffer.channels()[0];
    let tail = &channel[channel.len() * 3 / 4..];
    let square: f64 = tail.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / tail.len() as f64;
    10.0 * (2.0 * square).log10()
}

/// Stops where a number is further from what is expected than it may be.
pub fn near(found: f64, expected: f64, tolerance: f64) {
    assert!((found - expected).abs() <= tolerance, "found {found}, expected {expected} +- {tolerance}");
}

/// An effect that does nothing but come late, to show that what has latency stays aligned.
pub static LATE: Effect = Effect {
    id: "late",
    params: &[],
    build: |_| Box::new(Late([Delay::new(LATE_FRAMES), Delay::new(LATE_FRAMES)])),
    abilities: &[],
    idle: |_, _| None,
    ..gain::EFFECT
};

/// By how much [`LATE`] is late, frames.
pub const LATE_FRAMES: usize = 333;

struct Late([Delay; 2]);

impl Processor for Late {
    fn set(&mut self, _: &[f64]) {}

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        self.0.iter_mut().zip(io).for_each(|(delay, channel)| delay.process(channel));
    }

    fn reset(&mut self) {
        *self = Self([Delay::new(LATE_FRAMES), Delay::new(LATE_FRAMES)]);
    }

    fn latency(&self) -> usize {
        LATE_FRAMES
    }
}

/// Power of every frequency bin of a passage that repeats, channel by channel given as weights of left and right.
pub fn powers(buffer: &Buffer, weights: [f64; 2]) -> Vec<f64> {
    let channels = buffer.channels();
    let right = &channels[channels.len() - 1];
    let mixed =
        channels[0].iter().zip(right).map(|(l, r)| weights[0] * f64::from(*l) + weights[1] * f64::from(*r));
    let mut bins: Vec<Complex<f64>> = mixed.map(Complex::from).collect();
    FftPlanner::new().plan_fft_forward(bins.len()).process(&mut bins);
    let scale = 1.0 / (bins.len() as f64).powi(2);
    bins[..bins.len() / 2].iter().map(|bin| 2.0 * bin.norm_sqr() * scale).collect()
}

/// Level of the power between two frequencies, dB.
pub fn band_db(buffer: &Buffer, weights: [f64; 2], from_hz: f64, to_hz: f64) -> f64 {
    let per_bin = 1.0 / buffer.seconds();
    let bins = (from_hz / per_bin).round() as usize..(to_hz / per_bin).round() as usize;
    10.0 * powers(buffer, weights)[bins].iter().sum::<f64>().log10()
}
