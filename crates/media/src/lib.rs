//! Sound files to samples and back, and from one sample rate to another.
//!
//! In: WAV (8 to 32-bit whole numbers, 32-bit float), FLAC, Ogg Vorbis, MP3, AIFF. Out: WAV with 16 or 24 bits or as
//! 32-bit float, FLAC with 16 or 24 bits.

mod compressed;
mod error;
mod flac;
mod format;
mod import;
mod rate;
mod wav;
mod whole;

pub use error::MediaError;
pub use flac::write_flac;
pub use format::Format;
pub use import::{Imported, hash, import, unpack};
pub use rate::at_rate;
pub use wav::{read_wav, write_wav, write_wav_whole};
pub use whole::Bits;

use std::panic::{AssertUnwindSafe, catch_unwind};

use clear_bend_core::audio::LONGEST_S;
use clear_bend_core::{Buffer, Refusal};

/// Reads the bytes of a sound file of any accepted kind; which one it is, the bytes say.
///
/// # Errors
/// Refuses what is not an accepted sound file, files that end early, more than two channels, unusual rates, no
/// samples, more than ten minutes, and samples that are not finite.
pub fn read_sound(bytes: &[u8]) -> Result<Buffer, MediaError> {
    let read = || match bytes {
        [] => Err(MediaError::NotSound { found: "the file is empty".to_owned() }),
        [b'R', b'I', b'F', b'F', ..] => read_wav(bytes),
        _ => compressed::read(bytes),
    };
    // Some damaged files are too much for the readers underneath, which then panic: that is the file's fault and nobody else's.
    catch_unwind(AssertUnwindSafe(read)).unwrap_or_else(|_| {
        let found = "the file is damaged in a way that its reader does not know".to_owned();
        Err(MediaError::NotSound { found })
    })
}

/// Refuses lengths that are not accepted.
fn check_length(frames: usize, rate_hz: u32) -> Result<(), Refusal> {
    let longest = clear_bend_core::cast::frames(LONGEST_S, rate_hz);
    if (1..=longest).contains(&frames) {
        return Ok(());
    }
    let seconds = clear_bend_core::cast::real(frames) / f64::from(rate_hz);
    let found = if frames == 0 { "no samples".to_owned() } else { format!("{seconds:.1} s") };
    Err(Refusal::new("length", found, "1 sample to 10 minutes"))
}

/// Refuses samples that are not numbers.
fn check_finite(channels: &[Vec<f32>]) -> Result<(), Refusal> {
    for (channel, samples) in channels.iter().enumerate() {
        if let Some(at) = samples.iter().position(|x| !x.is_finite()) {
            let field = format!("sample {at} of channel {}", channel + 1);
            return Err(Refusal::new(field, samples[at], "finite numbers"));
        }
    }
    Ok(())
}
