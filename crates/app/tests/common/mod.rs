//! A running `clear-bend serve` with a data folder of its own.
#![allow(dead_code, reason = "each test file uses a part of this")]

use std::fs;
use std::io::{BufRead, BufReader};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

use clear_bend_bench::BenchDocument;
use serde_json::{Value, json};

pub fn program() -> Command {
    Command::new(env!("CARGO_BIN_EXE_clear-bend"))
}

/// The root of the project.
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A folder that the user of PostgreSQL can reach, also when the tests run as root.
pub fn data_folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::set_permissions(folder.path(), fs::Permissions::from_mode(0o755)).unwrap();
    folder
}

/// What is asked of the server for an export of a minute of noise, the longest there is, through some stages.
pub fn export_of_noise(part: &str, stages: Value) -> String {
    let mut document = serde_json::to_value(BenchDocument::fresh()).unwrap();
    document["stems"][0]["source"] = json!({"kind": "white-noise", "params": {"seconds": 60}});
    document["stems"][0]["snapshots"][0]["stages"] = stages;
    document["view"] = json!({});
    document["region"] = json!({"from_s": 0, "to_s": 60});
    json!({"document": document, "part": part, "format": "wav32"}).to_string()
}

pub struct Serve {
    pub address: String,
    /// What it has said after that: where what is saved lies.
    pub said: String,
    child: Child,
    /// Kept open: a closed pipe would end the server when it says something.
    _out: BufReader<std::process::ChildStdout>,
}

impl Serve {
    /// Starts a server on a port (0: any) and waits until it says where it is.
    pub fn start(data: &Path, port: u16) -> Self {
        Self::with(data, |serve| {
            serve.args(["--port", &port.to_string()]).env_remove("DATABASE_URL");
        })
    }

    /// Starts a server as `more` says.
    pub fn with(data: &Path, more: impl FnOnce(&mut Command)) -> Self {
        Self::started(program(), data, more)
    }

    /// Starts a server on any port from a shell, after a command that limits what it may use.
    pub fn limited(data: &Path, limit: &str) -> Self {
        let mut shell = Command::new("bash");
        shell.arg("-c").arg(format!("{limit} && exec \"$0\" \"$@\"")).arg(program().get_program());
        Self::started(shell, data, |serve| {
            serve.args(["--port", "0"]).env_remove("DATABASE_URL");
        })
    }

    fn started(mut command: Command, data: &Path, more: impl FnOnce(&mut Command)) -> Self {
        let web = root().join("web/dist");
        assert!(web.join("index.html").exists(), "the front end is not built; `cargo xtask web` builds it");
        command.arg("serve").arg("--web").arg(web).arg("--data").arg(data.join("postgres"));
        more(&mut command);
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
        let mut out = BufReader::new(child.stdout.take().unwrap());
        let (mut line, mut said) = (String::new(), String::new());
        out.read_line(&mut line).unwrap();
        out.read_line(&mut said).unwrap();
        let address =
            line.trim().strip_prefix("Clear Bend is at ").expect("the server says where it is").to_owned();
        Self { address, said, child, _out: out }
    }

    pub fn port(&self) -> u16 {
        self.address.rsplit(':').next().unwrap().parse().unwrap()
    }

    /// The number of its process.
    pub fn pid(&self) -> u32 {
        self.child.id()
    }

    /// Sends a signal and waits for the end; gives whether it ended in order.
    pub fn signal(&mut self, name: &str) -> bool {
        let pid = self.child.id().to_string();
        assert!(Command::new("kill").args([name, &pid]).status().unwrap().success());
        self.child.wait().unwrap().success()
    }

    /// Asks the API. Gives the status and the JSON of the answer.
    pub fn ask(&self, method: &str, path: &str, body: Option<&str>) -> (u16, Value) {
        self.send(method, path, body.unwrap_or_default().as_bytes())
    }

    /// Sends bytes to the API. Gives the status and the JSON of the answer.
    pub fn send(&self, method: &str, path: &str, body: &[u8]) -> (u16, Value) {
        let (status, bytes) = self.bytes(method, path, body);
        let text = String::from_utf8_lossy(&bytes).into_owned();
        (status, serde_json::from_str(&text).unwrap_or(Value::String(text)))
    }

    /// Sends bytes. Gives the status and the bytes of the answer.
    pub fn bytes(&self, method: &str, path: &str, body: &[u8]) -> (u16, Vec<u8>) {
        let request = ureq::http::Request::builder()
            .method(method)
            .uri(format!("{}{path}", self.address))
            .header("content-type", "application/json")
            .header("origin", &self.address)
            .body(body.to_vec())
            .unwrap();
        let agent = ureq::Agent::config_builder()
            .http_status_as_error(false)
            .allow_non_standard_methods(true)
            .build();
        let mut answer = ureq::Agent::new_with_config(agent).run(request).unwrap();
        let bytes = answer.body_mut().with_config().limit(500_000_000).read_to_vec().unwrap();
        (answer.status().as_u16(), bytes)
    }
}

impl Drop for Serve {
    fn drop(&mut self) {
        if matches!(self.child.try_wait(), Ok(None)) {
            self.signal("-TERM");
        }
    }
}
