//! `clear-bend render --path PATH.json IN.wav -o OUT.wav [--key KEY.wav --part after --format wav32 --report OUT.json]`

use std::path::PathBuf;

use clap::Args;
use clear_bend_catalogue::document::parse_value;
use clear_bend_explaining::report::report;
use clear_bend_measures::MatchBy;
use clear_bend_measures::export::{Part, export};
use clear_bend_measures::passage::Passage;
use clear_bend_media::Format;

use crate::fault::Fault;

/// What to render.
#[derive(Args)]
pub struct Arguments {
    /// Path file
    #[arg(long)]
    path: PathBuf,
    #[command(flatten)]
    beside: super::beside::Beside,
    /// Sound file to run through the path
    input: PathBuf,
    /// Sound file to write
    #[arg(short, long)]
    out: PathBuf,
    /// before, after, matched (after, as loud as before), or difference
    #[arg(long, default_value = "after")]
    part: String,
    /// By what after is matched in level for these two: loudness, rms, peak, or off
    #[arg(long = "match", default_value = "loudness")]
    match_by: String,
    /// wav16, wav24, wav32 (32-bit float), flac16, or flac24
    #[arg(long, default_value = "wav32")]
    format: String,
    #[command(flatten)]
    play: super::PlayAs,
    /// Lets what is left after the end ring out, instead of writing files as long as the passage
    #[arg(long, conflicts_with = "round")]
    tail: bool,
    /// JSON file to write: levels before and after, gain reduction, onsets, and what has changed in words
    #[arg(long)]
    report: Option<PathBuf>,
}

/// Reads one of a few words.
fn word<T: serde::de::DeserializeOwned>(argument: &str, text: &str) -> Result<T, Fault> {
    parse_value(text.into())
        .map_err(|e| Fault::input(argument, format!("\u{201c}{text}\u{201d}; accepted: {}", e.accepted)))
}

/// Renders, and reports if asked to.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let part: Part = word("--part", &arguments.part)?;
    let match_by: MatchBy = word("--match", &arguments.match_by)?;
    let format = Format::named(&arguments.format).map_err(|e| Fault::BadInput(format!("--{e}")))?;
    let before = super::read_sound(&arguments.input)?;
    let path = arguments.beside.path(&arguments.path, &before)?;
    let before = super::as_played(&path, before);
    let mut sound = export(part, &before, &path, arguments.play.play(), match_by, |_| {});
    if !arguments.tail {
        sound.resize(before.frames());
    }
    let bytes = format.write(&sound);
    let bytes = bytes.map_err(|e| Fault::input("--format", e))?;
    let mut files = vec![(arguments.out.as_path(), bytes)];
    if let Some(report_file) = &arguments.report {
        let (_, report) = report(&path, &Passage::played(before, arguments.play.play()));
        files.push((report_file, super::to_json(&report)?.into_bytes()));
    }
    super::write_files(&files)
}
