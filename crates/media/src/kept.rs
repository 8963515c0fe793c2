//! What was imported, unpacked.

use std::io::Read;

use clear_bend_sound::Buffer;
use symphonia::core::io::ReadOnlySource;

use crate::{MediaError, Take, caught, compressed, whole_sound};

/// Unpacks what was imported, from wherever it is kept.
///
/// # Errors
/// As [`crate::read_sound`], if the kept bytes are damaged; [`MediaError::Read`] where they cannot be read.
pub fn unpack(flac: impl Read + Send + Sync + 'static, halvings: u32) -> Result<Buffer, MediaError> {
    whole_sound(|take| unpack_blocks(flac, halvings, take))
}

/// The same, block by block.
///
/// # Errors
/// As [`unpack`], and those of `take`.
pub fn unpack_blocks(
    flac: impl Read + Send + Sync + 'static,
    halvings: u32,
    take: &mut Take,
) -> Result<(), MediaError> {
    let source = Box::new(ReadOnlySource::new(flac));
    let scale = (0..halvings).fold(1.0f32, |scale, _| 2.0 * scale);
    let mut louder = Vec::new();
    let mut scaled = |rate_hz: u32, block: &[Vec<f32>]| {
        if halvings == 0 {
            return take(rate_hz, block);
        }
        louder.clear();
        louder.extend(block.iter().map(|channel| channel.iter().map(|x| x * scale).collect()));
        take(rate_hz, &louder)
    };
    caught(&mut scaled, |take| compressed::read(source, *b"fLaC", take))
}
