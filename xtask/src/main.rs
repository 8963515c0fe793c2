//! Builds and development chores, run as `cargo xtask NAME`.
//!
//! - `wasm`: compiles the core for the browser and writes it with its glue to `web/src/generated/wasm`.
//! - `types`: writes the TypeScript declarations of the core's types to `web/src/generated/types`.
//! - `web`: both of these, the list of licences, then the front end into `web/dist`.
//! - `attack`: tries to exhaust the running program, at full strength; then `fuzz`.
//! - `mutants [COUNT] [SEED]`: changes effects and measures one by one and looks which change no test notices.
//! - `fuzz [COUNT]`: damages sound files of every kind and looks that each is read or refused; 20,000 of a kind by default.

mod fuzz;
mod licences;
mod mutants;
mod types;
mod wasm;

use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};

use anyhow::{Context, Result, bail};

fn main() -> ExitCode {
    let chore = std::env::args().nth(1).unwrap_or_default();
    let done = match chore.as_str() {
        "wasm" => wasm::build(),
        "types" => types::write(),
        "attack" => attack(),
        "mutants" => mutants::run_all(std::env::args().nth(2).as_deref(), std::env::args().nth(3).as_deref()),
        "fuzz" => fuzz::run(std::env::args().nth(2).as_deref()),
        "web" => types::write().and_then(|()| wasm::build()).and_then(|()| web()),
        _ => Err(anyhow::anyhow!(
            "chore is \u{201c}{chore}\u{201d}; accepted: wasm, types, web, attack, mutants, fuzz"
        )),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("xtask: {error:#}");
            ExitCode::FAILURE
        }
    }
}

/// The root of the project.
fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// Runs a command to its end.
fn run(command: &mut Command) -> Result<()> {
    let status = command.status().with_context(|| format!("{command:?} cannot be started"))?;
    if !status.success() {
        bail!("{command:?} ended with {status}");
    }
    Ok(())
}

/// The attacks of the tests at full strength, one after the other, then damaged files and documents.
fn attack() -> Result<()> {
    let tests = [
        "test",
        "--package",
        "clear-bend-app",
        "--test",
        "attack",
        "--",
        "--nocapture",
        "--test-threads",
        "1",
    ];
    run(Command::new("cargo").args(tests).env("CLEAR_BEND_ATTACK", "1").current_dir(root()))?;
    fuzz::run(None)
}

/// Installs the front end's packages if their list has changed, checks its types and bundles it.
fn web() -> Result<()> {
    let web = root().join("web");
    let lock = std::fs::read(web.join("package-lock.json")).context("web/package-lock.json")?;
    let stamp = web.join("node_modules/.installed-lock");
    if std::fs::read(&stamp).ok().as_deref() != Some(lock.as_slice()) {
        run(Command::new("npm").args(["ci", "--no-audit", "--no-fund"]).current_dir(&web))?;
        std::fs::write(&stamp, &lock)?;
    }
    licences::write()?;
    run(Command::new("npm").args(["run", "build"]).current_dir(&web))
}
