//! A file that somebody brings, made ready to be kept.

use std::fs::File;
use std::io::{BufWriter, Read, Seek, Write};

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_measures::PeakAndLoudness;
use sha2::{Digest, Sha256};

use crate::flac::Packing;
use crate::rate::Converter;
use crate::{Bits, MediaError, Take, read_bytes, read_file};

/// So many bytes of a spooled sound are packed at a time; a whole number of frames of one channel or two.
const PIECE: usize = 1 << 18;

/// A sound at the rate of the benches, as FLAC, with what is said of it in lists.
#[derive(Debug)]
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
    /// The sound, 24 bits (16 where those hold it all), in a file without a name that goes with this.
    pub flac: File,
    /// The length of that file.
    pub flac_bytes: u64,
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
/// As [`crate::read_response`].
pub fn import(bytes: &[u8]) -> Result<Imported, MediaError> {
    packed(hash(bytes), &|| true, |take| read_bytes(bytes, take))
}

/// The same of a file whose hash is known. Neither the file nor the sound is ever in memory as a whole. `goes_on` is asked again and
/// again whether it is still wanted.
///
/// # Errors
/// As [`crate::read_response`]; [`MediaError::Unwanted`].
pub fn import_file(file: &File, hash: String, goes_on: &dyn Fn() -> bool) -> Result<Imported, MediaError> {
    packed(hash, goes_on, |take| read_file(file, take))
}

fn packed(
    hash: String,
    goes_on: &dyn Fn() -> bool,
    read: impl FnOnce(&mut Take) -> Result<(), MediaError>,
) -> Result<Imported, MediaError> {
    let (mut coming, mut rate_hz) = (None, 0);
    read(&mut |rate, block| {
        if !goes_on() {
            return Err(MediaError::Unwanted);
        }
        if coming.is_none() {
            rate_hz = rate;
            let spool = Spool::new(block.len())?;
            coming = Some((Converter::new(rate, BENCH_RATE_HZ, block.len())?, spool));
        }
        let Some((converter, spool)) = &mut coming else { return Ok(()) };
        converter.push(block, &mut |_, block| spool.take(block))
    })?;
    // A reader that hands on nothing has refused the file.
    let Some((converter, mut spool)) = coming else {
        return Err(MediaError::NotSound { found: "the file holds no samples".to_owned() });
    };
    converter.finish(&mut |_, block| spool.take(block))?;
    spool.packed(hash, rate_hz, goes_on)
}

/// A sound on its way to being kept: what it is packed with depends on its loudest sample, so it lies on the disk until that is known.
struct Spool {
    /// Samples of all channels in turn, 32-bit float, little-endian.
    file: BufWriter<File>,
    channels: usize,
    frames: usize,
    meter: PeakAndLoudness,
    lowest: f32,
    highest: f32,
    on_sixteen: bool,
}

impl Spool {
    fn new(channels: usize) -> Result<Self, MediaError> {
        let file = BufWriter::new(tempfile::tempfile()?);
        let meter = PeakAndLoudness::new(channels, BENCH_RATE_HZ);
        Ok(Self { file, channels, frames: 0, meter, lowest: 0.0, highest: 0.0, on_sixteen: true })
    }

    fn take(&mut self, block: &[Vec<f32>]) -> Result<(), MediaError> {
        self.meter.add(block);
        let frames = block.first().map_or(0, Vec::len);
        self.frames += frames;
        for frame in 0..frames {
            for channel in block {
                let x = channel[frame];
                self.lowest = self.lowest.min(x);
                self.highest = self.highest.max(x);
                self.on_sixteen &= (f64::from(x) * 32_768.0).fract() == 0.0;
                self.file.write_all(&x.to_le_bytes())?;
            }
        }
        Ok(())
    }

    fn packed(self, hash: String, rate_hz: u32, goes_on: &dyn Fn() -> bool) -> Result<Imported, MediaError> {
        let (peak_dbfs, loudness_lufs) = self.meter.found();
        // Whole numbers reach from -1 to just under 1. Halving is exact: only the exponent of every sample changes.
        let fits = |scale: f32| self.lowest * scale >= -1.0 && self.highest * scale < 1.0;
        let halvings = (0..).find(|n| fits(0.5f32.powi(*n))).unwrap_or(0);
        let bits = if self.on_sixteen && halvings == 0 { Bits::Sixteen } else { Bits::TwentyFour };
        let mut spooled = self.file.into_inner().map_err(|e| e.into_error())?;
        spooled.rewind()?;
        let mut flac = tempfile::tempfile()?;
        let mut out = BufWriter::new(&mut flac);
        let mut packing = Packing::new(&mut out, BENCH_RATE_HZ, self.channels, self.frames, bits)?;
        let mut piece = vec![0; PIECE];
        let mut left = 4 * self.channels * self.frames;
        while left > 0 {
            if !goes_on() {
                return Err(MediaError::Unwanted);
            }
            let piece = piece.get_mut(..left.min(PIECE)).unwrap_or_default();
            spooled.read_exact(piece)?;
            let (samples, _) = piece.as_chunks();
            let scale = 0.5f32.powi(halvings);
            packing.write(samples.iter().map(|bytes| bits.nearest(f32::from_le_bytes(*bytes) * scale)))?;
            left -= piece.len();
        }
        packing.finish()?;
        out.flush()?;
        drop(out);
        let flac_bytes = flac.metadata()?.len();
        Ok(Imported {
            hash,
            rate_hz,
            channels: self.channels,
            frames: self.frames,
            peak_dbfs,
            loudness_lufs,
            halvings: halvings.unsigned_abs(),
            flac,
            flac_bytes,
        })
    }
}
