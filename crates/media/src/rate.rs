//! From one sample rate to another, through the `rubato` crate.

use audioadapter_buffers::direct::SequentialSliceOfVecs;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use rubato::{Fft, FixedSync, Indexing, Resampler};

use crate::{MediaError, Take};

/// A sound at a rate, Hz. It knows at which one it was recorded ([`Buffer::recorded_hz`]).
///
/// # Errors
/// Those of the converter.
pub fn at_rate(sound: Buffer, rate_hz: u32) -> Result<Buffer, MediaError> {
    if sound.rate_hz() == rate_hz {
        return Ok(sound);
    }
    let mut made = vec![Vec::new(); sound.channels().len()];
    let mut take = |_: u32, block: &[Vec<f32>]| {
        made.iter_mut()
            .zip(block)
            .for_each(|(made, block): (&mut Vec<f32>, _)| made.extend_from_slice(block));
        Ok(())
    };
    let mut converter = Converter::new(sound.rate_hz(), rate_hz, sound.channels().len())?;
    converter.push(sound.channels(), &mut take)?;
    converter.finish(&mut take)?;
    Ok(Buffer::new(rate_hz, made)?.recorded_at(sound.recorded_hz()))
}

/// Frames per step of the converter.
const CHUNK: usize = 4096;

/// Brings a sound that comes block by block to another rate. What comes out begins where the sound begins, and is as long.
pub struct Converter {
    /// None where the rate is the same.
    inner: Option<Fft<f32>>,
    rates_hz: [u32; 2],
    /// What has come and waits for a whole step.
    waiting: Vec<Vec<f32>>,
    /// What a step makes.
    made: Vec<Vec<f32>>,
    /// Frames of the converter's own delay that are still to be left out.
    delay: usize,
    taken: usize,
    given: usize,
}

fn failed(error: impl std::fmt::Display) -> MediaError {
    MediaError::Write(format!("the rate cannot be changed: {error}"))
}

impl Converter {
    /// From a rate to a rate, both Hz, for so many channels.
    ///
    /// # Errors
    /// Those of the converter, for rates that no sound has.
    pub fn new(from_hz: u32, to_hz: u32, channels: usize) -> Result<Self, MediaError> {
        let rates = [from_hz, to_hz].map(|rate| usize::try_from(rate).unwrap_or(0));
        let make = || Fft::<f32>::new(rates[0], rates[1], CHUNK, channels, FixedSync::Input);
        let inner = (from_hz != to_hz).then(make).transpose().map_err(failed)?;
        let room = inner.as_ref().map_or(0, Resampler::output_frames_max);
        Ok(Self {
            delay: inner.as_ref().map_or(0, Resampler::output_delay),
            inner,
            rates_hz: [from_hz, to_hz],
            waiting: vec![Vec::new(); channels],
            made: vec![vec![0.0; room]; channels],
            taken: 0,
            given: 0,
        })
    }

    /// Takes in the next samples and gives what is ready.
    ///
    /// # Errors
    /// Those of the converter and of `take`.
    pub fn push(&mut self, block: &[Vec<f32>], take: &mut Take) -> Result<(), MediaError> {
        let frames = block.first().map_or(0, Vec::len);
        self.taken += frames;
        let Some(inner) = &self.inner else {
            self.given += frames;
            return take(self.rates_hz[1], block);
        };
        let step = inner.input_frames_next();
        for (waiting, new) in self.waiting.iter_mut().zip(block) {
            waiting.extend_from_slice(new);
        }
        while self.waiting.first().is_some_and(|channel| channel.len() >= step) {
            self.step(step, usize::MAX, take)?;
        }
        Ok(())
    }

    /// Gives the rest.
    ///
    /// # Errors
    /// Those of the converter and of `take`.
    pub fn finish(mut self, take: &mut Take) -> Result<(), MediaError> {
        let seconds = cast::real(self.taken) / f64::from(self.rates_hz[0]);
        let whole = cast::frames(seconds, self.rates_hz[1]).max(1);
        while self.inner.is_some() && self.given < whole {
            let rest = self.waiting.first().map_or(0, Vec::len);
            self.step(rest, whole, take)?;
        }
        Ok(())
    }

    /// One step over so many frames, and silence after them where a step needs more; up to so many frames in all.
    fn step(&mut self, frames: usize, whole: usize, take: &mut Take) -> Result<(), MediaError> {
        let Some(inner) = &mut self.inner else { return Ok(()) };
        let channels = self.made.len();
        let input = SequentialSliceOfVecs::new(&self.waiting[..], channels, frames).map_err(failed)?;
        let room = self.made.first().map_or(0, Vec::len);
        let mut output =
            SequentialSliceOfVecs::new_mut(&mut self.made[..], channels, room).map_err(failed)?;
        let indexing = Indexing {
            input_offset: 0,
            output_offset: 0,
            active_channels_mask: None,
            partial_len: (frames < inner.input_frames_next()).then_some(frames),
        };
        let (_, made) = inner.process_into_buffer(&input, &mut output, Some(&indexing)).map_err(failed)?;
        self.waiting.iter_mut().for_each(|channel| drop(channel.drain(..frames)));
        let begin = self.delay.min(made);
        self.delay -= begin;
        let end = made.min(begin.saturating_add(whole - self.given));
        self.given += end - begin;
        let block: Vec<Vec<f32>> = self.made.iter().map(|channel| channel[begin..end].to_vec()).collect();
        if begin < end { take(self.rates_hz[1], &block) } else { Ok(()) }
    }
}
