//! FLAC out, through the `flac-codec` crate.

use std::io::Cursor;

use clear_bend_core::Buffer;
use flac_codec::encode::{FlacSampleWriter, Options};

use crate::MediaError;
use crate::whole::{Bits, whole_numbers};

/// So many samples are rounded and packed at a time; a whole number of frames of one channel or two.
const PIECE: usize = 1 << 16;

/// The bytes of a FLAC file. What lies on its grid is kept bit for bit; anything else is dithered to 16 bits and
/// rounded to 24.
///
/// # Errors
/// Refuses samples over full scale, which such a file cannot hold.
pub fn write_flac(buffer: &Buffer, bits: Bits) -> Result<Vec<u8>, MediaError> {
    let failed = |error: flac_codec::Error| MediaError::Write(error.to_string());
    let mut samples = whole_numbers(buffer, bits)?;
    let channels = u8::try_from(buffer.channels().len()).unwrap_or(2);
    let total = u64::try_from(buffer.frames() * buffer.channels().len()).ok();
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = FlacSampleWriter::new(
        &mut bytes,
        Options::fast(),
        buffer.rate_hz(),
        u32::from(bits.count()),
        channels,
        total,
    )
    .map_err(failed)?;
    // Piece by piece: ten minutes at once would take as much again as the sound itself.
    loop {
        let piece: Vec<i32> = samples.by_ref().take(PIECE).collect();
        if piece.is_empty() {
            break;
        }
        writer.write(&piece).map_err(failed)?;
    }
    writer.finalize().map_err(failed)?;
    Ok(bytes.into_inner())
}
