//! `clear-bend measure sweep`: the response out of the recording of a sweep.

use std::path::PathBuf;

use clap::Args;
use clear_bend_measures::sweeps::{Recovered, response_of};
use clear_bend_signals::SWEEP;

use crate::fault::Fault;

/// Which recording, of which sweep.
#[derive(Args)]
pub struct Arguments {
    /// Recording of a sweep, all of it and what rings after it
    recording: PathBuf,
    /// The sweep as it stands in a path file, `{"kind": "sweep", "params": {"seconds": 6}}`; the usual one without
    #[arg(long)]
    sweep: Option<PathBuf>,
    /// WAV file to write the response to (32-bit float)
    #[arg(short, long)]
    out: Option<PathBuf>,
}

/// Works it out, writes it and prints what was found.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let recording = super::read_sound(&arguments.recording)?;
    let sweep = super::read_source("--sweep", arguments.sweep.as_deref(), SWEEP.id)?;
    let named = |e| Fault::input(&super::name(&arguments.recording), e);
    let Recovered { response, found } = response_of(&recording, &sweep).map_err(named)?;
    if let Some(out) = &arguments.out {
        super::write_sound(out, &response)?;
    }
    super::print_json(&found)
}
