//! FLAC out, through the `flac-codec` crate.

use std::io::{Cursor, Seek, Write};

use clear_bend_sound::Buffer;
use flac_codec::encode::{FlacSampleWriter, Options};

use crate::MediaError;
use crate::whole::{Bits, whole_numbers};

/// So many samples are packed at a time; a whole number of frames of one channel or two.
const PIECE: usize = 1 << 16;

/// The bytes of a FLAC file. What lies on its grid is kept bit for bit; anything else is dithered to 16 bits and
/// rounded to 24.
///
/// # Errors
/// Refuses samples over full scale, which such a file cannot hold.
pub fn write_flac(buffer: &Buffer, bits: Bits) -> Result<Vec<u8>, MediaError> {
    let samples = whole_numbers(buffer, bits)?;
    let (channels, frames) = (buffer.channels().len(), buffer.frames());
    let mut bytes = Cursor::new(Vec::new());
    let mut packing = Packing::new(&mut bytes, buffer.rate_hz(), channels, frames, bits)?;
    packing.write(samples)?;
    packing.finish()?;
    Ok(bytes.into_inner())
}

/// A FLAC file that is being written.
pub struct Packing<W: Write + Seek> {
    writer: FlacSampleWriter<W>,
    piece: Vec<i32>,
}

fn failed(error: flac_codec::Error) -> MediaError {
    match error {
        flac_codec::Error::Io(error) => MediaError::Read(error),
        other => MediaError::Write(other.to_string()),
    }
}

impl<W: Write + Seek> Packing<W> {
    /// Begins a file of a known length.
    ///
    /// # Errors
    /// Those of the writer.
    pub fn new(out: W, rate_hz: u32, channels: usize, frames: usize, bits: Bits) -> Result<Self, MediaError> {
        let total = u64::try_from(frames * channels).ok();
        let bits = u32::from(bits.count());
        let channels = u8::try_from(channels).unwrap_or(2);
        let writer = FlacSampleWriter::new(out, Options::fast(), rate_hz, bits, channels, total);
        Ok(Self { writer: writer.map_err(failed)?, piece: Vec::new() })
    }

    /// Packs the next samples, of all channels in turn. Piece by piece: ten minutes at once would take as much again as the sound
    /// itself.
    ///
    /// # Errors
    /// Those of the writer.
    pub fn write(&mut self, mut samples: impl Iterator<Item = i32>) -> Result<(), MediaError> {
        loop {
            self.piece.clear();
            self.piece.extend(samples.by_ref().take(PIECE));
            if self.piece.is_empty() {
                return Ok(());
            }
            self.writer.write(&self.piece).map_err(failed)?;
        }
    }

    /// Ends the file.
    ///
    /// # Errors
    /// Those of the writer.
    pub fn finish(self) -> Result<(), MediaError> {
        self.writer.finalize().map_err(failed)
    }
}
