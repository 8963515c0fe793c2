//! One module per command, and the reading and writing that they share.

pub mod bend;
pub mod fan;
pub mod measure;
pub mod render;
pub mod serve;
pub mod signal;

use std::io::Write as _;
use std::path::Path as FilePath;

use clear_bend_core::Buffer;
use clear_bend_core::path::Path;
use clear_bend_media::{read_sound as decode, write_wav};
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
    let bytes =
        std::fs::read(file).map_err(|e| Fault::input(&name(file), format!("cannot be read ({e})")))?;
    decode(&bytes).map_err(|e| Fault::input(&name(file), e))
}

fn read_path(file: &FilePath) -> Result<Path, Fault> {
    let fault = |why: String| Fault::input(&format!("--path {}", name(file)), why);
    let size = std::fs::metadata(file).map_err(|e| fault(format!("cannot be read ({e})")))?.len();
    if size > LARGEST_PATH_FILE {
        return Err(fault(format!("has {size} bytes; accepted: at most {LARGEST_PATH_FILE}")));
    }
    let text = std::fs::read_to_string(file).map_err(|e| fault(format!("cannot be read ({e})")))?;
    Path::from_json(&text).map_err(|e| fault(e.to_string()))
}

fn write_sound(file: &FilePath, buffer: &Buffer) -> Result<(), Fault> {
    let bytes = write_wav(buffer).map_err(|e| Fault::Failure(e.to_string()))?;
    write_file(file, &bytes)
}

fn write_file(file: &FilePath, bytes: &[u8]) -> Result<(), Fault> {
    std::fs::write(file, bytes)
        .map_err(|e| Fault::Failure(format!("{}: cannot be written ({e})", name(file))))
}
