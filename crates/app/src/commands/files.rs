//! Files of the command line: read up to a limit, whatever they are, and written whole or not at all, over nothing that was read.

use std::fs::{File, Metadata, Permissions};
use std::io::{self, Read, Write};
use std::os::unix::fs::{MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

use clear_bend_media::{read_response as decode_response, read_sound as decode, write_wav};
use clear_bend_sound::Buffer;
use nix::unistd::{AccessFlags, access};
use serde::Serialize;

use crate::fault::Fault;

/// Larger text files are refused, bytes.
const LARGEST_TEXT: u64 = 1_000_000;
/// Larger sound files are refused, bytes: ten minutes of stereo at the highest rate in 32 bits, and some more.
const LARGEST_SOUND: u64 = 1_000_000_000;
/// The rights of a new file.
const USUAL_MODE: u32 = 0o644;

/// Files that have been read, by device and number: none of them is written over.
static READ: Mutex<Vec<(u64, u64)>> = Mutex::new(Vec::new());

/// Writes on standard output. A reader that stops early, as `head` does, is no fault of ours.
pub fn say(text: &str) -> Result<(), Fault> {
    let mut out = io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe => {
            Err(Fault::Failure(format!("the answer cannot be written ({error})")))
        }
        _ => Ok(()),
    }
}

/// Prints a value as JSON on standard output.
pub fn print_json(value: &impl Serialize) -> Result<(), Fault> {
    say(&(to_json(value)? + "\n"))
}

pub fn to_json(value: &impl Serialize) -> Result<String, Fault> {
    serde_json::to_string_pretty(value)
        .map_err(|e| Fault::Failure(format!("the answer cannot be written: {e}")))
}

pub fn name(file: &Path) -> String {
    file.display().to_string()
}

/// The folder in which a file lies, or is to lie.
pub fn folder_of(file: &Path) -> &Path {
    file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

pub fn read_sound(file: &Path) -> Result<Buffer, Fault> {
    decode(&bytes_of(&name(file), file)?).map_err(|e| Fault::input(&name(file), e))
}

/// The same of a response, which may have four channels.
pub fn read_response(file: &Path) -> Result<Buffer, Fault> {
    decode_response(&bytes_of(&name(file), file)?).map_err(|e| Fault::input(&name(file), e))
}

/// The content of a sound file that an argument names.
pub fn bytes_of(argument: &str, file: &Path) -> Result<Vec<u8>, Fault> {
    content(argument, file, LARGEST_SOUND)
}

/// The text of a file that an argument names.
pub fn read_text(argument: &str, file: &Path) -> Result<String, Fault> {
    let argument = format!("{argument} {}", name(file));
    text_of(&argument, content(&argument, file, LARGEST_TEXT)?)
}

/// Bytes as a text.
pub fn text_of(argument: &str, bytes: Vec<u8>) -> Result<String, Fault> {
    if u64::try_from(bytes.len()).unwrap_or(u64::MAX) > LARGEST_TEXT {
        return Err(too_large(argument, LARGEST_TEXT));
    }
    String::from_utf8(bytes).map_err(|_| Fault::input(argument, "is no text; accepted: UTF-8"))
}

fn too_large(argument: &str, most: u64) -> Fault {
    Fault::input(argument, format!("has more than {most} bytes; accepted: at most {most}"))
}

/// Reads no further than the limit, also of what never ends.
fn content(argument: &str, file: &Path, most: u64) -> Result<Vec<u8>, Fault> {
    let unread = |e: io::Error| Fault::input(argument, format!("cannot be read ({e})"));
    let opened = File::open(file).map_err(unread)?;
    let about = opened.metadata().map_err(unread)?;
    if about.len() > most {
        return Err(too_large(argument, most));
    }
    READ.lock().unwrap_or_else(PoisonError::into_inner).push((about.dev(), about.ino()));
    let mut bytes = Vec::new();
    opened.take(most + 1).read_to_end(&mut bytes).map_err(unread)?;
    if u64::try_from(bytes.len()).unwrap_or(u64::MAX) > most {
        return Err(too_large(argument, most));
    }
    Ok(bytes)
}

pub fn write_sound(file: &Path, buffer: &Buffer) -> Result<(), Fault> {
    let bytes = write_wav(buffer).map_err(|e| Fault::Failure(e.to_string()))?;
    write_file(file, &bytes)
}

pub fn write_file(file: &Path, bytes: &[u8]) -> Result<(), Fault> {
    write_files(&[(file, bytes.to_vec())])
}

/// Writes all files or none: each is written beside its place first. What is no file, such as a pipe, is written to.
pub fn write_files(files: &[(&Path, Vec<u8>)]) -> Result<(), Fault> {
    let fault =
        |file: &Path, why: io::Error| Fault::Failure(format!("{}: cannot be written ({why})", name(file)));
    let mut taken = Vec::new();
    let mut places = Vec::new();
    for (file, _) in files {
        let place = Place::of(file)?;
        if let Place::File { at, .. } = &place {
            if taken.contains(at) {
                return Err(Fault::input(&name(file), "is to be written twice; accepted: a file for each"));
            }
            taken.push(at.clone());
        }
        places.push(place);
    }
    let mut written = Vec::new();
    for ((file, bytes), place) in files.iter().zip(places) {
        let Place::File { at, mode } = place else {
            std::fs::write(file, bytes).map_err(|e| fault(file, e))?;
            continue;
        };
        // Until it is whole, for nobody else to read.
        let beside = tempfile::NamedTempFile::new_in(at.parent().unwrap_or(Path::new(".")));
        let mut beside = beside.map_err(|e| fault(file, e))?;
        beside.write_all(bytes).map_err(|e| fault(file, e))?;
        beside.as_file().set_permissions(Permissions::from_mode(mode)).map_err(|e| fault(file, e))?;
        written.push((file, at, beside));
    }
    for (file, at, beside) in written {
        beside.persist(at).map_err(|e| fault(file, e.error))?;
    }
    Ok(())
}

/// Where something is written.
enum Place {
    /// A file, new or in the place of another one, whose rights it gets.
    File { at: PathBuf, mode: u32 },
    /// A pipe or a device.
    Other,
}

impl Place {
    fn of(file: &Path) -> Result<Self, Fault> {
        let refused = |why: &str| Fault::input(&name(file), why.to_owned());
        let found = file.metadata().ok();
        if found.as_ref().is_some_and(Metadata::is_dir) {
            return Err(refused("is a folder; accepted: a file"));
        }
        if found.as_ref().is_some_and(|found| !found.is_file()) {
            return Ok(Self::Other);
        }
        if file.is_symlink() {
            return Err(refused("is a link, which is not followed; accepted: the file itself, or a new one"));
        }
        if let Some(found) = &found {
            if READ.lock().unwrap_or_else(PoisonError::into_inner).contains(&(found.dev(), found.ino())) {
                return Err(refused("has been read, and is not written over; accepted: another file"));
            }
            if access(file, AccessFlags::W_OK).is_err() {
                return Err(refused("must not be written to; accepted: another file"));
            }
        }
        let folder = folder_of(file)
            .canonicalize()
            .map_err(|e| Fault::Failure(format!("{}: cannot be written ({e})", name(file))))?;
        let at = file
            .file_name()
            .map(|last| folder.join(last))
            .ok_or_else(|| refused("is no file; accepted: a file"))?;
        Ok(Self::File { at, mode: found.map_or(USUAL_MODE, |found| found.mode() & 0o777) })
    }
}
