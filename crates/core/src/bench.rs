//! The bench as a document: a source, a path, and how they are listened to and looked at.

use serde::{Deserialize, Serialize};

use crate::catalogue::Picture;
use crate::path::{self, Path, PathDocument, parse_json};
use crate::refusal::Refusal;
use crate::signals::{Source, SourceDocument};

/// The `format` of a bench.
pub const BENCH_FORMAT: &str = "clear-bend-bench";

/// The rate at which benches run, Hz.
pub const BENCH_RATE_HZ: u32 = 48_000;

/// What is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Hear {
    /// The source untouched.
    Before,
    /// The source through the path, matched in level if that is on.
    #[default]
    After,
    /// After (as matched) minus before.
    Difference,
}

/// How a bench is listened to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Listening {
    /// What is heard.
    pub hear: Hear,
    /// Whether after is brought to the loudness of before.
    pub level_match: bool,
}

/// How a bench is looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct View {
    /// The picture in the middle.
    pub picture: Picture,
    /// The stage whose parameters are shown.
    pub stage: usize,
    /// The parameter that is being explained, by id.
    pub spotlight: Option<String>,
}

/// A bench as it is saved.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct BenchDocument {
    /// Always [`BENCH_FORMAT`].
    pub format: String,
    /// Always 1 so far.
    pub version: u32,
    /// What is played.
    pub source: SourceDocument,
    /// What it runs through.
    pub path: PathDocument,
    /// How it is listened to.
    pub listening: Listening,
    /// How it is looked at.
    pub view: View,
}

impl BenchDocument {
    /// Reads and checks the text of a bench.
    ///
    /// # Errors
    /// Refuses what is not JSON, another format or version, unknown fields, and whatever the source or
    /// the path refuses, with the path to the field.
    pub fn from_json(text: &str) -> Result<Self, Refusal> {
        let document: Self = parse_json(text)?;
        document.check()?;
        Ok(document)
    }

    /// Checks everything that the types do not.
    ///
    /// # Errors
    /// As [`BenchDocument::from_json`].
    pub fn check(&self) -> Result<(Source, Path), Refusal> {
        path::check_format(&self.format, BENCH_FORMAT, self.version)?;
        let source = Source::from_document(&self.source).map_err(|e| e.within("source"))?;
        let path = Path::from_document(&self.path).map_err(|e| e.within("path"))?;
        let stages = path.stages.len();
        if self.view.stage >= stages.max(1) {
            return Err(Refusal::new("view.stage", self.view.stage, format!("0 to {}", stages.max(1) - 1)));
        }
        if let (Some(id), Some(stage)) = (&self.view.spotlight, path.stages.get(self.view.stage)) {
            let params = stage.effect.params.iter().chain([&stage.effect.mix]);
            let known: Vec<_> = params.map(|p| p.id).collect();
            if !known.contains(&id.as_str()) {
                return Err(Refusal::new(
                    "view.spotlight",
                    format!("\u{201c}{id}\u{201d}"),
                    known.join(", "),
                ));
            }
        }
        Ok((source, path))
    }

    /// A new bench: the demo loop through one compressor at its default settings.
    #[must_use]
    pub fn fresh() -> Self {
        let effect = crate::effects::ALL[0];
        let values = effect.params.iter().map(|p| p.default).collect::<Vec<_>>();
        let kind = crate::signals::ALL[0];
        let defaults = kind.params.iter().map(|p| p.default).collect::<Vec<_>>();
        let stage =
            path::Stage { effect, on: true, scope: path::Scope::Stereo, mix: effect.mix.default, values };
        Self {
            format: BENCH_FORMAT.to_owned(),
            version: path::VERSION,
            source: SourceDocument {
                kind: kind.id.to_owned(),
                params: path::values_to_document(kind.params, &defaults),
            },
            path: Path { stages: vec![stage] }.to_document(),
            listening: Listening { hear: Hear::After, level_match: true },
            view: View { picture: Picture::OverTime, stage: 0, spotlight: Some("threshold_db".to_owned()) },
        }
    }
}
