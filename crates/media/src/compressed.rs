//! FLAC, Ogg Vorbis, MP3 and AIFF in, and WAV of 64-bit numbers, through the `symphonia` crate.

use std::io::ErrorKind;

use clear_bend_sound::Buffer;
use symphonia::core::errors::Error;
use symphonia::core::formats::TrackType;
use symphonia::core::formats::probe::Hint;
use symphonia::core::io::{MediaSource, MediaSourceStream};

use crate::{MediaError, Take, check_finite, check_length};

/// Reads a file whose first bytes are known, and hands on what it holds block by block.
///
/// # Errors
/// As [`crate::read_sound`].
pub fn read(file: Box<dyn MediaSource>, first: [u8; 4], take: &mut Take) -> Result<(), MediaError> {
    let not_sound = |why: String| MediaError::NotSound {
        found: format!("the file is not a sound that can be read ({why})"),
    };
    let stream = MediaSourceStream::new(file, Default::default());
    let mut format = symphonia::default::get_probe()
        .probe(&Hint::new(), stream, Default::default(), Default::default())
        .map_err(|_| not_sound("it is of no known kind".to_owned()))?;
    let track =
        format.default_track(TrackType::Audio).ok_or_else(|| not_sound("it has no sound".to_owned()))?;
    let (id, promised) = (track.id, track.num_frames);
    let params = track.codec_params.as_ref().and_then(|params| params.audio());
    let params = params.ok_or_else(|| not_sound("its coding is not known".to_owned()))?;
    let mut decoder = symphonia::default::get_codecs()
        .make_audio_decoder(params, &Default::default())
        .map_err(|e| not_sound(e.to_string()))?;
    let lossless = [*b"fLaC", *b"FORM", *b"RIFF"].contains(&first);

    // Rate, Hz, and channels; none before the first block.
    let mut kind = None;
    let mut frames = 0;
    let mut block: Vec<Vec<f32>> = Vec::new();
    loop {
        let packet = match format.next_packet() {
            Ok(Some(packet)) => packet,
            Ok(None) => break,
            Err(Error::IoError(error)) if error.kind() == ErrorKind::UnexpectedEof => break,
            Err(Error::IoError(error)) => return Err(MediaError::Read(error)),
            Err(error) => return Err(not_sound(error.to_string())),
        };
        if packet.track_id != id {
            continue;
        }
        let decoded = match decoder.decode(&packet) {
            Ok(decoded) => decoded,
            // A lossy file may begin or end with a frame that leans on one that is not there.
            Err(Error::DecodeError(_) | Error::IoError(_)) if !lossless => continue,
            Err(Error::DecodeError(_) | Error::IoError(_)) => break,
            Err(error) => return Err(not_sound(error.to_string())),
        };
        let rate_hz = decoded.spec().rate();
        decoded.copy_to_vecs_planar(&mut block);
        if kind.is_none() {
            Buffer::new(rate_hz, vec![Vec::new(); block.len()])?;
        }
        if *kind.get_or_insert((rate_hz, block.len())) != (rate_hz, block.len()) {
            return Err(not_sound("its rate or its channels change on the way".to_owned()));
        }
        let new = block.first().map_or(0, Vec::len);
        if new > 0 {
            check_length(frames + new, rate_hz)?;
            check_finite(&block, frames)?;
            take(rate_hz, &block)?;
            frames += new;
        }
    }
    let channels = kind.map_or(1, |(_, channels)| channels);
    if let Some(promised) = promised.and_then(|n| usize::try_from(n).ok()).filter(|_| lossless)
        && frames < promised
    {
        return Err(MediaError::CutOff { promised: promised * channels, present: frames * channels });
    }
    if frames == 0 {
        return Err(not_sound("it holds no samples".to_owned()));
    }
    Ok(())
}
