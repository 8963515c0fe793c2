//! The sound files that stages take beside the passage.

use std::path::{Path as FilePath, PathBuf};
use std::sync::Arc;

use clear_bend_catalogue::KEY;
use clear_bend_media::at_rate;
use clear_bend_playing::path::{Path, Sound, Stage};
use clear_bend_signals::Source;
use clear_bend_sound::Buffer;

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
        // A file has no place in a path; nothing but its samples is read.
        let brought = || Some(Sound::of(Source::Track { hash: "0".repeat(64), name: None }));
        let key = self
            .key
            .as_ref()
            .map(|key| at_the_rate_of("--key", key, read_sound(key)?, passage))
            .transpose()?;
        if let Some(file) = self.key.as_ref().filter(|_| !path.stages.iter().any(takes_key)) {
            let why = "has no stage to drive; accepted: with a path of which one has a detector";
            return Err(Fault::input(&format!("--key {}", name(file)), why.to_owned()));
        }
        if key.is_some() {
            let none = path.stages.iter().all(|stage| stage.key().is_none());
            for stage in path.stages.iter_mut().filter(|stage| none || stage.key().is_some()) {
                if let Some(slot) = stage.effect.slot(KEY.id) {
                    stage.sounds[slot] = brought();
                }
            }
        }
        let response = self.response.as_ref();
        let response = response
            .map(|file| at_the_rate_of("--response", file, read_response(file)?, passage))
            .transpose()?;
        if let Some(file) = self.response.as_ref().filter(|_| !path.stages.iter().any(takes_response)) {
            let why = "has no stage that answers with it; accepted: with a path of which one convolves";
            return Err(Fault::input(&format!("--response {}", name(file)), why.to_owned()));
        }
        if response.is_some() {
            for stage in &mut path.stages {
                let slots = stage.sounds.iter_mut().zip(stage.effect.sounds).filter(|(_, slot)| slot.whole);
                slots.for_each(|(sound, _)| *sound = brought());
            }
        }
        let mut missing = None;
        let path = path.with_sounds(|_, slot, source| {
            let (file, asked) =
                if slot.whole { (&response, "--response RESPONSE.wav") } else { (&key, "--key KEY.wav") };
            let laid = |sound: &Buffer| Some(Arc::new(slot.laid(sound, passage.frames())));
            match (source, file) {
                (Source::Track { .. }, Some(sound)) => laid(sound),
                (Source::Track { .. }, None) => {
                    missing.get_or_insert(asked);
                    None
                }
                (source, _) => laid(&source.render(passage.rate_hz(), 2).ok()?),
            }
        });
        missing.map_or(Ok(path), |asked| {
            let why = format!("has a sound that is a kept track; accepted: with {asked}");
            Err(Fault::input(&format!("--path {}", name(file)), why))
        })
    }
}

fn takes_key(stage: &Stage) -> bool {
    stage.effect.slot(KEY.id).is_some()
}

fn takes_response(stage: &Stage) -> bool {
    stage.effect.sounds.iter().any(|slot| slot.whole)
}

/// A sound at the rate of the passage.
fn at_the_rate_of(argument: &str, file: &FilePath, sound: Buffer, passage: &Buffer) -> Result<Buffer, Fault> {
    at_rate(sound, passage.rate_hz()).map_err(|e| Fault::input(&format!("{argument} {}", name(file)), e))
}
