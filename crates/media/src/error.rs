//! Why a file could not be read or written.

use clear_bend_sound::Refusal;

/// Why a file could not be read or written.
#[derive(Debug, thiserror::Error)]
pub enum MediaError {
    /// It is not a sound file that this program reads.
    #[error(
        "{found}; accepted: WAV, FLAC, Ogg Vorbis, MP3 or AIFF, mono or stereo, 8000 to 192000 Hz, at most 10 minutes"
    )]
    NotSound {
        /// What was found.
        found: String,
    },
    /// It ends before what its header promises.
    #[error("the file promises {promised} samples but ends after {present}; accepted: a complete file")]
    CutOff {
        /// Samples that the header promises, all channels together.
        promised: usize,
        /// Samples that are there.
        present: usize,
    },
    /// Its samples are not accepted.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// What it is read from failed.
    #[error("the file cannot be read ({0})")]
    Read(#[from] std::io::Error),
    /// Nobody waits for it any more.
    #[error("nobody waits for the file any more")]
    Unwanted,
    /// It could not be written.
    #[error("the file cannot be made: {0}")]
    Write(String),
}
