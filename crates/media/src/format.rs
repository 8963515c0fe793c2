//! The kinds of file that are written.

use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;

use crate::{Bits, MediaError, write_flac, write_wav, write_wav_whole};

/// A kind of sound file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// WAV, 16 bits.
    Wav16,
    /// WAV, 24 bits.
    Wav24,
    /// WAV, 32-bit float: holds every sample bit for bit.
    Wav32,
    /// FLAC, 16 bits.
    Flac16,
    /// FLAC, 24 bits.
    Flac24,
}

impl Format {
    /// All of them, with the names by which they are asked for.
    pub const ALL: [(&'static str, Self); 5] = [
        ("wav16", Self::Wav16),
        ("wav24", Self::Wav24),
        ("wav32", Self::Wav32),
        ("flac16", Self::Flac16),
        ("flac24", Self::Flac24),
    ];

    /// Finds one by its name.
    ///
    /// # Errors
    /// Refuses other names.
    pub fn named(name: &str) -> Result<Self, Refusal> {
        let found = Self::ALL.iter().find(|(known, _)| *known == name).map(|(_, format)| *format);
        let known = Self::ALL.map(|(known, _)| known).join(", ");
        found.ok_or_else(|| Refusal::new("format", format!("\u{201c}{name}\u{201d}"), known))
    }

    /// The ending of file names.
    #[must_use]
    pub fn extension(self) -> &'static str {
        if matches!(self, Self::Flac16 | Self::Flac24) { "flac" } else { "wav" }
    }

    /// The bytes of a file.
    ///
    /// # Errors
    /// Refuses samples over full scale in all but 32-bit float.
    pub fn write(self, buffer: &Buffer) -> Result<Vec<u8>, MediaError> {
        match self {
            Self::Wav16 => write_wav_whole(buffer, Bits::Sixteen),
            Self::Wav24 => write_wav_whole(buffer, Bits::TwentyFour),
            Self::Wav32 => write_wav(buffer),
            Self::Flac16 => write_flac(buffer, Bits::Sixteen),
            Self::Flac24 => write_flac(buffer, Bits::TwentyFour),
        }
    }
}
