//! `clear-bend backup FILE` and `clear-bend restore FILE`

use std::fs::File;
use std::io::{Read, Seek};
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use clap::Args;
use clear_bend_store::OwnPostgres;

use super::files::folder_of;
use crate::data;
use crate::fault::Fault;

/// How a backup begins: it is an archive of PostgreSQL's own.
const FIRST: &[u8; 5] = b"PGDMP";

/// Which file, and whose data.
#[derive(Args)]
pub struct Arguments {
    /// File that holds everything that is saved
    file: PathBuf,
    /// Folder of our own PostgreSQL
    #[arg(long, default_value = "var/postgres")]
    data: PathBuf,
}

/// Becomes true when somebody wants us to end; what has been begun is then put away in order.
fn stopped() -> Result<Arc<AtomicBool>, Fault> {
    let stopped = Arc::new(AtomicBool::new(false));
    let told = Arc::clone(&stopped);
    ctrlc::set_handler(move || told.store(true, Ordering::SeqCst))
        .map_err(|e| Fault::Failure(format!("signals cannot be heard ({e})")))?;
    Ok(stopped)
}

/// Writes all that is saved to a new file, which is there when it is whole, for nobody else to read.
pub fn back_up(arguments: &Arguments) -> Result<(), Fault> {
    let Arguments { file, data } = arguments;
    let named = file.display().to_string();
    let there = || Fault::input(&named, "is there already; accepted: a file that is not there yet");
    if file.symlink_metadata().is_ok() {
        return Err(there());
    }
    let folder = data::existing_folder(data)?;
    let unwritten = |e: std::io::Error| Fault::input(&named, format!("cannot be written ({e})"));
    let stopped = stopped()?;
    // For nobody else to read: that is how such files are made.
    let made = tempfile::NamedTempFile::new_in(folder_of(file)).map_err(unwritten)?;
    let handle = made.as_file().try_clone().map_err(unwritten)?;
    OwnPostgres::back_up(&folder, handle, &stopped).map_err(|error| Fault::Failure(error.to_string()))?;
    made.as_file().sync_all().map_err(unwritten)?;
    made.persist_noclobber(file).map(|_| ()).map_err(|e| match e.error.kind() {
        std::io::ErrorKind::AlreadyExists => there(),
        _ => unwritten(e.error),
    })
}

/// Makes a data folder out of such a file.
pub fn restore(arguments: &Arguments) -> Result<(), Fault> {
    let named = arguments.file.display().to_string();
    let mut file = File::open(&arguments.file).map_err(|e| Fault::input(&named, e))?;
    let mut first = [0; 5];
    let read = file.read_exact(&mut first).and_then(|()| file.rewind());
    if read.is_err() || &first != FIRST {
        return Err(Fault::input(
            &named,
            "is no backup; accepted: a file that `clear-bend backup` has written",
        ));
    }
    let folder = data::folder(&arguments.data)?;
    OwnPostgres::restore(&folder, file, &*stopped()?).map_err(|error| Fault::Failure(error.to_string()))
}
