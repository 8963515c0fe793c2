//! `clear-bend render --path PATH.json IN.wav -o OUT.wav [--report OUT.json]`

use std::path::PathBuf;

use clap::Args;
use clear_bend_core::render::render;
use clear_bend_core::report::{Passage, report};

use crate::fault::Fault;

/// What to render.
#[derive(Args)]
pub struct Arguments {
    /// Path file
    #[arg(long)]
    path: PathBuf,
    /// WAV file to run through the path
    input: PathBuf,
    /// WAV file to write, 32-bit float
    #[arg(short, long)]
    out: PathBuf,
    /// JSON file to write: levels before and after, gain reduction, onsets, and what has changed in words
    #[arg(long)]
    report: Option<PathBuf>,
}

/// Renders, and reports if asked to.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let path = super::read_path(&arguments.path)?;
    let before = super::read_sound(&arguments.input)?;
    let Some(report_file) = &arguments.report else {
        return super::write_sound(&arguments.out, &render(&path, &before).after);
    };
    let (rendered, report) = report(&path, &Passage::new(before));
    super::write_sound(&arguments.out, &rendered.after)?;
    super::write_file(report_file, super::to_json(&report)?.as_bytes())
}
