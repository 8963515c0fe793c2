//! Sound files to samples and back, and from one sample rate to another.
//!
//! In: WAV (8 to 32-bit whole numbers, 32-bit float), FLAC, Ogg Vorbis, MP3, AIFF. Out: WAV with 16 or 24 bits or as
//! 32-bit float, FLAC with 16 or 24 bits.

mod compressed;
mod error;
mod flac;
mod format;
mod import;
mod kept;
mod rate;
mod recipe;
mod wav;
mod whole;

pub use error::MediaError;
pub use flac::write_flac;
pub use format::Format;
pub use import::{Imported, hash, hash_of_file, import, import_file};
pub use kept::{unpack, unpack_blocks};
pub use rate::at_rate;
pub use recipe::{recipe_of, with_recipe};
pub use wav::{read_wav, write_wav, write_wav_whole};
pub use whole::Bits;

use std::cell::Cell;
use std::fs::File;
use std::io::{BufReader, Cursor, Read, Seek};
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind, set_hook, take_hook};
use std::sync::Once;

use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::audio::{LONGEST_S, TRUE_STEREO};

/// Takes a sound block by block: its rate, Hz, and the next samples of every channel.
pub type Take<'a> = dyn FnMut(u32, &[Vec<f32>]) -> Result<(), MediaError> + 'a;

/// Reads the bytes of a sound file of any accepted kind; which one it is, the bytes say.
///
/// # Errors
/// Refuses what is not an accepted sound file, files that end early, more than two channels, unusual rates, no
/// samples, more than ten minutes, and samples that are not finite.
pub fn read_sound(bytes: &[u8]) -> Result<Buffer, MediaError> {
    let sound = read_response(bytes)?;
    let channels = sound.channels().len();
    if channels == TRUE_STEREO {
        return Err(Refusal::new("channels", channels, "1 (mono) or 2 (stereo)").into());
    }
    Ok(sound)
}

/// The same of a response, which may have four channels for true stereo.
///
/// # Errors
/// As [`read_sound`].
pub fn read_response(bytes: &[u8]) -> Result<Buffer, MediaError> {
    whole_sound(|take| read_bytes(bytes, take))
}

/// The same, block by block.
fn read_bytes(bytes: &[u8], take: &mut Take) -> Result<(), MediaError> {
    match bytes {
        [b'R', b'I', b'F', b'F', ..] if !wav::is_wide(bytes) => caught(take, |take| wav::read(bytes, take)),
        // The file is borrowed for the call alone; the reader wants to own it.
        _ => caught(take, |take| {
            compressed::read(Box::new(Cursor::new(bytes.to_vec())), first_of(bytes)?, take)
        }),
    }
}

/// Reads a sound file block by block, never more of it than that.
fn read_file(file: &File, take: &mut Take) -> Result<(), MediaError> {
    let mut file = file.try_clone()?;
    let mut first = Vec::new();
    file.rewind()?;
    Read::by_ref(&mut file).take(4).read_to_end(&mut first)?;
    file.rewind()?;
    let wide = wav::is_wide(BufReader::new(&file));
    file.rewind()?;
    match &first[..] {
        b"RIFF" if !wide => caught(take, |take| wav::read(BufReader::new(file), take)),
        first => caught(take, |take| compressed::read(Box::new(file), first_of(first)?, take)),
    }
}

/// All that a reader hands on.
fn whole_sound(read: impl FnOnce(&mut Take) -> Result<(), MediaError>) -> Result<Buffer, MediaError> {
    // Memory is taken as samples arrive, not as a header promises.
    let (mut rate_hz, mut channels) = (0, Vec::new());
    read(&mut |rate, block| {
        rate_hz = rate;
        channels.resize(block.len(), Vec::new());
        for (channel, block) in channels.iter_mut().zip(block) {
            channel.extend_from_slice(block);
        }
        Ok(())
    })?;
    Ok(Buffer::new(rate_hz, channels)?)
}

fn first_of(bytes: &[u8]) -> Result<[u8; 4], MediaError> {
    if bytes.is_empty() {
        return Err(MediaError::NotSound { found: "the file is empty".to_owned() });
    }
    Ok(bytes.first_chunk().copied().unwrap_or_default())
}

thread_local! {
    /// Whether this thread is inside a reader of somebody else's.
    static READING: Cell<bool> = const { Cell::new(false) };
}

/// Some damaged files are too much for the readers underneath, which then panic: that is the file's fault and nobody else's, and nothing is
/// written of it. What our own code does with a block between is none of theirs.
fn caught(take: &mut Take, read: impl FnOnce(&mut Take) -> Result<(), MediaError>) -> Result<(), MediaError> {
    static QUIET: Once = Once::new();
    QUIET.call_once(|| {
        let told = take_hook();
        set_hook(Box::new(move |panic| {
            if !READING.get() {
                told(panic);
            }
        }));
    });
    let mut between = |rate_hz: u32, block: &[Vec<f32>]| {
        READING.set(false);
        let taken = take(rate_hz, block);
        READING.set(true);
        taken
    };
    READING.set(true);
    let read = catch_unwind(AssertUnwindSafe(|| read(&mut between)));
    let theirs = READING.replace(false);
    read.unwrap_or_else(|panic| {
        if !theirs {
            resume_unwind(panic);
        }
        let found = "the file is damaged in a way that its reader does not know".to_owned();
        Err(MediaError::NotSound { found })
    })
}

/// Refuses lengths that are not accepted.
fn check_length(frames: usize, rate_hz: u32) -> Result<(), Refusal> {
    let longest = clear_bend_sound::cast::frames(LONGEST_S, rate_hz);
    if (1..=longest).contains(&frames) {
        return Ok(());
    }
    let seconds = clear_bend_sound::cast::real(frames) / f64::from(rate_hz);
    let found = if frames == 0 { "no samples".to_owned() } else { format!("{seconds:.1} s") };
    Err(Refusal::new("length", found, "1 sample to 10 minutes"))
}

/// Refuses samples that are not numbers, in a block that begins at this frame.
fn check_finite(block: &[Vec<f32>], from: usize) -> Result<(), Refusal> {
    for (channel, samples) in block.iter().enumerate() {
        if let Some(at) = samples.iter().position(|x| !x.is_finite()) {
            let field = format!("sample {} of channel {}", from + at, channel + 1);
            return Err(Refusal::new(field, samples[at], "finite numbers"));
        }
    }
    Ok(())
}
