//! The signal path: its document, its checked form, and the chain of processors that runs it.

mod chain;
mod differences;
mod document;
mod key;

pub use chain::Chain;
pub use differences::{Difference, differences};
pub use document::{PATH_FORMAT, PATH_VERSION, PathDocument, StageDocument};
pub use key::{Key, key_samples};

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::Buffer;
use crate::catalogue::Unit;
use crate::document::{
    check_format, check_version, parse_json, values_from_document, values_of_version, values_to_document,
};
use crate::effects::{self, Effect, OUTPUT_ID};
use crate::level::gain_from_db;
use crate::refusal::Refusal;
use crate::signals::Source;

/// The most stages that a path may have.
pub const MOST_STAGES: usize = 64;

/// Which part of a stereo signal a stage works on. On a mono signal, `stereo`, `left` and `mid` are all of
/// it, `right` and `side` are empty.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Scope {
    /// Both channels, with one detector.
    #[default]
    Stereo,
    /// The left channel only.
    Left,
    /// The right channel only.
    Right,
    /// Half the sum of left and right.
    Mid,
    /// Half the difference of left and right.
    Side,
}

impl Scope {
    /// The word on the screen.
    #[must_use]
    pub fn label(self) -> &'static str {
        match self {
            Self::Stereo => "stereo",
            Self::Left => "left",
            Self::Right => "right",
            Self::Mid => "mid",
            Self::Side => "side",
        }
    }
}

/// How a passage goes through a path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
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
    /// What drives its detector; the signal itself where there is none.
    pub key: Option<Key>,
}

impl Stage {
    /// An effect with its default values, or those given by parameter id.
    ///
    /// # Errors
    /// Refuses unknown parameters and values out of range.
    pub fn new(effect: &'static Effect, params: &[(&str, f64)]) -> Result<Self, Refusal> {
        let params = params.iter().map(|&(id, v)| (id.to_owned(), crate::catalogue::Number(v))).collect();
        let values = values_from_document(effect.params, &params)?;
        Ok(Self { effect, on: true, scope: Scope::Stereo, mix: 1.0, values, key: None })
    }

    /// An effect at its default settings.
    #[must_use]
    pub fn of(effect: &'static Effect) -> Self {
        let values = effect.params.iter().map(|p| p.default).collect();
        Self { effect, on: true, scope: Scope::Stereo, mix: effect.mix.default, values, key: None }
    }

    /// The same stage as it is measured: switched on, on all of the signal, going by its own level.
    #[must_use]
    pub fn alone(&self) -> Self {
        Self { on: true, scope: Scope::Stereo, key: None, ..self.clone() }
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
            Unit::Ms if self.effect.acts(&self.values, param) => value / 1000.0,
            Unit::S if self.effect.acts(&self.values, param) => *value,
            _ => 0.0,
        });
        times.sum()
    }

    /// Checks a stage from a file of a version.
    ///
    /// # Errors
    /// Refuses unknown effects, unknown parameters and values out of range, naming the field.
    pub fn from_document(document: &StageDocument, version: u32) -> Result<Self, Refusal> {
        let effect = effects::find(&document.effect).ok_or_else(|| {
            let known: Vec<_> = effects::ALL.iter().map(|e| e.id).collect();
            Refusal::new("effect", format!("\u{201c}{}\u{201d}", document.effect), known.join(", "))
        })?;
        let mix = effect.mix.check(document.mix)?;
        let values = values_of_version(effect.params, &document.params, version)?;
        if document.key.is_some() && !effect.takes_key() {
            return Err(Refusal::new(
                "key",
                "a source",
                format!("none: the {} has no detector", effect.label.to_lowercase()),
            ));
        }
        let source = document.key.as_ref().map(Source::from_document).transpose();
        let source = source.map_err(|e| e.within("key"))?;
        let key = source.map(|source| Key { source, samples: Arc::from([]) });
        Ok(Self { effect, on: document.on, scope: document.scope, mix, values, key })
    }
}

/// The ordered stages from source to output, checked.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Path {
    /// The stages in signal-flow order.
    pub stages: Vec<Stage>,
}

impl Path {
    /// Checks a path from a file.
    ///
    /// # Errors
    /// Refuses another format or version, too many stages, and whatever a stage refuses.
    pub fn from_document(document: &PathDocument) -> Result<Self, Refusal> {
        check_format(&document.format, PATH_FORMAT)?;
        if document.version != 1 {
            check_version(document.version, PATH_VERSION)?;
        }
        if document.stages.len() > MOST_STAGES {
            return Err(Refusal::new("stages", document.stages.len(), format!("at most {MOST_STAGES}")));
        }
        let stages = document.stages.iter().enumerate();
        let stages = stages
            .map(|(i, stage)| {
                Stage::from_document(stage, document.version).map_err(|e| e.within(&format!("stages[{i}]")))
            })
            .collect::<Result<_, _>>()?;
        Ok(Self { stages })
    }

    /// Reads and checks the text of a path file.
    ///
    /// # Errors
    /// Refuses what is not JSON, unknown fields, and what [`Path::from_document`] refuses.
    pub fn from_json(text: &str) -> Result<Self, Refusal> {
        Self::from_document(&parse_json(text)?)
    }

    /// The same path with the samples of its keys, for a passage of so many frames; `find` gives the sound of a source
    /// as it plays with the passage. A key that is not found is silent.
    #[must_use]
    pub fn with_keys(mut self, frames: usize, mut find: impl FnMut(&Source) -> Option<Buffer>) -> Self {
        for key in self.stages.iter_mut().filter_map(|stage| stage.key.as_mut()) {
            key.samples =
                find(&key.source).map_or_else(|| Arc::from([]), |sound| key_samples(&sound, frames));
        }
        self
    }

    /// The document of this path, with every value written out.
    #[must_use]
    pub fn to_document(&self) -> PathDocument {
        PathDocument {
            format: PATH_FORMAT.to_owned(),
            version: PATH_VERSION,
            stages: self
                .stages
                .iter()
                .map(|stage| StageDocument {
                    effect: stage.effect.id.to_owned(),
                    on: stage.on,
                    scope: stage.scope,
                    mix: stage.mix,
                    params: values_to_document(stage.effect.params, &stage.values),
                    key: stage.key.as_ref().map(|key| key.source.to_document()),
                })
                .collect(),
        }
    }
}
