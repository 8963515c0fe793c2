//! What the core's tests share: signals, one compressor, readings of steady tones.

use clear_bend_core::Buffer;
use clear_bend_core::catalogue::Number;
use clear_bend_core::effects::{self, Setup};
use clear_bend_core::path::{Path, Stage};
use clear_bend_core::signals::{Source, SourceDocument};

pub const RATE: u32 = 48_000;
pub const SETUP: Setup = Setup { rate_hz: RATE, max_block: 512 };

pub fn signal(kind: &str, params: &[(&str, f64)], channels: usize) -> Buffer {
    signal_at(RATE, kind, params, channels)
}

pub fn signal_at(rate_hz: u32, kind: &str, params: &[(&str, f64)], channels: usize) -> Buffer {
    let params = params.iter().map(|&(id, value)| (id.to_owned(), Number(value))).collect();
    let document = SourceDocument { kind: kind.to_owned(), params };
    Source::from_document(&document).unwrap().render(rate_hz, channels).unwrap()
}

pub fn tone(freq_hz: f64, level_dbfs: f64, seconds: f64) -> Buffer {
    signal("sine", &[("freq_hz", freq_hz), ("level_dbfs", level_dbfs), ("seconds", seconds)], 1)
}

pub fn demo_loop() -> Buffer {
    signal("boatyard-loop", &[], 2)
}

/// A path of one compressor with a hard knee, 1 ms attack and 50 ms release unless said otherwise.
pub fn compressor(params: &[(&str, f64)]) -> Path {
    let mut all = vec![("knee_db", 0.0), ("attack_ms", 1.0), ("release_ms", 50.0)];
    all.extend_from_slice(params);
    Path { stages: vec![Stage::new(effects::find("compressor").unwrap(), &all).unwrap()] }
}

/// Peak level of a steady tone from the RMS of the last quarter of a buffer, dBFS.
pub fn steady_level_dbfs(buffer: &Buffer) -> f64 {
    let channel = &buffer.channels()[0];
    let tail = &channel[channel.len() * 3 / 4..];
    let square: f64 = tail.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / tail.len() as f64;
    10.0 * (2.0 * square).log10()
}

pub fn near(found: f64, expected: f64, tolerance: f64) {
    assert!((found - expected).abs() <= tolerance, "found {found}, expected {expected} +- {tolerance}");
}
