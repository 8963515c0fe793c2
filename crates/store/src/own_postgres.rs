//! A PostgreSQL of our own: made, started and kept running from Debian's packages, on loopback only.
//!
//! The data folder is held by one program at a time, by a lock that the system frees when that program
//! ends, however it ends. A PostgreSQL left over from a program that was killed is stopped and started anew.

mod folder;
mod process;

use std::fs::File;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use diesel::{Connection, PgConnection, RunQueryDsl};

use crate::OwnPostgresError;
use folder::DataFolder;
use process::Postgres;

/// How often the watch looks whether PostgreSQL still runs.
const WATCH_EVERY: Duration = Duration::from_millis(250);
/// How long another program of ours may take to start the server that we then use.
const OTHERS_START: Duration = Duration::from_secs(30);
/// How often a busy port is exchanged for another one.
const PORT_TRIES: usize = 5;

/// A running PostgreSQL of our own. Dropping it stops the server.
pub struct OwnPostgres {
    url: String,
    /// None where another program of ours runs the server and this one only uses it.
    held: Option<Held>,
}

/// What the program that runs the server holds.
struct Held {
    stopping: Arc<AtomicBool>,
    watch: Option<JoinHandle<()>>,
    /// Locked for as long as this file is open.
    _lock: File,
}

impl OwnPostgres {
    /// Starts PostgreSQL in a data folder, which is made if it is not there.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what is missing or what failed.
    pub fn start(data_folder: &Path) -> Result<Self, OwnPostgresError> {
        let folder = DataFolder::prepare(data_folder)?;
        let until = Instant::now() + OTHERS_START;
        let lock = loop {
            if let Some(lock) = folder.try_lock()? {
                break lock;
            }
            // Somebody else runs the server here, or is about to.
            if let Some(url) = folder.running_url().filter(|url| PgConnection::establish(url).is_ok()) {
                return Ok(Self { url, held: None });
            }
            if Instant::now() > until {
                return Err(OwnPostgresError::Held(data_folder.to_owned()));
            }
            std::thread::sleep(WATCH_EVERY);
        };
        folder.initialise()?;
        folder.clear_leftovers()?;
        let (server, port) = start_on_free_port(&folder)?;
        let url = folder.url(port, "clear_bend")?;
        create_database(&folder.url(port, "postgres")?)?;
        let stopping = Arc::new(AtomicBool::new(false));
        let watch = {
            let stopping = Arc::clone(&stopping);
            std::thread::spawn(move || keep_running(&folder, server, port, &stopping))
        };
        Ok(Self { url, held: Some(Held { stopping, watch: Some(watch), _lock: lock }) })
    }

    /// The address of our database.
    #[must_use]
    pub fn url(&self) -> &str {
        &self.url
    }
}

impl Drop for OwnPostgres {
    fn drop(&mut self) {
        if let Some(held) = &mut self.held {
            held.stopping.store(true, Ordering::SeqCst);
            if let Some(watch) = held.watch.take() {
                // The watch stops the server; if it died, there is nothing left to stop.
                let _ = watch.join();
            }
        }
    }
}

fn start_on_free_port(folder: &DataFolder) -> Result<(Postgres, u16), OwnPostgresError> {
    let mut tries = 0;
    loop {
        tries += 1;
        let port = process::free_port()?;
        match Postgres::start(folder, port) {
            Ok(server) => return Ok((server, port)),
            // Between finding the port free and taking it, somebody else may have taken it.
            Err(OwnPostgresError::Failed { said, .. })
                if tries < PORT_TRIES && said.contains("Address already in use") => {}
            Err(error) => return Err(error),
        }
    }
}

fn create_database(admin_url: &str) -> Result<(), OwnPostgresError> {
    let failed = |said: String| OwnPostgresError::Failed { what: "creating the database", said };
    let mut connection = PgConnection::establish(admin_url).map_err(|e| failed(e.to_string()))?;
    match diesel::sql_query("CREATE DATABASE clear_bend").execute(&mut connection) {
        Ok(_) => Ok(()),
        Err(error) if error.to_string().contains("already exists") => Ok(()),
        Err(error) => Err(failed(error.to_string())),
    }
}

/// Starts the server again, on the same port, whenever it has ended; stops it when told to.
fn keep_running(folder: &DataFolder, mut server: Postgres, port: u16, stopping: &AtomicBool) {
    while !stopping.load(Ordering::SeqCst) {
        std::thread::sleep(WATCH_EVERY);
        if server.has_ended() {
            let restarted = folder.clear_leftovers().and_then(|()| Postgres::start(folder, port));
            match restarted {
                Ok(again) => server = again,
                Err(error) => log::error!("PostgreSQL ended and does not start again yet: {error}"),
            }
        }
    }
    server.stop(folder);
}
