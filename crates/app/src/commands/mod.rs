//! One module per command, and what they share; `files.rs` reads and writes.

pub mod bend;
mod beside;
pub mod design;
pub mod fan;
mod files;
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

use std::path::Path as FilePath;

use clear_bend_catalogue::Values;
use clear_bend_catalogue::document::parse_json;
use clear_bend_media::recipe_of;
use clear_bend_playing::path::{Path, Play};
use clear_bend_signals::SourceDocument;
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::audio::RATES_HZ;

use crate::fault::Fault;

use files::{
    bytes_of, name, read_response, read_sound, read_text, text_of, to_json, write_file, write_files,
    write_sound,
};
pub use files::{print_json, say};

/// A passage as it goes through a path: mono plays on both sides, as it does on the page, where what comes out may differ on them.
fn as_played(path: &Path, passage: Buffer) -> Buffer {
    if path.parts_sides(passage.rate_hz()) { passage.into_stereo() } else { passage }
}

fn read_path(file: &FilePath) -> Result<Path, Fault> {
    let text = read_text("--path", file)?;
    Path::from_json(&text).map_err(|e| Fault::input(&format!("--path {}", name(file)), e))
}

/// The source that a file describes: as JSON, or as the recipe in a WAV file; the usual one of a kind without a file.
fn read_source(argument: &str, file: Option<&FilePath>, usual: &str) -> Result<SourceDocument, Fault> {
    let Some(file) = file else { return Ok(SourceDocument::of_kind(usual, Values::default())) };
    let named = format!("{argument} {}", name(file));
    let bytes = bytes_of(&named, file)?;
    let text = if bytes.starts_with(b"RIFF") {
        let why = "is a WAV file without a recipe; accepted: one that was written here, or JSON";
        recipe_of(&bytes).ok_or_else(|| Fault::input(&named, why))?.to_owned()
    } else {
        text_of(&named, bytes)?
    };
    parse_json(&text).map_err(|e| Fault::input(argument, e))
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
