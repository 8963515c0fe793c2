//! `clear-bend schema path|bench|ear-map`

use clap::Args;
use clear_bend_bench::schema::SCHEMAS;

use crate::fault::Fault;

/// Which schema to print.
#[derive(Args)]
pub struct Arguments {
    /// path, bench, or ear-map
    kind: String,
}

/// Prints it.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let found = SCHEMAS.iter().find(|(kind, _)| *kind == arguments.kind);
    let known: Vec<_> = SCHEMAS.iter().map(|(kind, _)| *kind).collect();
    let (_, schema) = found.ok_or_else(|| super::refused("KIND", &arguments.kind, &known.join(", ")))?;
    super::print_json(&schema())
}
