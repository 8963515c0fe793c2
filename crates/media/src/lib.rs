//! Sound files to samples and back. So far WAV: 8 to 32-bit whole numbers and 32-bit float in, 32-bit float out.

use std::io::Cursor;

use clear_bend_core::audio::LONGEST_S;
use clear_bend_core::{Buffer, Refusal};
use hound::{SampleFormat, WavReader, WavSpec, WavWriter};

/// Why a file could not be read or written.
#[derive(Debug, thiserror::Error)]
pub enum MediaError {
    /// It is not a WAV file that this program reads.
    #[error("{found}; accepted: a WAV file, mono or stereo, 8000 to 192000 Hz, 16, 24 or 32 bits")]
    NotWav {
        /// What was found.
        found: String,
    },
    /// It ends before what its header promises.
    #[error("the file promises {promised} samples but ends after {present}; accepted: a complete WAV file")]
    CutOff {
        /// Samples that the header promises, all channels together.
        promised: usize,
        /// Samples that are there.
        present: usize,
    },
    /// Its samples are not accepted.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// It could not be written.
    #[error("the WAV file cannot be made: {0}")]
    Write(hound::Error),
}

/// Reads the bytes of a WAV file.
///
/// # Errors
/// Refuses what is not WAV, files that end early, more than two channels, unusual rates, no samples, more
/// than ten minutes, and samples that are not finite.
pub fn read_wav(bytes: &[u8]) -> Result<Buffer, MediaError> {
    if bytes.is_empty() {
        return Err(MediaError::NotWav { found: "the file is empty".to_owned() });
    }
    let mut reader = WavReader::new(Cursor::new(bytes)).map_err(|error| MediaError::NotWav {
        found: format!("the file is not readable as WAV ({error})"),
    })?;
    let spec = reader.spec();
    let channels = usize::from(spec.channels);
    Buffer::new(spec.sample_rate, vec![Vec::new(); channels])?;
    let frames = usize::try_from(reader.duration()).unwrap_or(usize::MAX);
    let longest = clear_bend_core::cast::frames(LONGEST_S, spec.sample_rate);
    if frames == 0 || frames > longest {
        return Err(Refusal::new("length", format!("{frames} samples"), "1 sample to 10 minutes").into());
    }
    let promised = frames * channels;
    // Memory is taken as samples arrive, not as the header promises.
    let mut read: Vec<Vec<f32>> = vec![Vec::new(); channels];
    let mut present = 0;
    let mut take = |x: f32| {
        read[present % channels].push(x);
        present += 1;
    };
    match spec.sample_format {
        SampleFormat::Float => reader.samples::<f32>().map_while(Result::ok).for_each(&mut take),
        SampleFormat::Int => {
            let full_scale = f64::from(spec.bits_per_sample - 1).exp2();
            let samples = reader.samples::<i32>().map_while(Result::ok);
            samples.map(|x| clear_bend_core::cast::sample(f64::from(x) / full_scale)).for_each(&mut take);
        }
    }
    if present < promised {
        return Err(MediaError::CutOff { promised, present });
    }
    for (channel, samples) in read.iter().enumerate() {
        if let Some(at) = samples.iter().position(|x| !x.is_finite()) {
            let field = format!("sample {at} of channel {}", channel + 1);
            return Err(Refusal::new(field, samples[at], "finite numbers").into());
        }
    }
    Ok(Buffer::new(spec.sample_rate, read)?)
}

/// The bytes of a 32-bit float WAV file; samples are kept bit for bit, also over full scale.
///
/// # Errors
/// Those of the writer, which does not fail in memory.
pub fn write_wav(buffer: &Buffer) -> Result<Vec<u8>, MediaError> {
    let channels = u16::try_from(buffer.channels().len()).unwrap_or(2);
    let spec = WavSpec {
        channels,
        sample_rate: buffer.rate_hz(),
        bits_per_sample: 32,
        sample_format: SampleFormat::Float,
    };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = WavWriter::new(&mut bytes, spec).map_err(MediaError::Write)?;
    for frame in 0..buffer.frames() {
        for channel in buffer.channels() {
            writer.write_sample(channel[frame]).map_err(MediaError::Write)?;
        }
    }
    writer.finalize().map_err(MediaError::Write)?;
    Ok(bytes.into_inner())
}
