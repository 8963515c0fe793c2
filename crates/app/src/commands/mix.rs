//! `clear-bend mix BENCH.json -o OUT.wav [--inserts --round --format wav32 --report OUT.json]`

use std::path::PathBuf;

use clap::Args;
use clear_bend_bench::origin::desk;
use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_explaining::report::{SendsCompared, SumLevels};
use clear_bend_media::Format;
use clear_bend_playing::mix::SendsAs;
use clear_bend_playing::path::Play;
use clear_bend_signals::Source;
use serde::Serialize;

use crate::fault::Fault;

/// Which bench, and how it is played.
#[derive(Args)]
pub struct Arguments {
    /// Bench file
    bench: PathBuf,
    /// Sound file to write
    #[arg(short, long)]
    out: PathBuf,
    /// Runs what is sent through an insert beside every stem, and not through one path that all share
    #[arg(long)]
    inserts: bool,
    /// Takes the sources as a loop, as it is heard once it has gone round, whatever the bench says
    #[arg(long, conflicts_with = "once")]
    round: bool,
    /// Plays them once, with their tails, whatever the bench says
    #[arg(long)]
    once: bool,
    /// wav16, wav24, wav32 (32-bit float), flac16, or flac24
    #[arg(long, default_value = "wav32")]
    format: String,
    /// JSON file to write: levels of the sum, what goes to shared paths and comes back, and shared paths beside inserts
    #[arg(long)]
    report: Option<PathBuf>,
}

/// What is read off all stems together.
#[derive(Serialize)]
struct Together {
    #[serde(flatten)]
    sum: SumLevels,
    compared: Option<SendsCompared>,
}

/// Adds up, and reports if asked to.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let named = format!("BENCH {}", super::name(&arguments.bench));
    let text = super::read_text("BENCH", &arguments.bench)?;
    let mut bench = BenchDocument::from_json(&text).map_err(|e| Fault::input(&named, e))?;
    if arguments.round || arguments.once {
        bench.play = if arguments.round { Play::Round } else { Play::Once };
    }
    if arguments.inserts {
        bench.listening.sends_as = SendsAs::Inserts;
    }
    let format = Format::named(&arguments.format).map_err(|e| Fault::BadInput(format!("--{e}")))?;
    let stems = bench.check().map_err(|e| Fault::input(&named, e))?;
    let made = |source: &Source| source.render(BENCH_RATE_HZ, 2);
    let desk = desk(&bench, &stems, made).map_err(|e| Fault::input(&named, e))?;
    let (beside, after) = (desk.beside(), desk.at_work());
    let bytes = format.write(&desk.sum(&beside, &after).0).map_err(|e| Fault::input("--format", e))?;
    let mut files = vec![(arguments.out.as_path(), bytes)];
    if let Some(report) = &arguments.report {
        let sum = SumLevels::of(&desk, &beside, &desk.before(), &after);
        let together = Together { sum, compared: SendsCompared::of(&desk) };
        files.push((report, super::to_json(&together)?.into_bytes()));
    }
    super::write_files(&files)
}
