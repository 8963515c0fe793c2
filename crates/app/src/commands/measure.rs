//! `clear-bend measure WHAT`: JSON on standard output.

use std::path::PathBuf;

use clap::Subcommand;
use clear_bend_core::Refusal;
use clear_bend_core::audio::RATES_HZ;
use clear_bend_core::measures::{CurvePoint, Levels, loudest_moments, measure_static_curve};
use serde::Serialize;

use crate::fault::Fault;

/// What to measure.
#[derive(Subcommand)]
pub enum Measure {
    /// Peak, true peak, RMS, crest factor and loudness of a WAV file
    Levels {
        /// WAV file
        input: PathBuf,
    },
    /// Input level against output level of one stage, by its formula and as measured with a 1 kHz tone
    StaticCurve {
        /// Path file
        #[arg(long)]
        path: PathBuf,
        /// Which stage of the path, from 0
        #[arg(long, default_value_t = 0)]
        stage: usize,
        /// Distance of the input levels, dB
        #[arg(long, default_value_t = 3, value_parser = clap::value_parser!(u16).range(1..=60))]
        step: u16,
        /// Sample rate, Hz
        #[arg(long, default_value_t = 48_000)]
        rate: u32,
    },
}

#[derive(Serialize)]
struct FileLevels {
    length_s: f64,
    rate_hz: u32,
    channels: usize,
    #[serde(flatten)]
    levels: Levels,
    momentary_max_lufs: f64,
    short_term_max_lufs: f64,
}

#[derive(Serialize)]
struct StaticCurve {
    effect: &'static str,
    rate_hz: u32,
    freq_hz: f64,
    points: Vec<CurvePoint>,
}

/// Measures and prints.
pub fn run(what: &Measure) -> Result<(), Fault> {
    match what {
        Measure::Levels { input } => {
            let sound = super::read_sound(input)?;
            let (momentary_max_lufs, short_term_max_lufs) = loudest_moments(&sound);
            super::print_json(&FileLevels {
                length_s: sound.seconds(),
                rate_hz: sound.rate_hz(),
                channels: sound.channels().len(),
                levels: Levels::of(&sound),
                momentary_max_lufs,
                short_term_max_lufs,
            })
        }
        Measure::StaticCurve { path, stage, step, rate } => {
            let path = super::read_path(path)?;
            let accepted = match path.stages.len() {
                0 => "a path with at least one stage".to_owned(),
                n => format!("0 to {}", n - 1),
            };
            let chosen = path.stages.get(*stage);
            let chosen = chosen
                .ok_or_else(|| Fault::BadInput(Refusal::new("--stage", stage, accepted).to_string()))?;
            if !RATES_HZ.contains(rate) {
                let refusal = Refusal::new("--rate", rate, "8000 to 192000 Hz");
                return Err(Fault::BadInput(refusal.to_string()));
            }
            super::print_json(&StaticCurve {
                effect: chosen.effect.id,
                rate_hz: *rate,
                freq_hz: 1000.0,
                points: measure_static_curve(chosen, *rate, usize::from(*step)),
            })
        }
    }
}
