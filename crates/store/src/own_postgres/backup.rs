//! All that our own database holds, in one file and back, by PostgreSQL's own programs.

use std::fs::{self, File};
use std::path::Path;
use std::process::{Command, Stdio};

use super::OwnPostgres;
use super::folder::DataFolder;
use crate::OwnPostgresError;

impl OwnPostgres {
    /// Writes everything that the database of a data folder holds to a file, while programs may go on working with it.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what failed; the file may be incomplete then.
    pub fn back_up(data_folder: &Path, file: File) -> Result<(), OwnPostgresError> {
        if !data_folder.join("cluster/PG_VERSION").exists() {
            return Err(OwnPostgresError::NoData(data_folder.to_owned()));
        }
        let postgres = Self::start(data_folder)?;
        let folder = DataFolder::prepare(data_folder)?;
        let mut dump = postgres.program(&folder, "pg_dump")?;
        done("pg_dump", dump.args(["--format=custom", "--no-owner"]).stdout(file))
    }

    /// Makes a data folder out of such a file. There must be none yet: nothing is written over. Where it fails, none is left behind.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what failed.
    pub fn restore(data_folder: &Path, file: File) -> Result<(), OwnPostgresError> {
        if fs::read_dir(data_folder).is_ok_and(|mut entries| entries.next().is_some()) {
            return Err(OwnPostgresError::HasData(data_folder.to_owned()));
        }
        let postgres = Self::start(data_folder)?;
        let folder = DataFolder::prepare(data_folder)?;
        let mut restore = postgres.program(&folder, "pg_restore")?;
        restore.args(["--exit-on-error", "--single-transaction", "--no-owner", "--dbname=clear_bend"]);
        let restored = done("pg_restore", restore.stdin(file));
        if restored.is_err() {
            drop(postgres);
            let _ = fs::remove_dir_all(data_folder);
        }
        restored
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

fn done(what: &'static str, program: &mut Command) -> Result<(), OwnPostgresError> {
    let failed = |said: String| OwnPostgresError::Failed { what, said };
    let child = program.stderr(Stdio::piped()).spawn().map_err(|e| failed(e.to_string()))?;
    let output = child.wait_with_output().map_err(|e| failed(e.to_string()))?;
    if output.status.success() {
        return Ok(());
    }
    let said = String::from_utf8_lossy(&output.stderr);
    Err(failed(said.lines().collect::<Vec<_>>().join(" / ")))
}
