//! The signal path: its document, its checked form, and the chain of processors that runs it.

mod chain;
mod differences;
mod document;
mod older;
#[cfg(feature = "schema")]
mod schema;
mod sound;

pub use chain::Chain;
pub use differences::{Difference, differences};
pub use document::{MOST_STAGES, PATH_FORMAT, PATH_VERSION, PathDocument, PathFile, StageDocument};
pub use older::brought_up;
pub use sound::Sound;

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use clear_bend_catalogue::document::{check_format, check_version, parse_json, parse_value};
use clear_bend_catalogue::{SoundSlot, Step, Unit, Values};
use clear_bend_effects::{self as effects, Effect, OUTPUT_ID};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Buffer;
use clear_bend_sound::level::gain_from_db;
use clear_bend_sound::refusal::Refusal;
use clear_bend_sound::scope::Scope;

/// How a passage goes through a path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Play {
    /// As a loop, as it is heard once it has gone round: its end still acts on its beginning.
    #[default]
    Round,
    /// From rest to its end, and on until what is left has died away.
    Once,
}

/// One effect in a path, checked.
#[derive(Debug, Clone, PartialEq)]
pub struct Stage {
    /// The effect.
    pub effect: &'static Effect,
    /// Whether it is switched on; switched off, it passes the signal bit for bit.
    pub on: bool,
    /// What part of the signal it works on.
    pub scope: Scope,
    /// Share of the processed signal, 0 to 1.
    pub mix: f64,
    /// Values in catalogue order.
    pub values: Vec<f64>,
    /// The sounds that it takes, in the order of its slots.
    pub sounds: Vec<Option<Sound>>,
}

impl Stage {
    /// An effect with its default values, or those given by parameter id.
    ///
    /// # Errors
    /// Refuses unknown parameters and values out of range.
    pub fn new(effect: &'static Effect, params: &[(&str, f64)]) -> Result<Self, Refusal> {
        let params: Values = params.iter().copied().collect();
        let values = params.checked(effect.params, effect.list()).map_err(|e| e.within("params"))?;
        Ok(Self { values, mix: 1.0, ..Self::of(effect) })
    }

    /// An effect at its default settings.
    #[must_use]
    pub fn of(effect: &'static Effect) -> Self {
        let values = effect.params.iter().map(|p| p.default).collect();
        let sounds = vec![None; effect.sounds.len()];
        Self { effect, on: true, scope: Scope::Stereo, mix: effect.mix.default, values, sounds }
    }

    /// The same stage as it is measured: switched on, on all of the signal, going by its own level.
    #[must_use]
    pub fn alone(&self) -> Self {
        Self { scope: Scope::Stereo, ..self.by_itself() }
    }

    /// The same stage switched on and without the sounds that run beside the passage.
    #[must_use]
    pub fn by_itself(&self) -> Self {
        let slots = self.effect.sounds.iter().zip(&self.sounds);
        let sounds = slots.map(|(slot, sound)| sound.clone().filter(|_| slot.whole)).collect();
        Self { on: true, sounds, ..self.clone() }
    }

    /// The same stage as a step of the guided order explains it: going by its own signal, without a mix, at plain values. What
    /// the whole bench shares stays.
    #[must_use]
    pub fn explained(&self, step: &Step) -> Self {
        let values = self.effect.params.iter().zip(&self.values).map(|(param, value)| {
            let plain = step.plain.iter().find(|(id, _)| *id == param.id).map(|(_, value)| *value);
            plain.unwrap_or(if param.shared { *value } else { param.default })
        });
        Self { mix: 1.0, values: values.collect(), ..self.by_itself() }
    }

    /// The sound that runs in its first slot, and drives it.
    #[must_use]
    pub fn key(&self) -> Option<&Sound> {
        let first = self.effect.sounds.first().filter(|slot| !slot.whole);
        first.and(self.sounds.first()).and_then(Option::as_ref)
    }

    /// Share of the processed signal that is heard: the mix, or nothing when switched off.
    #[must_use]
    pub fn wet(&self) -> f64 {
        if self.on { self.mix } else { 0.0 }
    }

    /// The gain that it applies after its mix, linear; 1 where it has none or is switched off.
    #[must_use]
    pub fn output_gain(&self) -> f64 {
        let place = self.effect.params.iter().position(|p| p.id == OUTPUT_ID);
        let gain_db = place.filter(|_| self.on).and_then(|i| self.values.get(i));
        gain_db.map_or(1.0, |gain_db| gain_from_db(*gain_db))
    }

    /// For about how long it remembers what has been, s: the sum of all times that are set.
    #[must_use]
    pub fn memory_s(&self) -> f64 {
        let times = self.effect.params.iter().zip(&self.values).map(|(param, value)| match param.unit {
            Unit::Ms | Unit::DelayMs | Unit::FineMs if self.effect.acts(&self.values, param) => {
                value / 1000.0
            }
            Unit::S if self.effect.acts(&self.values, param) => *value,
            _ => 0.0,
        });
        times.sum()
    }

    /// Checks a stage from a file.
    ///
    /// # Errors
    /// Refuses unknown effects, parameters and sounds, and values out of range, naming the field.
    pub fn from_document(document: &StageDocument) -> Result<Self, Refusal> {
        let effect = effects::find(&document.effect).ok_or_else(|| {
            let known: Vec<_> = effects::ALL.iter().map(|e| e.id).collect();
            Refusal::new("effect", format!("\u{201c}{}\u{201d}", document.effect), known.join(", "))
        })?;
        let mix = effect.mix.check(document.mix.unwrap_or(effect.mix.default))?;
        let values = document.params.checked(effect.params, effect.list()).map_err(|e| e.within("params"))?;
        let mut stage = Self { mix, values, ..Self::of(effect) };
        stage.on = document.on.unwrap_or(stage.on);
        stage.scope = document.scope.unwrap_or_default();
        for (id, source) in &document.sounds {
            let slot = effect.slot(id).ok_or_else(|| {
                let known: Vec<_> = effect.sounds.iter().map(|slot| slot.id).collect();
                let none = format!("none: the {} takes no sound", effect.label.to_lowercase());
                let accepted = if known.is_empty() { none } else { known.join(", ") };
                Refusal::new(
                    "sounds",
                    format!("an object with the unknown name \u{201c}{id}\u{201d}"),
                    accepted,
                )
            })?;
            let source = Source::from_document(source).map_err(|e| e.within(&format!("sounds.{id}")))?;
            if source == Source::Sent {
                let accepted = "a signal, a track or a stem";
                return Err(Refusal::new(format!("sounds.{id}.kind"), "\u{201c}sent\u{201d}", accepted));
            }
            stage.sounds[slot] = Some(Sound::of(source));
        }
        Ok(stage)
    }

    fn sounds_by(&self, write: fn(&Source) -> SourceDocument) -> BTreeMap<String, SourceDocument> {
        let slots = self.effect.sounds.iter().zip(&self.sounds);
        slots.filter_map(|(slot, sound)| Some((slot.id.to_owned(), write(&sound.as_ref()?.source)))).collect()
    }

    /// The document of this stage for the page: plain numbers, without those that are at their defaults.
    #[must_use]
    pub fn to_document(&self) -> StageDocument {
        StageDocument {
            effect: self.effect.id.to_owned(),
            on: Some(self.on),
            scope: Some(self.scope),
            mix: Some(self.mix),
            params: Values::plain(self.effect.params, &self.values),
            sounds: self.sounds_by(Source::to_document),
        }
    }

    /// The document of this stage as people read it: choices by their words, and only what is not at its default.
    #[must_use]
    pub fn to_file(&self) -> StageDocument {
        StageDocument {
            effect: self.effect.id.to_owned(),
            on: Some(self.on).filter(|on| !on),
            scope: Some(self.scope).filter(|scope| *scope != Scope::default()),
            mix: Some(self.mix).filter(|mix| *mix != self.effect.mix.default),
            params: Values::worded(self.effect.params, self.effect.list(), &self.values),
            sounds: self.sounds_by(Source::to_file),
        }
    }
}

/// The ordered stages from source to output, checked.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Path {
    /// The stages in signal-flow order.
    pub stages: Vec<Stage>,
}

/// The parameter by which an effect lets a part of its sound be heard alone.
const HEAR: &str = "hear";

impl Path {
    /// Whether only a part of the sound is heard: what a detector hears, what is taken out, the early reflections alone.
    #[must_use]
    pub fn hears_part(&self) -> bool {
        self.stages.iter().filter(|stage| stage.wet() > 0.0).any(|stage| {
            let hear = stage.effect.params.iter().zip(&stage.values).find(|(param, _)| param.id == HEAR);
            hear.is_some_and(|(param, value)| *value != param.default)
        })
    }

    /// Whether a sound that is the same on both sides may come out differently on them: a stage works on one of them or on what they have
    /// or have not in common, rings, or moves.
    #[must_use]
    pub fn parts_sides(&self, rate_hz: u32) -> bool {
        self.stages.iter().filter(|stage| stage.wet() > 0.0).any(|stage| {
            let curves = stage.effect.curves(&stage.values, rate_hz, &[]);
            stage.scope != Scope::Stereo
                || stage.effect.rings()
                || stage.effect.swing(&stage.values).is_some()
                || curves.is_some_and(|curves| curves.sums.len() > 1)
        })
    }

    /// Checks a path.
    ///
    /// # Errors
    /// Refuses too many stages, and whatever a stage refuses.
    pub fn from_document(document: &PathDocument) -> Result<Self, Refusal> {
        Self::from_stages(&document.stages)
    }

    fn from_stages(stages: &[StageDocument]) -> Result<Self, Refusal> {
        if stages.len() > MOST_STAGES {
            return Err(Refusal::new("stages", stages.len(), format!("at most {MOST_STAGES}")));
        }
        let checked = |(i, stage)| Stage::from_document(stage).map_err(|e| e.within(&format!("stages[{i}]")));
        Ok(Self { stages: stages.iter().enumerate().map(checked).collect::<Result<_, _>>()? })
    }

    /// Reads and checks the text of a path file.
    ///
    /// # Errors
    /// Refuses what is not JSON, unknown fields, another format or version, stems, which a path alone does not have, and
    /// what [`Path::from_document`] refuses.
    pub fn from_json(text: &str) -> Result<Self, Refusal> {
        let file: PathFile = parse_value(brought_up(parse_json(text)?))?;
        check_format(&file.format, PATH_FORMAT)?;
        check_version(file.version, PATH_VERSION)?;
        let path = Self::from_stages(&file.stages)?;
        path.check_stems(&[])?;
        Ok(path)
    }

    /// Refuses sounds that are stems which a bench does not have, or its shared paths, as is said of each of its stems.
    ///
    /// # Errors
    /// Names the first one.
    pub fn check_stems(&self, shared_paths: &[bool]) -> Result<(), Refusal> {
        for (i, stage) in self.stages.iter().enumerate() {
            for (slot, sound) in stage.effect.sounds.iter().zip(&stage.sounds) {
                if let Some(Sound { source: Source::Stem { place, .. }, .. }) = sound
                    && shared_paths.get(*place) != Some(&false)
                {
                    let accepted = match shared_paths.len() {
                        0 => "a source: a path by itself has no stems".to_owned(),
                        count if *place >= count => format!("0 to {}", count - 1),
                        _ => "a stem with a source of its own: what comes back from a shared path drives nothing, so that no sound goes in a circle".to_owned(),
                    };
                    return Err(Refusal::new(
                        format!("stages[{i}].sounds.{}.stem", slot.id),
                        place,
                        accepted,
                    ));
                }
            }
        }
        Ok(())
    }

    /// The same path as it is heard where it is a sound of another one: stems that it takes itself are heard before their paths, so
    /// that no two wait for each other.
    #[must_use]
    pub fn taking_stems_before(mut self) -> Self {
        for sound in self.stages.iter_mut().flat_map(|stage| stage.sounds.iter_mut().flatten()) {
            if let Source::Stem { after, .. } = &mut sound.source {
                *after = false;
            }
        }
        self
    }

    /// The same path with the samples of its sounds: `find` gives them for a slot of an effect and a source, as they are laid
    /// there ([`SoundSlot::laid`]). A sound that is not found is silent.
    #[must_use]
    pub fn with_sounds(
        mut self,
        mut find: impl FnMut(&Effect, &SoundSlot, &Source) -> Option<Arc<Buffer>>,
    ) -> Self {
        for stage in &mut self.stages {
            for (slot, sound) in stage.effect.sounds.iter().zip(&mut stage.sounds) {
                if let Some(sound) = sound {
                    sound.samples = find(stage.effect, slot, &sound.source);
                }
            }
        }
        self
    }

    /// The document of this path for the page.
    #[must_use]
    pub fn to_document(&self) -> PathDocument {
        PathDocument { stages: self.stages.iter().map(Stage::to_document).collect() }
    }

    /// The document of this path as people read it.
    #[must_use]
    pub fn to_file(&self) -> PathDocument {
        PathDocument { stages: self.stages.iter().map(Stage::to_file).collect() }
    }
}

impl From<&Path> for PathFile {
    fn from(path: &Path) -> Self {
        Self { format: PATH_FORMAT.to_owned(), version: PATH_VERSION, stages: path.to_file().stages }
    }
}
