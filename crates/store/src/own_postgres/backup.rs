//! All that our own database holds, in one file and back, by PostgreSQL's own programs.

use std::fs::{self, File};
use std::io::{ErrorKind, Read, Seek};
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use super::OwnPostgres;
use super::folder::DataFolder;
use crate::OwnPostgresError;

/// How often it is looked whether a program has ended, or we are told to.
const LOOKED_EVERY: Duration = Duration::from_millis(50);

impl OwnPostgres {
    /// Whether something is saved in a data folder.
    #[must_use]
    pub fn holds_data(data_folder: &Path) -> bool {
        data_folder.join("cluster/PG_VERSION").exists()
    }

    /// Writes everything that the database of a data folder holds to a file, while programs may go on working with it.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what failed; the file may be incomplete then. It ends, and all that it has started with it, once `stopped`.
    pub fn back_up(data_folder: &Path, file: File, stopped: &AtomicBool) -> Result<(), OwnPostgresError> {
        if !Self::holds_data(data_folder) {
            return Err(OwnPostgresError::NoData(data_folder.to_owned()));
        }
        let postgres = Self::start(data_folder)?;
        let folder = DataFolder::prepare(data_folder)?;
        let mut dump = postgres.program(&folder, "pg_dump")?;
        done("pg_dump", dump.args(["--format=custom", "--no-owner"]).stdout(file), stopped)
    }

    /// Makes a data folder out of such a file. There must be none yet: nothing is written over. It is made beside its place, under a name that
    /// nobody else has, and is there when it is whole; where it fails, none is left behind.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what failed. It ends, and all that it has started with it, once `stopped`.
    pub fn restore(data_folder: &Path, file: File, stopped: &AtomicBool) -> Result<(), OwnPostgresError> {
        let has_data = || OwnPostgresError::HasData(data_folder.to_owned());
        if fs::read_dir(data_folder).is_ok_and(|mut entries| entries.next().is_some()) {
            return Err(has_data());
        }
        let name =
            data_folder.file_name().map_or_else(Default::default, |name| name.to_string_lossy().into_owned());
        let fresh =
            data_folder.with_file_name(format!(".{name}.restoring-{}", uuid::Uuid::new_v4().simple()));
        let whole = Self::restored(&fresh, file, stopped).and_then(|()| {
            fs::rename(&fresh, data_folder).map_err(|error| match error.kind() {
                // Somebody else has begun there meanwhile.
                ErrorKind::DirectoryNotEmpty | ErrorKind::AlreadyExists => has_data(),
                _ => OwnPostgresError::Io {
                    what: "what was restored cannot be put in its place",
                    path: data_folder.to_owned(),
                    source: error,
                },
            })
        });
        if whole.is_err() {
            let _ = fs::remove_dir_all(&fresh);
        }
        whole
    }

    fn restored(folder: &Path, file: File, stopped: &AtomicBool) -> Result<(), OwnPostgresError> {
        let postgres = Self::start(folder)?;
        let folder = DataFolder::prepare(folder)?;
        let mut restore = postgres.program(&folder, "pg_restore")?;
        restore.args(["--exit-on-error", "--single-transaction", "--no-owner", "--dbname=clear_bend"]);
        done("pg_restore", restore.stdin(file), stopped)
    }

    /// A program of PostgreSQL's that works on our database. The password is not among its arguments, which anybody can list.
    fn program(&self, folder: &DataFolder, name: &str) -> Result<Command, OwnPostgresError> {
        let mut program = folder.command(name);
        program.args(["--host=127.0.0.1", "--username=clear_bend", "--no-password"]);
        program.arg(format!("--port={}", self.port));
        program.env("PGDATABASE", "clear_bend").env("PGPASSWORD", folder.password()?).stdin(Stdio::null());
        Ok(program)
    }
}

fn done(what: &'static str, program: &mut Command, stopped: &AtomicBool) -> Result<(), OwnPostgresError> {
    let failed = |said: String| OwnPostgresError::Failed { what, said };
    let unstarted = |e: std::io::Error| failed(e.to_string());
    let mut said = tempfile::tempfile().map_err(unstarted)?;
    let told = said.try_clone().map_err(unstarted)?;
    let mut child = program.stderr(told).spawn().map_err(unstarted)?;
    let status = loop {
        if stopped.load(Ordering::SeqCst) {
            // It may have ended by itself.
            let _ = child.kill();
            let _ = child.wait();
            return Err(OwnPostgresError::Stopped);
        }
        match child.try_wait().map_err(unstarted)? {
            Some(status) => break status,
            None => std::thread::sleep(LOOKED_EVERY),
        }
    };
    if status.success() && !stopped.load(Ordering::SeqCst) {
        return Ok(());
    }
    let mut text = String::new();
    said.rewind().and_then(|()| said.read_to_string(&mut text)).map_err(unstarted)?;
    Err(OwnPostgresError::failed(what, &text))
}
