//! The server process.

use std::net::TcpListener;
use std::path::PathBuf;
use std::process::{Child, Stdio};
use std::time::{Duration, Instant};

use diesel::{Connection, PgConnection};
use nix::sys::signal::{Signal, kill};
use nix::unistd::Pid;

use super::folder::DataFolder;
use crate::OwnPostgresError;

/// How long PostgreSQL may take to come up; recovery after a crash takes a while.
const START_WAIT: Duration = Duration::from_secs(60);
/// How long it may take to stop in order, and how long when it is told to stop at once.
const IN_ORDER: Duration = Duration::from_secs(20);
const AT_ONCE: Duration = Duration::from_secs(5);

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
        let url = folder.url(port, "postgres")?;
        let (log, length) = folder.log()?;
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
        let until = Instant::now() + START_WAIT;
        loop {
            if server.has_ended() || Instant::now() > until {
                server.stop();
                return Err(said(&folder.said_since(length), port));
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

    /// Stops the server, if it runs, and waits for its end: in order, and if that takes too long at once. It is told so itself, since
    /// PostgreSQL's own program for that needs files which may be gone.
    pub fn stop(mut self) {
        for (signal, patience) in
            [(Signal::SIGINT, IN_ORDER), (Signal::SIGQUIT, AT_ONCE), (Signal::SIGKILL, AT_ONCE)]
        {
            let until = Instant::now() + patience;
            let Ok(pid) = i32::try_from(self.0.id()) else { return };
            if self.has_ended() || kill(Pid::from_raw(pid), signal).is_err() {
                return;
            }
            while Instant::now() < until {
                if self.has_ended() {
                    return;
                }
                std::thread::sleep(Duration::from_millis(20));
            }
        }
    }
}

/// What a server said that did not come up.
fn said(log: &str, port: u16) -> OwnPostgresError {
    if log.contains("Address already in use") {
        return OwnPostgresError::PortTaken(port);
    }
    OwnPostgresError::failed("starting PostgreSQL", log)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The words of PostgreSQL 15 for a port that is taken: the reason is five lines above the end.
    #[test]
    fn a_taken_port_is_recognised() {
        let log = "LOG:  starting PostgreSQL 15\n\
                   LOG:  could not bind IPv4 address \"127.0.0.1\": Address already in use\n\
                   HINT:  Is another postmaster already running on port 5433?\n\
                   WARNING:  could not create listen socket for \"127.0.0.1\"\n\
                   FATAL:  could not create any TCP/IP sockets\n\
                   LOG:  database system is shut down\n";
        assert!(matches!(said(log, 5433), OwnPostgresError::PortTaken(5433)));
        assert!(matches!(said("FATAL:  data directory is corrupt", 1), OwnPostgresError::Failed { .. }));
    }
}
