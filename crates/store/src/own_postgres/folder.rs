//! The data folder: whose it is, what lies in it, and what a killed server has left in it.

use std::fs::{self, File, Permissions, TryLockError};
use std::os::unix::fs::{PermissionsExt, chown};
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::{Duration, Instant};

use nix::unistd::{User, geteuid};

use crate::OwnPostgresError;

/// How long the processes of an earlier server may take to end.
const ENDING: Duration = Duration::from_secs(15);

/// A data folder that has been made ready for the user that PostgreSQL runs as.
pub struct DataFolder {
    root: PathBuf,
    binaries: PathBuf,
    /// The user that PostgreSQL runs as, where that is not the present one.
    user: Option<User>,
}

fn io(what: &'static str, path: &Path) -> impl FnOnce(std::io::Error) -> OwnPostgresError {
    let path = path.to_owned();
    move |source| OwnPostgresError::Io { what, path, source }
}

impl DataFolder {
    pub fn prepare(root: &Path) -> Result<Self, OwnPostgresError> {
        let binaries = newest_binaries().ok_or(OwnPostgresError::NotInstalled)?;
        let user = if geteuid().is_root() {
            let user = User::from_name("postgres").ok().flatten();
            Some(user.ok_or(OwnPostgresError::NoUser)?)
        } else {
            None
        };
        fs::create_dir_all(root).map_err(io("the data folder cannot be made", root))?;
        let root = root.canonicalize().map_err(io("the data folder cannot be found", root))?;
        let folder = Self { root, binaries, user };
        folder.hand_over(&folder.root, 0o700)?;
        Ok(folder)
    }

    /// Gives a file or folder to the user that PostgreSQL runs as.
    fn hand_over(&self, path: &Path, mode: u32) -> Result<(), OwnPostgresError> {
        if let Some(user) = &self.user {
            chown(path, Some(user.uid.as_raw()), Some(user.gid.as_raw()))
                .map_err(io("it cannot be given to the user postgres", path))?;
        }
        fs::set_permissions(path, Permissions::from_mode(mode)).map_err(io("its rights cannot be set", path))
    }

    /// The folder of PostgreSQL itself.
    pub fn cluster(&self) -> PathBuf {
        self.root.join("cluster")
    }

    /// Where PostgreSQL's messages go.
    pub fn log(&self) -> PathBuf {
        self.root.join("postgres.log")
    }

    /// Locks the folder for this program; none if another one holds it.
    pub fn try_lock(&self) -> Result<Option<File>, OwnPostgresError> {
        let path = self.root.join("owner.lock");
        let file = File::create(&path).map_err(io("the lock file cannot be made", &path))?;
        match file.try_lock() {
            Ok(()) => Ok(Some(file)),
            Err(TryLockError::WouldBlock) => Ok(None),
            Err(TryLockError::Error(error)) => Err(io("the lock file cannot be locked", &path)(error)),
        }
    }

    /// A program of PostgreSQL's, to be run as the right user.
    pub fn command(&self, program: &str) -> Command {
        let mut command = Command::new(self.binaries.join(program));
        // A group of its own: an interrupt from the keyboard is for us, who then stop the server in order.
        command.current_dir(&self.root).env("LC_ALL", "C.UTF-8").process_group(0);
        if let Some(user) = &self.user {
            command.uid(user.uid.as_raw()).gid(user.gid.as_raw());
        }
        command
    }

    /// Makes the cluster if there is none. It appears whole or not at all.
    pub fn initialise(&self) -> Result<(), OwnPostgresError> {
        if self.cluster().join("PG_VERSION").exists() {
            return Ok(());
        }
        let password = self.root.join("password");
        fs::write(&password, uuid::Uuid::new_v4().simple().to_string())
            .map_err(io("the password file cannot be written", &password))?;
        self.hand_over(&password, 0o600)?;
        let fresh = self.root.join("cluster.new");
        if fresh.exists() {
            fs::remove_dir_all(&fresh).map_err(io("a half-made cluster cannot be removed", &fresh))?;
        }
        let output = self
            .command("initdb")
            .args(["--username=clear_bend", "--auth=scram-sha-256", "--encoding=UTF8", "--locale=C.UTF-8"])
            .arg(format!("--pwfile={}", password.display()))
            .arg("--pgdata")
            .arg(&fresh)
            .output()
            .map_err(io("initdb cannot be started", &self.binaries))?;
        if !output.status.success() {
            let said = String::from_utf8_lossy(&output.stderr).trim().to_owned();
            return Err(OwnPostgresError::Failed { what: "initdb", said });
        }
        fs::rename(&fresh, self.cluster()).map_err(io("the new cluster cannot be moved", &fresh))
    }

    /// Deals with what a killed program has left: a server that still runs, single processes of one that was
    /// killed itself, or a lock file whose process number belongs to somebody else by now.
    pub fn clear_leftovers(&self) -> Result<(), OwnPostgresError> {
        let lock_file = self.cluster().join("postmaster.pid");
        let text = fs::read_to_string(&lock_file).unwrap_or_default();
        let pid = text.lines().next().and_then(|line| line.trim().parse::<u32>().ok());
        if pid.is_some_and(|pid| self.is_our_server(pid)) {
            self.stop_server();
        }
        // The processes of a killed server end by themselves, in moments. Until then nobody else may touch the
        // cluster.
        let until = Instant::now() + ENDING;
        while self.has_server_processes() {
            if Instant::now() > until {
                let said = "its processes still run".to_owned();
                return Err(OwnPostgresError::Failed {
                    what: "waiting for an earlier PostgreSQL to end",
                    said,
                });
            }
            std::thread::sleep(Duration::from_millis(50));
        }
        // PostgreSQL removes the lock file of a process that is gone, but not one whose number is in use.
        if pid.is_some_and(|pid| Path::new(&format!("/proc/{pid}")).exists()) && lock_file.exists() {
            fs::remove_file(&lock_file).map_err(io("a stale lock file cannot be removed", &lock_file))?;
        }
        Ok(())
    }

    /// Whether any process of a PostgreSQL server works in this cluster.
    fn has_server_processes(&self) -> bool {
        let works_here = |process: &Path| {
            fs::read_link(process.join("cwd")).is_ok_and(|folder| folder == self.cluster())
                && fs::read(process.join("comm")).is_ok_and(|name| name.starts_with(b"postgres"))
        };
        fs::read_dir("/proc").is_ok_and(|entries| entries.flatten().any(|entry| works_here(&entry.path())))
    }

    /// Whether a process is a PostgreSQL server on this cluster, and not a later one with the same number.
    fn is_our_server(&self, pid: u32) -> bool {
        let command_line = fs::read(format!("/proc/{pid}/cmdline")).unwrap_or_default();
        let command_line = String::from_utf8_lossy(&command_line).into_owned();
        command_line.contains("postgres") && command_line.contains(&self.cluster().display().to_string())
    }

    /// Stops the server on this cluster and waits for its end.
    pub fn stop_server(&self) {
        let stop = self
            .command("pg_ctl")
            .args(["stop", "--mode=fast", "--timeout=20", "--pgdata"])
            .arg(self.cluster())
            .output();
        if let Err(error) = stop {
            log::error!("pg_ctl cannot be started: {error}");
        }
        let until = Instant::now() + Duration::from_secs(5);
        while self.cluster().join("postmaster.pid").exists() && Instant::now() < until {
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// The address of a database on a port.
    pub fn url(&self, port: u16, database: &str) -> Result<String, OwnPostgresError> {
        let path = self.root.join("password");
        let password = fs::read_to_string(&path).map_err(io("the password file cannot be read", &path))?;
        Ok(format!("postgres://clear_bend:{}@127.0.0.1:{port}/{database}?connect_timeout=5", password.trim()))
    }

    /// The address of our database on the server that runs now, as its lock file tells.
    pub fn running_url(&self) -> Option<String> {
        let text = fs::read_to_string(self.cluster().join("postmaster.pid")).ok()?;
        // PostgreSQL's lock file holds the port on its fourth line.
        self.url(text.lines().nth(3)?.trim().parse().ok()?, "clear_bend").ok()
    }
}

/// The folder with the programs of the newest installed version.
fn newest_binaries() -> Option<PathBuf> {
    let versions = fs::read_dir("/usr/lib/postgresql").ok()?.flatten();
    let versions = versions.filter(|entry| entry.path().join("bin/initdb").exists());
    let number = |entry: &fs::DirEntry| entry.file_name().to_string_lossy().parse::<u32>().unwrap_or(0);
    Some(versions.max_by_key(number)?.path().join("bin"))
}
