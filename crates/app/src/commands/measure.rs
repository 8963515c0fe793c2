//! `clear-bend measure WHAT`: JSON on standard output.

use std::ops::RangeInclusive;
use std::path::PathBuf;
use std::time::Instant;

use clap::{Args, Subcommand};
use clear_bend_effects::LevelStep;
use clear_bend_measures::modulation::{ModulationSpectrum, Notches, Sidebands, predicted_notches, tone_sway};
use clear_bend_measures::room::{LONGEST_S, OverPhases, Room, RoomResponse, wobble_cents};
use clear_bend_measures::{
    BandLevel, CurvePoint, Levels, LowTone, Resolution, Spectrum, band_levels, log_freqs, loudest_moments,
    measure_distortion, measure_static_curve, measure_step, run_stage,
};
use clear_bend_playing::path::Stage;
use clear_bend_sound::scope::Scope;
use serde::Serialize;

use super::{design, rate, refused, room, sweep};
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
        /// Peak level of the tone before and after, dBFS [default: -35; for a gate, under its threshold]
        #[arg(long, allow_negative_numbers = true)]
        quiet: Option<f64>,
        /// Peak level of the tone between, dBFS [default: -10; for a gate, over its threshold]
        #[arg(long, allow_negative_numbers = true)]
        loud: Option<f64>,
    },
    /// Mean spectrum of a WAV file: what a tone at each frequency would read, and the level in octave bands
    Spectrum {
        /// WAV file
        input: PathBuf,
        /// How many frequencies, at equal ratios from 20 Hz to 20 kHz (or half the rate)
        #[arg(long, default_value_t = 512, value_parser = clap::value_parser!(u16).range(2..=10_000))]
        points: u16,
        /// How finely frequencies are told apart
        #[arg(long, value_enum, default_value_t = ResolutionOf::Medium)]
        resolution: ResolutionOf,
        /// How wide bands are
        #[arg(long, value_enum, default_value_t = BandsOf::Octave)]
        bands: BandsOf,
        /// What of a stereo file is read
        #[arg(long, default_value_t = Scope::Stereo)]
        scope: Scope,
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
    /// What moves: notches over a cycle, the sway of pitch and level, the lines beside a tone, and how its envelope sways
    Modulation {
        /// The stage
        #[command(flatten)]
        of: StageOf,
        /// Frequency of the tone whose lines are listed, Hz
        #[arg(long, default_value_t = 440.0)]
        tone: f64,
    },
    /// The notches of a stage that moves, held at a place of its cycle
    Notches {
        /// The stage
        #[command(flatten)]
        of: StageOf,
        /// The place, degrees
        #[arg(allow_negative_numbers = true, long, default_value_t = 0.0)]
        at: f64,
    },
    /// How a room, a reverb or a whole path rings on: decay times over all and by octave, clarity, reflections, density
    Decay {
        /// Response to an impulse as a WAV file, instead of a path
        #[arg(conflicts_with = "path", required_unless_present = "path")]
        input: Option<PathBuf>,
        /// Path file
        #[arg(long)]
        path: Option<PathBuf>,
        /// One stage of the path alone, from 0, by its wet sound, instead of all of it
        #[arg(long, requires = "path")]
        stage: Option<usize>,
        /// Sample rate, Hz
        #[arg(long, default_value_t = 48_000)]
        rate: u32,
    },
    /// A room by its measures: its reflections, and how long it rings by the formulas and in its response
    Room(room::Arguments),
    /// A designed response: its density and decay as they were drawn and as they are measured
    Design(design::Arguments),
    /// The response of a place or a device out of the recording of a sweep, and how far it stands over the noise
    Sweep(sweep::Arguments),
}

/// What is read off a stage that moves.
#[derive(Serialize)]
struct Movement {
    /// Cycles per second; 0 where it is held.
    rate_hz: f64,
    /// How far the pitch of the moving sound sways to either side, cents.
    pitch_sway_cents: Option<f64>,
    /// How far the level of a held tone sways, on the left and in the sum of both sides: (most - least) / (most + least).
    ripple: f64,
    sum_ripple: f64,
    /// The notches at 16 places of a cycle.
    notches: Vec<Moment>,
    /// The lines beside a tone; none where a cycle takes more than 10 s.
    sidebands: Option<Sidebands>,
    /// How the envelope of the tone sways.
    modulation_spectrum: Option<ModulationSpectrum>,
}

/// The notches at a place of the cycle.
#[derive(Serialize)]
struct Moment {
    place_deg: f64,
    /// Where the formula says that notches are, Hz.
    predicted_hz: Vec<f64>,
    #[serde(flatten)]
    notches: Notches,
}

/// Places of the cycle at which notches are listed.
const PLACES: u32 = 16;

impl Moment {
    fn of(stage: &Stage, cycles: f64, rate_hz: u32) -> Option<Self> {
        let notches = Notches::of(stage, cycles, rate_hz)?;
        let predicted_hz = predicted_notches(stage, cycles, rate_hz);
        Some(Self { place_deg: 360.0 * cycles, predicted_hz, notches })
    }
}

impl Movement {
    fn of(stage: &Stage, tone_hz: f64, rate_hz: u32) -> Result<Self, Fault> {
        let swing = stage.effect.swing(&stage.values).ok_or_else(|| still(stage))?;
        let sway = tone_sway(stage, rate_hz).ok_or_else(|| still(stage))?;
        let moment = |k: u32| Moment::of(stage, f64::from(k) / f64::from(PLACES), rate_hz);
        Ok(Self {
            rate_hz: if swing.held.is_some() { 0.0 } else { swing.rate_hz },
            pitch_sway_cents: sway.cents,
            ripple: sway.ripple,
            sum_ripple: sway.sum_ripple,
            notches: (0..PLACES).filter_map(moment).collect(),
            sidebands: Sidebands::of(stage, tone_hz, rate_hz),
            modulation_spectrum: ModulationSpectrum::of_tone(stage, tone_hz, rate_hz),
        })
    }
}

/// The refusal of a stage that does not move.
fn still(stage: &Stage) -> Fault {
    refused(
        "--stage",
        stage.effect.label,
        "a stage that moves: chorus, flanger, phaser, vibrato, tremolo, auto-pan",
    )
}

/// What is read off a stage that rings.
#[derive(Serialize)]
struct StageRoom {
    #[serde(flatten)]
    room: Room,
    /// How far the pitch of a tone's tail wobbles; none where nothing rings.
    wobble_cents: Option<f64>,
    /// What of it depends on where its movement is when the sound comes; none where nothing moves.
    over_phases: Option<OverPhases>,
    /// How much of one core of this machine it takes to play it, %.
    percent_of_core: f64,
}

impl StageRoom {
    fn of(stage: &Stage, rate_hz: u32) -> Self {
        let begun = Instant::now();
        run_stage(stage, rate_hz, COST_S);
        let percent_of_core = 100.0 * begun.elapsed().as_secs_f64() / COST_S;
        let room = Room::of(&RoomResponse::of_stage(stage, rate_hz, LONGEST_S));
        Self {
            room,
            wobble_cents: wobble_cents(stage, rate_hz),
            over_phases: OverPhases::of(stage, rate_hz),
            percent_of_core,
        }
    }
}

/// A stage runs for so long to see what it costs, s of sound.
const COST_S: f64 = 2.0;

/// How finely a spectrum tells frequencies apart.
#[derive(Clone, Copy, clap::ValueEnum)]
pub enum ResolutionOf {
    /// 88 Hz at 48 kHz
    Coarse,
    /// 22 Hz
    Medium,
    /// 5.5 Hz
    Fine,
}

/// How wide bands are.
#[derive(Clone, Copy, clap::ValueEnum)]
pub enum BandsOf {
    /// Octaves
    Octave,
    /// Thirds of an octave
    ThirdOctave,
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
        rate(self.rate)?;
        Ok(path.stages.swap_remove(self.stage))
    }
}

/// Accepts a number within a range.
fn within(argument: &str, value: f64, range: RangeInclusive<f64>, accepted: &str) -> Result<f64, Fault> {
    if range.contains(&value) { Ok(value) } else { Err(refused(argument, value, accepted)) }
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
    momentary_max_lufs: Option<f64>,
    short_term_max_lufs: Option<f64>,
}

#[derive(Serialize)]
struct StaticCurve {
    effect: &'static str,
    rate_hz: u32,
    freq_hz: f64,
    points: Vec<CurvePoint>,
}

#[derive(Serialize)]
struct MeanSpectrum {
    rate_hz: u32,
    scope: Scope,
    /// The bandwidth of noise that one reading takes in.
    bandwidth_hz: f64,
    points: Vec<SpectrumPoint>,
    /// RMS level of all that lies within each band, and how wide it is in stereo.
    bands: Vec<BandLevel>,
}

#[derive(Serialize)]
struct SpectrumPoint {
    frequency_hz: f64,
    level_dbfs: f64,
}

/// Measures and prints.
pub fn run(what: &Measure) -> Result<(), Fault> {
    match what {
        Measure::Sweep(arguments) => sweep::run(arguments),
        Measure::Design(arguments) => design::run(arguments),
        Measure::Room(arguments) => room::run(arguments),
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
            let usual = stage.effect.step(&stage.values);
            let given =
                |argument, dbfs: &Option<f64>, usual| dbfs.map_or(Ok(usual), |dbfs| level(argument, dbfs));
            let step = LevelStep {
                quiet_dbfs: given("--quiet", quiet, usual.quiet_dbfs)?,
                loud_dbfs: given("--loud", loud, usual.loud_dbfs)?,
            };
            let response = measure_step(&stage, of.rate, step).ok_or_else(|| {
                let effect = stage.effect.label.to_lowercase();
                refused("--stage", format!("a {effect}"), "a stage whose gain moves with the level")
            })?;
            super::print_json(&response)
        }
        Measure::Spectrum { input, points, resolution, bands, scope } => {
            let sound = super::read_sound(input)?;
            let resolution = match resolution {
                ResolutionOf::Coarse => Resolution::Coarse,
                ResolutionOf::Medium => Resolution::Medium,
                ResolutionOf::Fine => Resolution::Fine,
            };
            let spectrum = Spectrum::of(&sound, *scope, resolution);
            let highest = (0.5 * f64::from(sound.rate_hz())).min(20_000.0);
            let freqs = log_freqs(20.0, highest, usize::from(*points));
            let levels = spectrum.points_dbfs(&freqs);
            let per_octave = if matches!(bands, BandsOf::Octave) { 1 } else { 3 };
            super::print_json(&MeanSpectrum {
                rate_hz: sound.rate_hz(),
                scope: *scope,
                bandwidth_hz: spectrum.bandwidth_hz,
                points: freqs
                    .into_iter()
                    .zip(levels)
                    .map(|(frequency_hz, level_dbfs)| SpectrumPoint { frequency_hz, level_dbfs })
                    .collect(),
                bands: band_levels(&sound, *scope, per_octave),
            })
        }
        Measure::Distortion { of, freq, level: dbfs } => {
            let stage = of.read()?;
            let most = f64::from(of.rate) / 4.0;
            let freq_hz = within("--freq", *freq, 10.0..=most, &format!("10 to {most} Hz at this rate"))?;
            let tone = LowTone { freq_hz, level_dbfs: level("--level", *dbfs)? };
            super::print_json(&measure_distortion(&stage, of.rate, &tone))
        }
        Measure::Modulation { of, tone } => {
            let most = 0.45 * f64::from(of.rate);
            let tone = within("--tone", *tone, 20.0..=most, &format!("20 to {most} Hz at this rate"))?;
            super::print_json(&Movement::of(&of.read()?, tone, of.rate)?)
        }
        Measure::Notches { of, at } => {
            let (stage, at) = (of.read()?, within("--at", *at, -360.0..=360.0, "-360 to 360 degrees")?);
            stage.effect.swing(&stage.values).ok_or_else(|| still(&stage))?;
            let moment = Moment::of(&stage, (at / 360.0).rem_euclid(1.0), of.rate);
            super::print_json(&moment.ok_or_else(|| {
                let why = "it rings for longer than it can be recorded, so that no notch can be read";
                Fault::Failure(format!("--stage: {why}"))
            })?)
        }
        Measure::Decay { input: Some(input), .. } => {
            super::print_json(&Room::of(&RoomResponse::of_buffer(&super::read_response(input)?)))
        }
        Measure::Decay { path, stage: Some(stage), rate, .. } => {
            let of = StageOf { path: path.clone().unwrap_or_default(), stage: *stage, rate: *rate };
            super::print_json(&StageRoom::of(&of.read()?, of.rate))
        }
        Measure::Decay { path, rate: rate_hz, .. } => {
            let path = super::read_path(&path.clone().unwrap_or_default())?;
            super::print_json(&Room::of(&RoomResponse::of_path(&path, rate(*rate_hz)?)))
        }
    }
}
