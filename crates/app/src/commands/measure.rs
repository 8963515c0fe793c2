//! `clear-bend measure WHAT`: JSON on standard output.

use std::path::PathBuf;

use clap::{Args, Subcommand};
use clear_bend_core::Refusal;
use clear_bend_core::audio::RATES_HZ;
use clear_bend_core::measures::{
    CurvePoint, LevelStep, Levels, LowTone, loudest_moments, measure_distortion, measure_static_curve,
    measure_step,
};
use clear_bend_core::path::Stage;
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
        /// The stage
        #[command(flatten)]
        of: StageOf,
        /// Distance of the input levels, dB
        #[arg(long, default_value_t = 3, value_parser = clap::value_parser!(u16).range(1..=60))]
        step: u16,
    },
    /// Attack and release of one stage, measured with a 1 kHz tone that steps up and down again
    Step {
        /// The stage
        #[command(flatten)]
        of: StageOf,
        /// Peak level of the tone before and after, dBFS
        #[arg(long, default_value_t = LevelStep::USUAL.quiet_dbfs, allow_negative_numbers = true)]
        quiet: f64,
        /// Peak level of the tone between, dBFS
        #[arg(long, default_value_t = LevelStep::USUAL.loud_dbfs, allow_negative_numbers = true)]
        loud: f64,
    },
    /// Harmonics that one stage adds to a low tone
    Distortion {
        /// The stage
        #[command(flatten)]
        of: StageOf,
        /// Frequency of the tone, Hz
        #[arg(long, default_value_t = LowTone::USUAL.freq_hz)]
        freq: f64,
        /// Peak level of the tone, dBFS
        #[arg(long, default_value_t = LowTone::USUAL.level_dbfs, allow_negative_numbers = true)]
        level: f64,
    },
}

/// Which stage is measured, and at which rate.
#[derive(Args)]
pub struct StageOf {
    /// Path file
    #[arg(long)]
    path: PathBuf,
    /// Which stage of the path, from 0
    #[arg(long, default_value_t = 0)]
    stage: usize,
    /// Sample rate, Hz
    #[arg(long, default_value_t = 48_000)]
    rate: u32,
}

impl StageOf {
    fn read(&self) -> Result<Stage, Fault> {
        let mut path = super::read_path(&self.path)?;
        let accepted = match path.stages.len() {
            0 => "a path with at least one stage".to_owned(),
            n => format!("0 to {}", n - 1),
        };
        if self.stage >= path.stages.len() {
            return Err(refused("--stage", self.stage, &accepted));
        }
        if !RATES_HZ.contains(&self.rate) {
            return Err(refused("--rate", self.rate, "8000 to 192000 Hz"));
        }
        Ok(path.stages.swap_remove(self.stage))
    }
}

/// Says what was wrong with a number on the command line.
fn refused(argument: &str, found: impl std::fmt::Display, accepted: &str) -> Fault {
    Fault::BadInput(Refusal::new(argument, found, accepted).to_string())
}

/// Accepts a level of a test tone.
fn level(argument: &str, dbfs: f64) -> Result<f64, Fault> {
    if (-100.0..=0.0).contains(&dbfs) { Ok(dbfs) } else { Err(refused(argument, dbfs, "-100 to 0 dBFS")) }
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
        Measure::StaticCurve { of, step } => {
            let stage = of.read()?;
            super::print_json(&StaticCurve {
                effect: stage.effect.id,
                rate_hz: of.rate,
                freq_hz: 1000.0,
                points: measure_static_curve(&stage, of.rate, usize::from(*step)),
            })
        }
        Measure::Step { of, quiet, loud } => {
            let stage = of.read()?;
            let step =
                LevelStep { quiet_dbfs: level("--quiet", *quiet)?, loud_dbfs: level("--loud", *loud)? };
            let response = measure_step(&stage, of.rate, step).ok_or_else(|| {
                let effect = stage.effect.label.to_lowercase();
                refused("--stage", format!("a {effect}"), "a stage whose gain moves with the level")
            })?;
            super::print_json(&response)
        }
        Measure::Distortion { of, freq, level: dbfs } => {
            let stage = of.read()?;
            let most = f64::from(of.rate) / 4.0;
            if !(10.0..=most).contains(freq) {
                return Err(refused("--freq", freq, &format!("10 to {most} Hz at this rate")));
            }
            let tone = LowTone { freq_hz: *freq, level_dbfs: level("--level", *dbfs)? };
            super::print_json(&measure_distortion(&stage, of.rate, &tone))
        }
    }
}
