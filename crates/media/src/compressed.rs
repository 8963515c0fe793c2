//! FLAC, Ogg Vorbis, MP3 and AIFF in, through the `symphonia` crate.

use clear_bend_core::Buffer;
use symphonia::core::errors::Error;
use symphonia::core::formats::TrackType;
use symphonia::core::formats::probe::Hint;
use symphonia::core::io::{MediaSource, MediaSourceStream};

use crate::{MediaError, check_finite, check_length};

/// Reads a file whose first bytes are known.
///
/// # Errors
/// As [`crate::read_sound`].
pub fn read(file: Box<dyn MediaSource>, first: [u8; 4]) -> Result<Buffer, MediaError> {
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
    let lossless = first == *b"fLaC" || first == *b"FORM";

    let mut rate_hz = params.sample_rate.unwrap_or(0);
    let mut channels: Vec<Vec<f32>> = Vec::new();
    let mut block: Vec<Vec<f32>> = Vec::new();
    loop {
        let packet = match format.next_packet() {
            Ok(Some(packet)) => packet,
            Ok(None) | Err(Error::IoError(_)) => break,
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
        rate_hz = decoded.spec().rate();
        decoded.copy_to_vecs_planar(&mut block);
        if channels.is_empty() {
            Buffer::new(rate_hz, vec![Vec::new(); block.len()])?;
            channels.resize(block.len(), Vec::new());
        }
        for (channel, block) in channels.iter_mut().zip(&block) {
            channel.extend_from_slice(block);
        }
        let frames = channels.first().map_or(0, Vec::len);
        if frames > 0 {
            check_length(frames, rate_hz)?;
        }
    }
    let frames = channels.first().map_or(0, Vec::len);
    if let Some(promised) = promised.and_then(|n| usize::try_from(n).ok()).filter(|_| lossless)
        && frames < promised
    {
        let each = channels.len().max(1);
        return Err(MediaError::CutOff { promised: promised * each, present: frames * each });
    }
    if frames == 0 {
        return Err(not_sound("it holds no samples".to_owned()));
    }
    check_finite(&channels)?;
    Ok(Buffer::new(rate_hz, channels)?)
}
