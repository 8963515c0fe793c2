//! FLAC out, through the `flac-codec` crate.

use std::io::Cursor;

use clear_bend_core::Buffer;
use flac_codec::encode::{FlacSampleWriter, Options};

use crate::MediaError;
use crate::whole::{Bits, whole_numbers};

/// The bytes of a FLAC file. What lies on its grid is kept bit for bit; anything else is dithered to 16 bits and
/// rounded to 24.
///
/// # Errors
/// Refuses samples over full scale, which such a file cannot hold.
pub fn write_flac(buffer: &Buffer, bits: Bits) -> Result<Vec<u8>, MediaError> {
    let failed = |error: flac_codec::Error| MediaError::Write(error.to_string());
    let samples = whole_numbers(buffer, bits)?;
    let channels = u8::try_from(buffer.channels().len()).unwrap_or(2);
    let total = u64::try_from(samples.len()).ok();
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
    writer.write(&samples).map_err(failed)?;
    writer.finalize().map_err(failed)?;
    Ok(bytes.into_inner())
}
