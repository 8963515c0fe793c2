//! From one sample rate to another, through the `rubato` crate.

use audioadapter_buffers::direct::SequentialSliceOfVecs;
use clear_bend_core::Buffer;
use rubato::{Fft, FixedSync, Resampler};

use crate::MediaError;

/// Frames per step of the converter.
const CHUNK: usize = 4096;

/// The passage at another rate; as it is where the rate is the same.
///
/// # Errors
/// Refuses a rate that [`Buffer::new`] refuses.
pub fn at_rate(buffer: Buffer, rate_hz: u32) -> Result<Buffer, MediaError> {
    if buffer.rate_hz() == rate_hz {
        return Ok(buffer);
    }
    let failed =
        |error: &dyn std::fmt::Display| MediaError::Write(format!("the rate cannot be changed: {error}"));
    let channels = buffer.channels().len();
    let rates = [buffer.rate_hz(), rate_hz].map(|rate| usize::try_from(rate).unwrap_or(0));
    let mut converter =
        Fft::<f32>::new(rates[0], rates[1], CHUNK, channels, FixedSync::Input).map_err(|e| failed(&e))?;
    let input =
        SequentialSliceOfVecs::new(buffer.channels(), channels, buffer.frames()).map_err(|e| failed(&e))?;
    let output = converter.process_all(&input, buffer.frames(), None).map_err(|e| failed(&e))?.take_data();
    // As many frames as belong to the length; the converter may give one more.
    let frames = clear_bend_core::cast::frames(buffer.seconds(), rate_hz).max(1);
    let channel = |c: usize| output.iter().skip(c).step_by(channels).take(frames).copied().collect();
    Ok(Buffer::new(rate_hz, (0..channels).map(channel).collect())?)
}
