//! FLAC out, through the `flacenc` crate.

use clear_bend_core::Buffer;
use flacenc::bitsink::ByteSink;
use flacenc::component::BitRepr;
use flacenc::error::Verify;
use flacenc::source::MemSource;

use crate::MediaError;
use crate::whole::{Bits, whole_numbers};

/// The bytes of a FLAC file. What lies on its grid is kept bit for bit; anything else is dithered to 16 bits and
/// rounded to 24.
///
/// # Errors
/// Refuses samples over full scale, which such a file cannot hold.
pub fn write_flac(buffer: &Buffer, bits: Bits) -> Result<Vec<u8>, MediaError> {
    let samples = whole_numbers(buffer, bits)?;
    let rate = usize::try_from(buffer.rate_hz()).unwrap_or(usize::MAX);
    let source = MemSource::from_samples(&samples, buffer.channels().len(), usize::from(bits.count()), rate);
    let config = flacenc::config::Encoder::default()
        .into_verified()
        .map_err(|(_, error)| MediaError::Write(format!("{error:?}")))?;
    let stream = flacenc::encode_with_fixed_block_size(&config, source, config.block_size)
        .map_err(|error| MediaError::Write(format!("{error:?}")))?;
    let mut sink = ByteSink::new();
    stream.write(&mut sink).map_err(|error| MediaError::Write(format!("{error:?}")))?;
    Ok(sink.as_slice().to_vec())
}
