//! The server process.

use std::fs::File;
use std::net::TcpListener;
use std::path::PathBuf;
use std::process::{Child, Stdio};
use std::time::{Duration, Instant};

use diesel::{Connection, PgConnection};

use super::folder::DataFolder;
use crate::OwnPostgresError;

/// How long PostgreSQL may take to come up; recovery after a crash takes a while.
const START_WAIT: Duration = Duration::from_secs(60);

/// A server that has been started.
pub struct Postgres(Child);

/// A port of the loopback interface that nobody uses at the moment.
pub fn free_port() -> Result<u16, OwnPostgresError> {
    let listener = TcpListener::bind("127.0.0.1:0").and_then(|l| l.local_addr());
    let address = listener.map_err(|source| OwnPostgresError::Io {
        what: "no free port on loopback",
        path: PathBuf::from("127.0.0.1"),
        source,
    })?;
    Ok(address.port())
}

impl Postgres {
    /// Starts the server and waits until it answers.
    pub fn start(folder: &DataFolder, port: u16) -> Result<Self, OwnPostgresError> {
        let path = folder.log();
        let log = File::create(&path).map_err(|source| OwnPostgresError::Io {
            what: "the log file cannot be made",
            path: path.clone(),
            source,
        })?;
        let child = folder
            .command("postgres")
            .arg("-D")
            .arg(folder.cluster())
            .args(["-p", &port.to_string()])
            .args(["-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories="])
            .args(["-c", "max_connections=40", "-c", "log_destination=stderr", "-c", "logging_collector=off"])
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(log)
            .spawn()
            .map_err(|source| OwnPostgresError::Io {
                what: "postgres cannot be started",
                path: folder.cluster(),
                source,
            })?;
        let mut server = Self(child);
        let url = folder.url(port, "postgres")?;
        let until = Instant::now() + START_WAIT;
        loop {
            if server.has_ended() || Instant::now() > until {
                let said = std::fs::read_to_string(&path).unwrap_or_default();
                let last: Vec<&str> = said.lines().rev().take(4).collect();
                server.stop(folder);
                return Err(OwnPostgresError::Failed { what: "starting PostgreSQL", said: last.join(" / ") });
            }
            if PgConnection::establish(&url).is_ok() {
                return Ok(server);
            }
            std::thread::sleep(Duration::from_millis(50));
        }
    }

    /// Whether the process has ended.
    pub fn has_ended(&mut self) -> bool {
        !matches!(self.0.try_wait(), Ok(None))
    }

    /// Stops the server, if it runs, and waits for its end.
    pub fn stop(mut self, folder: &DataFolder) {
        if !self.has_ended() {
            folder.stop_server();
            let _ = self.0.wait();
        }
    }
}
