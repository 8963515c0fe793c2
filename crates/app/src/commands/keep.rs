//! `clear-bend backup FILE` and `clear-bend restore FILE`

use std::fs::{File, OpenOptions};
use std::path::PathBuf;

use clap::Args;
use clear_bend_store::OwnPostgres;

use super::serve::reachable_folder;
use crate::fault::Fault;

/// Which file, and whose data.
#[derive(Args)]
pub struct Arguments {
    /// File that holds everything that is saved
    file: PathBuf,
    /// Folder of our own PostgreSQL
    #[arg(long, default_value = "var/postgres")]
    data: PathBuf,
}

/// Writes all that is saved to a new file.
pub fn back_up(arguments: &Arguments) -> Result<(), Fault> {
    let named = arguments.file.display().to_string();
    let refused =
        |e: std::io::Error| Fault::input(&named, format!("{e}; accepted: a file that is not there yet"));
    let file = OpenOptions::new().write(true).create_new(true).open(&arguments.file).map_err(refused)?;
    let folder = reachable_folder(&arguments.data)?;
    OwnPostgres::back_up(&folder, file).map_err(|error| {
        // Half a backup is none.
        let _ = std::fs::remove_file(&arguments.file);
        Fault::Failure(error.to_string())
    })
}

/// Makes a data folder out of such a file.
pub fn restore(arguments: &Arguments) -> Result<(), Fault> {
    let file =
        File::open(&arguments.file).map_err(|e| Fault::input(&arguments.file.display().to_string(), e))?;
    let folder = reachable_folder(&arguments.data)?;
    OwnPostgres::restore(&folder, file).map_err(|error| Fault::Failure(error.to_string()))
}
