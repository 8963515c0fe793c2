//! A file that somebody brings, made ready to be kept.

use std::fs::File;
use std::io::{Read, Seek};

use clear_bend_core::Buffer;
use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::measures::peak_and_loudness;
use sha2::{Digest, Sha256};

use crate::{Bits, MediaError, at_rate, read_sound, read_sound_file, write_flac};

/// A sound at the rate of the benches, as FLAC, with what is said of it in lists.
#[derive(Debug, Clone)]
pub struct Imported {
    /// SHA-256 of the file, in hexadecimal.
    pub hash: String,
    /// Sample rate of the file, Hz.
    pub rate_hz: u32,
    /// Channels.
    pub channels: usize,
    /// Samples per channel at the rate of the benches.
    pub frames: usize,
    /// Peak level, dBFS.
    pub peak_dbfs: f64,
    /// Integrated loudness, LUFS.
    pub loudness_lufs: f64,
    /// How many times the samples were halved, so that what was over full scale fits into FLAC.
    pub halvings: u32,
    /// The sound, 24 bits (16 where those hold it all).
    pub flac: Vec<u8>,
}

/// The name of a file's content: its SHA-256 in hexadecimal.
#[must_use]
pub fn hash(bytes: &[u8]) -> String {
    in_hexadecimal(&Sha256::digest(bytes))
}

fn in_hexadecimal(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}

/// The same of a file, without taking all of it into memory.
///
/// # Errors
/// Those of reading.
pub fn hash_of_file(file: &File) -> std::io::Result<String> {
    let mut own = file.try_clone()?;
    own.rewind()?;
    let mut digest = Sha256::new();
    let mut piece = vec![0; 1 << 16];
    loop {
        let count = own.read(&mut piece)?;
        if count == 0 {
            break;
        }
        digest.update(&piece[..count]);
    }
    Ok(in_hexadecimal(&digest.finalize()))
}

/// Reads a file, brings it to the rate of the benches and packs it.
///
/// # Errors
/// As [`read_sound`].
pub fn import(bytes: &[u8]) -> Result<Imported, MediaError> {
    packed(read_sound(bytes)?, hash(bytes), &|| {})
}

/// The same of a file whose hash is known, without taking all of it into memory. `goes_on` is called between the parts of the work,
/// and may leave it by a panic.
///
/// # Errors
/// As [`read_sound`].
pub fn import_file(file: &File, hash: String, goes_on: &dyn Fn()) -> Result<Imported, MediaError> {
    goes_on();
    packed(read_sound_file(file)?, hash, goes_on)
}

fn packed(read: Buffer, hash: String, goes_on: &dyn Fn()) -> Result<Imported, MediaError> {
    goes_on();
    let rate_hz = read.rate_hz();
    let mut sound = at_rate(read, BENCH_RATE_HZ)?;
    goes_on();
    let (peak_dbfs, loudness_lufs) = peak_and_loudness(&sound);
    let mut halvings = 0;
    while peak(&sound) > 1.0 {
        // Exact: only the exponent of every sample changes.
        sound.channels_mut().iter_mut().flatten().for_each(|x| *x *= 0.5);
        halvings += 1;
    }
    goes_on();
    let on_sixteen = |x: &f32| (f64::from(*x) * 32_768.0).fract() == 0.0;
    let sixteen = sound.channels().iter().flatten().all(on_sixteen);
    Ok(Imported {
        hash,
        rate_hz,
        channels: sound.channels().len(),
        frames: sound.frames(),
        peak_dbfs,
        loudness_lufs,
        halvings,
        flac: write_flac(&sound, if sixteen { Bits::Sixteen } else { Bits::TwentyFour })?,
    })
}

/// Unpacks what was imported.
///
/// # Errors
/// As [`read_sound`], if the kept bytes are damaged.
pub fn unpack(flac: &[u8], halvings: u32) -> Result<Buffer, MediaError> {
    let mut sound = read_sound(flac)?;
    for _ in 0..halvings {
        sound.channels_mut().iter_mut().flatten().for_each(|x| *x *= 2.0);
    }
    Ok(sound)
}

fn peak(sound: &Buffer) -> f32 {
    sound.channels().iter().flatten().fold(0.0, |peak: f32, x| peak.max(x.abs()))
}
