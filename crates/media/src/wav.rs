//! WAV, through the `hound` crate.

use std::io::{Cursor, Read};

use clear_bend_sound::Buffer;
use hound::{SampleFormat, WavReader, WavSpec, WavWriter};

use crate::whole::{Bits, whole_numbers};
use crate::{MediaError, Take, check_finite, check_length, whole_sound};

/// Frames that are handed on at a time.
const BLOCK: usize = 4096;

/// Reads the bytes of a WAV file.
///
/// # Errors
/// As [`crate::read_sound`].
pub fn read_wav(bytes: &[u8]) -> Result<Buffer, MediaError> {
    whole_sound(|take| read(bytes, take))
}

/// Bits of the numbers that another reader takes.
const WIDE_BITS: u16 = 64;

/// Whether a WAV file holds numbers of 64 bits, which this reader does not take: as its first chunk but those that it has room for says.
pub fn is_wide(mut file: impl Read) -> bool {
    let mut head = [0; 12];
    if file.read_exact(&mut head).is_err() || !head.starts_with(b"RIFF") {
        return false;
    }
    for _ in 0..CHUNKS {
        let mut chunk = [0; 8];
        if file.read_exact(&mut chunk).is_err() {
            return false;
        }
        let [_, _, _, _, a, b, c, d] = chunk;
        let length = u64::from(u32::from_le_bytes([a, b, c, d]));
        if chunk.starts_with(b"fmt ") {
            let mut format = [0; 16];
            let found = file.read_exact(&mut format);
            return found.is_ok() && u16::from_le_bytes([format[14], format[15]]) == WIDE_BITS;
        }
        // Chunks are filled up to an even length.
        let skipped =
            std::io::copy(&mut Read::by_ref(&mut file).take(length + length % 2), &mut std::io::sink());
        if skipped.is_err() {
            return false;
        }
    }
    false
}

/// At most so many chunks are looked at for that.
const CHUNKS: usize = 16;

/// Reads a WAV file from wherever it comes, and hands on what it holds block by block.
pub fn read(file: impl Read, take: &mut Take) -> Result<(), MediaError> {
    let mut reader = WavReader::new(file).map_err(|error| MediaError::NotSound {
        found: format!("the file is not readable as WAV ({error})"),
    })?;
    let spec = reader.spec();
    let channels = usize::from(spec.channels);
    Buffer::new(spec.sample_rate, vec![Vec::new(); channels])?;
    let frames = usize::try_from(reader.duration()).unwrap_or(usize::MAX);
    check_length(frames, spec.sample_rate)?;
    let promised = frames * channels;
    let mut block: Vec<Vec<f32>> = vec![Vec::with_capacity(BLOCK); channels];
    let mut present = 0;
    let mut hand_on = |x: f32| -> Result<(), MediaError> {
        block[present % channels].push(x);
        present += 1;
        if present % (BLOCK * channels) == 0 || present == promised {
            check_finite(&block, present.div_ceil(channels) - block[0].len())?;
            take(spec.sample_rate, &block)?;
            block.iter_mut().for_each(Vec::clear);
        }
        Ok(())
    };
    match spec.sample_format {
        SampleFormat::Float => reader.samples::<f32>().map_while(Result::ok).try_for_each(&mut hand_on)?,
        SampleFormat::Int => {
            let full_scale = f64::from(spec.bits_per_sample - 1).exp2();
            let samples = reader.samples::<i32>().map_while(Result::ok);
            let samples = samples.map(|x| clear_bend_sound::cast::sample(f64::from(x) / full_scale));
            samples.take(promised).try_for_each(&mut hand_on)?;
        }
    }
    if present < promised {
        return Err(MediaError::CutOff { promised, present });
    }
    Ok(())
}

/// The bytes of a 32-bit float WAV file; samples are kept bit for bit, also over full scale.
///
/// # Errors
/// Those of the writer, which does not fail in memory.
pub fn write_wav(buffer: &Buffer) -> Result<Vec<u8>, MediaError> {
    let frames = (0..buffer.frames()).flat_map(|frame| buffer.channels().iter().map(move |c| c[frame]));
    write(buffer, 32, SampleFormat::Float, frames)
}

/// The bytes of a WAV file of whole numbers. What lies on its grid is kept bit for bit; anything else is dithered
/// to 16 bits and rounded to 24.
///
/// # Errors
/// Refuses samples over full scale, which such a file cannot hold.
pub fn write_wav_whole(buffer: &Buffer, bits: Bits) -> Result<Vec<u8>, MediaError> {
    write(buffer, bits.count(), SampleFormat::Int, whole_numbers(buffer, bits)?)
}

fn write<S: hound::Sample>(
    buffer: &Buffer,
    bits_per_sample: u16,
    sample_format: SampleFormat,
    samples: impl Iterator<Item = S>,
) -> Result<Vec<u8>, MediaError> {
    let failed = |error: hound::Error| MediaError::Write(error.to_string());
    let channels = u16::try_from(buffer.channels().len()).unwrap_or(2);
    let spec = WavSpec { channels, sample_rate: buffer.rate_hz(), bits_per_sample, sample_format };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = WavWriter::new(&mut bytes, spec).map_err(failed)?;
    for sample in samples {
        writer.write_sample(sample).map_err(failed)?;
    }
    writer.finalize().map_err(failed)?;
    Ok(bytes.into_inner())
}
