//! Where what is saved lies: in the folder that is asked for, or, where PostgreSQL cannot reach that, where Debian keeps such things. What lies
//! in either is never left behind without a word.

use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use clear_bend_store::OwnPostgres;

use crate::fault::Fault;
use crate::privileges;

/// Where data lie whose folder PostgreSQL cannot reach.
const ELSEWHERE: &str = "/var/lib/clear-bend";

/// The folder to work in; nothing is made yet.
///
/// PostgreSQL refuses to run as root and then runs as another user, who must be able to reach the folder. Under a closed home, that user
/// cannot.
pub fn folder(wanted: &Path) -> Result<PathBuf, Fault> {
    let full = std::path::absolute(wanted).map_err(|e| Fault::input("--data", e))?;
    let full = full.canonicalize().unwrap_or(full);
    if !privileges::are_roots() {
        return Ok(full);
    }
    let letters: String =
        full.to_string_lossy().chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect();
    let elsewhere = Path::new(ELSEWHERE).join(letters.trim_matches('-'));
    let is_closed = |folder: &&Path| folder.metadata().is_ok_and(|found| found.mode() & 0o001 == 0);
    let closed = full.ancestors().skip(1).find(is_closed);
    match (closed, OwnPostgres::holds_data(&full), OwnPostgres::holds_data(&elsewhere)) {
        (None, true, _) | (None, false, false) => Ok(full),
        (None, false, true) | (Some(_), false, _) => Ok(elsewhere),
        (Some(closed), true, false) => Err(Fault::input(
            "--data",
            format!(
                "{} holds what was saved, and PostgreSQL cannot reach it: {} is closed to others; accepted: with that opened (chmod o+x), or with the data moved",
                full.display(),
                closed.display()
            ),
        )),
        (Some(_), true, true) => Err(Fault::input(
            "--data",
            format!(
                "both {} and {} hold what was saved, and PostgreSQL reaches the second only; accepted: --data with one of them",
                full.display(),
                elsewhere.display()
            ),
        )),
    }
}

/// The folder to work in, where there is something saved.
pub fn existing_folder(wanted: &Path) -> Result<PathBuf, Fault> {
    let folder = folder(wanted)?;
    if OwnPostgres::holds_data(&folder) {
        return Ok(folder);
    }
    let why = format!(
        "nothing is saved in {}; accepted: a folder that `clear-bend serve` has used",
        folder.display()
    );
    Err(Fault::input("--data", why))
}
