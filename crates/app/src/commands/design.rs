//! `clear-bend measure design`: a designed response, as it was drawn and as it is.

use std::path::PathBuf;

use clap::Args;
use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_explaining::report::{DesignView, design_of};
use clear_bend_signals::design::DESIGNED;

use crate::fault::Fault;

/// Which design, and how finely its wave is listed.
#[derive(Args)]
pub struct Arguments {
    /// The design as it stands in a path file, `{"kind": "response-by-design", "design": {"curves": {"level_db": [[0, 0], [1, -6]]}}}`, or a WAV file that was written from one; the usual one without
    #[arg(long)]
    source: Option<PathBuf>,
    /// In how many columns its wave is listed
    #[arg(long, default_value_t = 100, value_parser = clap::value_parser!(u16).range(2..=10_000))]
    columns: u16,
}

/// Measures and prints.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let named = |e: clear_bend_sound::Refusal| Fault::input("--source", e);
    let design = design_of(&super::read_source("--source", arguments.source.as_deref(), DESIGNED.id)?)
        .map_err(named)?;
    let view = DesignView::of(&design, BENCH_RATE_HZ, usize::from(arguments.columns)).map_err(named)?;
    super::print_json(&view)
}
