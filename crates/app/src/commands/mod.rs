//! One module per command, and the reading and writing that they share.

pub mod bend;
mod beside;
pub mod design;
pub mod fan;
pub mod keep;
pub mod measure;
pub mod mix;
pub mod render;
pub mod response;
pub mod room;
pub mod schema;
pub mod serve;
pub mod signal;
pub mod sweep;

use std::io::{Read as _, Write as _};
use std::path::Path as FilePath;

use clear_bend_core::audio::RATES_HZ;
use clear_bend_core::catalogue::Values;
use clear_bend_core::document::parse_json;
use clear_bend_core::path::{Path, Play};
use clear_bend_core::signals::SourceDocument;
use clear_bend_core::{Buffer, Refusal};
use clear_bend_media::{read_response as decode_response, read_sound as decode, recipe_of, write_wav};
use serde::Serialize;

use crate::fault::Fault;

/// Larger path files are refused, bytes.
const LARGEST_PATH_FILE: u64 = 1_000_000;

/// Prints a value as JSON on standard output.
pub fn print_json(value: &impl Serialize) -> Result<(), Fault> {
    let text = to_json(value)?;
    // A reader that stops early, as `head` does, is no fault of ours.
    let _ = writeln!(std::io::stdout().lock(), "{text}");
    Ok(())
}

fn to_json(value: &impl Serialize) -> Result<String, Fault> {
    serde_json::to_string_pretty(value)
        .map_err(|e| Fault::Failure(format!("the answer cannot be written: {e}")))
}

fn name(file: &FilePath) -> String {
    file.display().to_string()
}

fn read_sound(file: &FilePath) -> Result<Buffer, Fault> {
    decode(&bytes_of(file)?).map_err(|e| Fault::input(&name(file), e))
}

/// A passage as it goes through a path: mono plays on both sides, as it does on the page, where what comes out may differ on them.
fn as_played(path: &Path, passage: Buffer) -> Buffer {
    if path.parts_sides(passage.rate_hz()) { passage.into_stereo() } else { passage }
}

/// The same of a response, which may have four channels.
fn read_response(file: &FilePath) -> Result<Buffer, Fault> {
    decode_response(&bytes_of(file)?).map_err(|e| Fault::input(&name(file), e))
}

fn bytes_of(file: &FilePath) -> Result<Vec<u8>, Fault> {
    std::fs::read(file).map_err(|e| Fault::input(&name(file), format!("cannot be read ({e})")))
}

fn read_path(file: &FilePath) -> Result<Path, Fault> {
    let text = read_text("--path", file)?;
    Path::from_json(&text).map_err(|e| Fault::input(&format!("--path {}", name(file)), e))
}

/// The source that a file describes: as JSON, or as the recipe in a WAV file; the usual one of a kind without a file.
fn read_source(argument: &str, file: Option<&FilePath>, usual: &str) -> Result<SourceDocument, Fault> {
    let Some(file) = file else { return Ok(SourceDocument::of_kind(usual, Values::default())) };
    let fault = |why: String| Fault::input(&format!("{argument} {}", name(file)), why);
    let mut first = [0; 4];
    let found = std::fs::File::open(file).and_then(|mut file| file.read_exact(&mut first));
    let text = if found.is_ok() && &first == b"RIFF" {
        let bytes = std::fs::read(file).map_err(|e| fault(format!("cannot be read ({e})")))?;
        let none = || {
            fault("is a WAV file without a recipe; accepted: one that was written here, or JSON".to_owned())
        };
        recipe_of(&bytes).ok_or_else(none)?.to_owned()
    } else {
        read_text(argument, file)?
    };
    parse_json(&text).map_err(|e| Fault::input(argument, e))
}

/// The text of a file that an argument names.
fn read_text(argument: &str, file: &FilePath) -> Result<String, Fault> {
    let fault = |why: String| Fault::input(&format!("{argument} {}", name(file)), why);
    let size = std::fs::metadata(file).map_err(|e| fault(format!("cannot be read ({e})")))?.len();
    if size > LARGEST_PATH_FILE {
        return Err(fault(format!("has {size} bytes; accepted: at most {LARGEST_PATH_FILE}")));
    }
    std::fs::read_to_string(file).map_err(|e| fault(format!("cannot be read ({e})")))
}

/// How a passage goes through a path: once, from rest, if nothing is said.
#[derive(clap::Args)]
pub struct PlayAs {
    /// Takes the passage as a loop, as it is heard once it has gone round
    #[arg(long)]
    round: bool,
}

impl PlayAs {
    /// As it is asked for.
    #[must_use]
    pub fn play(&self) -> Play {
        if self.round { Play::Round } else { Play::Once }
    }
}

/// Says what was wrong with a number on the command line.
fn refused(argument: &str, found: impl std::fmt::Display, accepted: &str) -> Fault {
    Fault::BadInput(Refusal::new(argument, found, accepted).to_string())
}

/// Accepts a sample rate.
fn rate(rate_hz: u32) -> Result<u32, Fault> {
    if RATES_HZ.contains(&rate_hz) {
        Ok(rate_hz)
    } else {
        Err(refused("--rate", rate_hz, "8000 to 192000 Hz"))
    }
}

fn write_sound(file: &FilePath, buffer: &Buffer) -> Result<(), Fault> {
    let bytes = write_wav(buffer).map_err(|e| Fault::Failure(e.to_string()))?;
    write_file(file, &bytes)
}

fn write_file(file: &FilePath, bytes: &[u8]) -> Result<(), Fault> {
    write_files(&[(file, bytes.to_vec())])
}

/// Writes all files or none: each is written beside its place first. What is no file, such as a pipe, is written to.
fn write_files(files: &[(&FilePath, Vec<u8>)]) -> Result<(), Fault> {
    let fault = |file: &FilePath, why: std::io::Error| {
        Fault::Failure(format!("{}: cannot be written ({why})", name(file)))
    };
    let mut written = Vec::new();
    for (file, bytes) in files {
        if file.metadata().is_ok_and(|found| !found.is_file()) {
            std::fs::write(file, bytes).map_err(|e| fault(file, e))?;
            continue;
        }
        let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty());
        let beside = tempfile::Builder::new()
            .permissions(std::os::unix::fs::PermissionsExt::from_mode(0o644))
            .tempfile_in(folder.unwrap_or(FilePath::new(".")));
        let mut beside = beside.map_err(|e| fault(file, e))?;
        beside.write_all(bytes).map_err(|e| fault(file, e))?;
        written.push((file, beside));
    }
    for (file, beside) in written {
        beside.persist(file).map_err(|e| fault(file, e.error))?;
    }
    Ok(())
}
