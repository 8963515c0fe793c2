//! Why the store could not do its work.

use std::path::PathBuf;

use clear_bend_sound::Refusal;

/// Why a saved thing could not be read or written.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// There is no such thing.
    #[error("there is no {0}")]
    NotFound(String),
    /// It was changed since the caller read it.
    #[error(
        "the {kind} is at revision {current}, your change started from revision {given}; accepted: a change of revision {current}"
    )]
    Stale {
        /// What it is.
        kind: &'static str,
        /// The revision that the caller started from.
        given: i32,
        /// The revision that is saved.
        current: i32,
    },
    /// It belongs to the demo data.
    #[error(
        "this {0} is an example that comes with Clear Bend; accepted: a copy of it under a name of its own"
    )]
    Shipped(&'static str),
    /// What was to be saved is not accepted.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// The database does not answer.
    #[error("the database does not answer ({0})")]
    Unavailable(String),
    /// The tables were brought up to date by a newer program.
    #[error(
        "the database has tables of a newer Clear Bend ({0}); accepted: that one, or another data folder"
    )]
    Newer(String),
    /// There is no room for it.
    #[error(
        "the disk is full; nothing was changed, and what was saved before is safe: make room and try again"
    )]
    Full,
    /// The database refused.
    #[error("the database refused: {0}")]
    Database(String),
}

/// Why a database cannot be reached, in words of ours by what the database's library says: that may hold parts of an address, and a
/// password among them.
const REASONS: [(&str, &str); 7] = [
    ("password authentication failed", "it refuses the user or the password"),
    ("no password supplied", "it wants a password"),
    ("could not translate host name", "its host is not known"),
    ("Connection refused", "nobody listens at its address"),
    ("does not exist", "it has no such user or no such database"),
    ("the database system is", "it is starting or stopping"),
    ("timeout", "it takes too long"),
];

impl StoreError {
    /// A file of our own on its way into the database that cannot be read.
    pub(crate) fn file(error: std::io::Error) -> Self {
        Self::Database(format!("a file of our own cannot be read ({error})"))
    }

    /// A database that cannot be reached.
    pub(crate) fn unreachable(said: &str) -> Self {
        let known = REASONS.iter().find(|(words, _)| said.contains(words));
        Self::Unavailable(known.map_or("its address cannot be used", |(_, reason)| reason).to_owned())
    }
}

impl From<diesel::result::Error> for StoreError {
    fn from(error: diesel::result::Error) -> Self {
        use diesel::result::DatabaseErrorKind::{ClosedConnection, UnableToSendCommand};
        use diesel::result::Error::DatabaseError;
        match error {
            DatabaseError(ClosedConnection | UnableToSendCommand, info) => {
                Self::Unavailable(info.message().to_owned())
            }
            // Class 53 of PostgreSQL's errors has no kind of its own either.
            DatabaseError(_, info) if info.message().contains("No space left on device") => Self::Full,
            // PostgreSQL going down says so in words: 57P01 to 57P03 have no kind of their own.
            DatabaseError(_, info) if info.message().contains("terminating connection") => {
                Self::Unavailable(info.message().to_owned())
            }
            other => Self::Database(other.to_string()),
        }
    }
}

/// Why our own PostgreSQL could not be started.
#[derive(Debug, thiserror::Error)]
pub enum OwnPostgresError {
    /// No PostgreSQL is installed.
    #[error(
        "PostgreSQL is not installed (looked for /usr/lib/postgresql/*/bin/initdb); accepted: Debian's package postgresql, or DATABASE_URL"
    )]
    NotInstalled,
    /// Running as root without the user that PostgreSQL would run as.
    #[error(
        "PostgreSQL does not run as root and there is no user postgres; accepted: Debian's package postgresql, or another user"
    )]
    NoUser,
    /// A file or a process could not be dealt with.
    #[error("{what} ({path}): {source}")]
    Io {
        /// What was tried.
        what: &'static str,
        /// On which file.
        path: PathBuf,
        /// What came of it.
        source: std::io::Error,
    },
    /// There is something in the data folder that is not ours.
    #[error(
        "the data folder {0} belongs to somebody else; accepted: an empty or new folder, or one of Clear Bend's own"
    )]
    NotOurs(PathBuf),
    /// The data were made by a PostgreSQL that is not there.
    #[error(
        "the data in {} were made by PostgreSQL {version}, which is not installed; accepted: Debian's package postgresql-{version}",
        root.display()
    )]
    OtherVersion {
        /// The data folder.
        root: PathBuf,
        /// The version as it stands in the folder.
        version: String,
    },
    /// There is nothing to be backed up.
    #[error("there is no data in {0}; accepted: the folder that `clear-bend serve` has used")]
    NoData(PathBuf),
    /// There is something where a backup was to be restored.
    #[error("there is data in {0} already; accepted: an empty or new folder")]
    HasData(PathBuf),
    /// Somebody else listens where the server was to.
    #[error("the port {0} is taken")]
    PortTaken(u16),
    /// A program of PostgreSQL's failed.
    #[error("{what} failed: {said}")]
    Failed {
        /// Which program.
        what: &'static str,
        /// The end of what it said.
        said: String,
    },
    /// Somebody has told us to end.
    #[error("stopped; nothing was left behind")]
    Stopped,
    /// There is no room for the database.
    #[error("{what} failed: the disk is full; accepted: a disk with some 100 MB of room")]
    Full {
        /// What was tried.
        what: &'static str,
    },
    /// Another server of ours holds the data folder, but its PostgreSQL does not answer.
    #[error(
        "another clear-bend uses the data folder {0}, but its database does not answer; stop that one first"
    )]
    Held(PathBuf),
}

impl OwnPostgresError {
    /// A program that failed, in one line of what it said.
    pub(crate) fn failed(what: &'static str, said: &str) -> Self {
        if said.contains("No space left on device") {
            return Self::Full { what };
        }
        let lines: Vec<&str> = said.lines().map(str::trim).filter(|line| !line.is_empty()).collect();
        Self::Failed { what, said: lines[lines.len().saturating_sub(4)..].join(" / ") }
    }
}
