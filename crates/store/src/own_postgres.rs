//! A PostgreSQL of our own: made, started and kept running from Debian's packages, on loopback only.
//!
//! The data folder is held by one program at a time, by a lock that the system frees when that program
//! ends, however it ends. A PostgreSQL left over from a program that was killed is stopped and started anew. A second program
//! uses the server of the first, and runs it itself, on the same port, once the first has ended.

mod backup;
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

/// A running PostgreSQL of our own. Dropping it stops the server, if this is the program that runs it.
pub struct OwnPostgres {
    url: String,
    port: u16,
    stopping: Arc<AtomicBool>,
    watch: Option<JoinHandle<()>>,
}

impl OwnPostgres {
    /// Makes a data folder ready, without starting anything: as root, for the user that PostgreSQL runs as.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what is missing, or that the folder is not ours.
    pub fn prepare(data_folder: &Path) -> Result<(), OwnPostgresError> {
        DataFolder::prepare(data_folder).map(|_| ())
    }

    /// Starts PostgreSQL in a data folder, which is made if it is not there.
    ///
    /// # Errors
    /// [`OwnPostgresError`] says what is missing or what failed.
    pub fn start(data_folder: &Path) -> Result<Self, OwnPostgresError> {
        let folder = DataFolder::prepare(data_folder)?;
        let until = Instant::now() + OTHERS_START;
        let (running, port) = loop {
            if let Some(lock) = folder.try_lock()? {
                folder.initialise()?;
                folder.clear_leftovers()?;
                let (server, port) = start_on_free_port(&folder)?;
                let running = Running { server, _lock: lock };
                if let Err(error) = create_database(&folder.url(port, "postgres")?) {
                    running.server.stop();
                    return Err(error);
                }
                break (Some(running), port);
            }
            // Somebody else runs the server here, or is about to.
            if let Some(port) = folder.running_port()
                && PgConnection::establish(&folder.url(port, "clear_bend")?).is_ok()
            {
                break (None, port);
            }
            if Instant::now() > until {
                return Err(OwnPostgresError::Held(data_folder.to_owned()));
            }
            std::thread::sleep(WATCH_EVERY);
        };
        let url = folder.url(port, "clear_bend")?;
        let stopping = Arc::new(AtomicBool::new(false));
        let watch = {
            let stopping = Arc::clone(&stopping);
            std::thread::spawn(move || keep_running(&folder, running, port, &stopping))
        };
        Ok(Self { url, port, stopping, watch: Some(watch) })
    }

    /// The address of our database.
    #[must_use]
    pub fn url(&self) -> &str {
        &self.url
    }
}

impl Drop for OwnPostgres {
    fn drop(&mut self) {
        self.stopping.store(true, Ordering::SeqCst);
        if let Some(watch) = self.watch.take() {
            // The watch stops the server; if it died, there is nothing left to stop.
            let _ = watch.join();
        }
    }
}

/// What the program that runs the server holds.
struct Running {
    server: Postgres,
    /// Locked for as long as this file is open.
    _lock: File,
}

fn start_on_free_port(folder: &DataFolder) -> Result<(Postgres, u16), OwnPostgresError> {
    let mut tries = 0;
    loop {
        tries += 1;
        let port = process::free_port()?;
        match Postgres::start(folder, port) {
            Ok(server) => return Ok((server, port)),
            // Between finding the port free and taking it, somebody else may have taken it.
            Err(OwnPostgresError::PortTaken(_)) if tries < PORT_TRIES => {}
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

/// Starts the server again, on the same port, whenever it has ended, and takes it over from a program that has; stops it when told to.
fn keep_running(folder: &DataFolder, mut running: Option<Running>, port: u16, stopping: &AtomicBool) {
    while !stopping.load(Ordering::SeqCst) {
        std::thread::sleep(WATCH_EVERY);
        let Some(held) = &mut running else {
            // Whoever gets the lock is the one that runs it.
            let Ok(Some(lock)) = folder.try_lock() else { continue };
            match started_again(folder, port) {
                Ok(server) => running = Some(Running { server, _lock: lock }),
                Err(error) => {
                    log::error!("PostgreSQL ended with its program and does not start again yet: {error}")
                }
            }
            continue;
        };
        folder.bound_log();
        if held.server.has_ended() {
            match started_again(folder, port) {
                Ok(again) => held.server = again,
                Err(error) => log::error!("PostgreSQL ended and does not start again yet: {error}"),
            }
        }
    }
    if let Some(held) = running {
        held.server.stop();
    }
}

fn started_again(folder: &DataFolder, port: u16) -> Result<Postgres, OwnPostgresError> {
    folder.clear_leftovers()?;
    Postgres::start(folder, port)
}
