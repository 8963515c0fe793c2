//! The sound files that stages take beside the passage.

use std::path::{Path as FilePath, PathBuf};
use std::sync::Arc;

use clear_bend_core::Buffer;
use clear_bend_core::catalogue::KEY;
use clear_bend_core::path::{Path, Sound};
use clear_bend_core::signals::Source;

use super::{name, read_path, read_response, read_sound};
use crate::fault::Fault;

/// Sound files that stages take beside the passage.
#[derive(clap::Args)]
pub struct Beside {
    /// Sound file that drives the detectors, instead of the sounds that the path describes
    #[arg(long)]
    key: Option<PathBuf>,
    /// Sound file that stages answer with which convolve, instead of the responses that the path describes: one channel, two, or four for
    /// true stereo
    #[arg(long)]
    response: Option<PathBuf>,
}

impl Beside {
    /// A path whose stages have the samples of their sounds. A key drives every stage that has one, or, where none has one, every stage
    /// with a detector; a response goes to every stage that takes one. All other sounds are made as the path describes them.
    pub fn path(&self, file: &FilePath, passage: &Buffer) -> Result<Path, Fault> {
        let mut path = read_path(file)?;
        let frames = passage.frames();
        // A file has no place in a path; nothing but its samples is read.
        let read = |samples| Sound { source: Source::Track { hash: "0".repeat(64), name: None }, samples };
        if let Some(key) = &self.key {
            let sound = at_the_rate_of("--key", key, read_sound(key)?, passage)?;
            let none = path.stages.iter().all(|stage| stage.key().is_none());
            for stage in path.stages.iter_mut().filter(|stage| none || stage.key().is_some()) {
                if let Some(slot) = stage.effect.slot(KEY.id) {
                    let laid = stage.effect.sounds[slot].laid(&sound, frames);
                    stage.sounds[slot] = Some(read(Some(Arc::new(laid))));
                }
            }
        }
        if let Some(response) = &self.response {
            let sound = Arc::new(at_the_rate_of("--response", response, read_response(response)?, passage)?);
            for stage in &mut path.stages {
                for (taken, slot) in
                    stage.sounds.iter_mut().zip(stage.effect.sounds).filter(|(_, slot)| slot.whole)
                {
                    let laid = if sound.channels().len() <= slot.channels {
                        Arc::clone(&sound)
                    } else {
                        Arc::new(slot.laid(&sound, frames))
                    };
                    *taken = Some(read(Some(laid)));
                }
            }
        }
        for stage in &path.stages {
            let mut sounds = stage.sounds.iter().zip(stage.effect.sounds);
            let kept =
                |sound: &Sound| sound.samples.is_none() && matches!(sound.source, Source::Track { .. });
            if let Some((_, slot)) = sounds.find(|(sound, _)| sound.as_ref().is_some_and(kept)) {
                let with = if slot.whole { "--response RESPONSE.wav" } else { "--key KEY.wav" };
                let why = format!("has a sound that is a kept track; accepted: with {with}");
                return Err(Fault::input(&format!("--path {}", name(file)), why));
            }
        }
        for stage in &mut path.stages {
            for (sound, slot) in stage.sounds.iter_mut().zip(stage.effect.sounds) {
                if let Some(sound) = sound.as_mut().filter(|sound| sound.samples.is_none()) {
                    let made = sound.source.render(passage.rate_hz(), 2).ok();
                    sound.samples = made.map(|made| Arc::new(slot.laid(&made, frames)));
                }
            }
        }
        Ok(path)
    }
}

/// A sound that is to have the rate of the passage.
fn at_the_rate_of(argument: &str, file: &FilePath, sound: Buffer, passage: &Buffer) -> Result<Buffer, Fault> {
    if sound.rate_hz() == passage.rate_hz() {
        return Ok(sound);
    }
    let why = format!("has {} Hz; accepted: {} Hz, as the passage", sound.rate_hz(), passage.rate_hz());
    Err(Fault::input(&format!("{argument} {}", name(file)), why))
}
