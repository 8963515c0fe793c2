//! `clear-bend response`: what a path does to every frequency.

use std::path::PathBuf;

use clap::Args;
use clear_bend_measures::room::{LONGEST_S, record};
use clear_bend_measures::{Ringing, Tail, log_freqs, measure_path_response};
use clear_bend_media::Format;
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;
use serde::Serialize;

use super::rate;
use crate::fault::Fault;

/// What to measure.
#[derive(Args)]
pub struct Arguments {
    /// Path file
    #[arg(long)]
    path: PathBuf,
    /// How many frequencies, at equal ratios from 20 Hz to half the rate
    #[arg(long, default_value_t = 512, value_parser = clap::value_parser!(u16).range(2..=10_000))]
    points: u16,
    /// Sample rate, Hz
    #[arg(long, default_value_t = 48_000)]
    rate: u32,
    /// Where the impulse enters, and what is read
    #[arg(long, default_value_t = Scope::Stereo)]
    scope: Scope,
    /// Write the response to an impulse on both sides as a sound, until it is 90 dB down, instead
    #[arg(long, requires = "out")]
    impulse: bool,
    /// WAV file to write (32-bit float)
    #[arg(short, long, requires = "impulse")]
    out: Option<PathBuf>,
}

#[derive(Serialize)]
struct Measured {
    rate_hz: u32,
    scope: Scope,
    ringing: Ringing,
    points: Vec<Point>,
}

#[derive(Serialize)]
struct Point {
    frequency_hz: f64,
    magnitude_db: f64,
    phase_deg: f64,
    group_delay_ms: Option<f64>,
}

/// Measures and prints.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let path = super::read_path(&arguments.path)?;
    let rate_hz = rate(arguments.rate)?;
    if let Some(out) = &arguments.out {
        let sides = record(&path, rate_hz, LONGEST_S, 0).to_vec();
        let sound = Buffer::new(rate_hz, sides).map_err(|e| Fault::input("--path", e))?;
        let bytes = Format::Wav32.write(&sound).map_err(|e| Fault::input("--out", e))?;
        return super::write_files(&[(out.as_path(), bytes)]);
    }
    let scope = arguments.scope;
    let response = measure_path_response(&path, rate_hz, scope, Tail::Long);
    let freqs = log_freqs(20.0, 0.5 * f64::from(rate_hz), usize::from(arguments.points));
    let phases = response.phases_deg(&freqs);
    let points = freqs.into_iter().zip(phases).map(|(frequency_hz, phase_deg)| Point {
        frequency_hz,
        magnitude_db: response.gain_db(frequency_hz),
        phase_deg,
        group_delay_ms: response.group_delay_ms(frequency_hz),
    });
    super::print_json(&Measured { rate_hz, scope, ringing: response.ringing(), points: points.collect() })
}
