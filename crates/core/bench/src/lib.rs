//! The bench as a document: stems, each a source with its path in numbered snapshots, and how they are listened to
//! and looked at. Most benches have one stem.

pub mod origin;
#[cfg(feature = "schema")]
pub mod schema;
mod sharing;
mod stems;

pub use stems::{CheckedStem, MOST_SNAPSHOTS, Stem};

use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use clear_bend_catalogue::document::{self, parse_json, parse_value};
use clear_bend_catalogue::{Number, Picture, Values};
use clear_bend_explaining::fan;
use clear_bend_measures::MatchBy;
use clear_bend_playing::live::Hear;
use clear_bend_playing::mix::SendsAs;
use clear_bend_playing::path::{self, Path, PathDocument, Play, brought_up};
use clear_bend_signals::{MOST_STEMS, Source, SourceDocument};
use clear_bend_sound::refusal::Refusal;
use clear_bend_sound::region::Region;

/// The `format` of a bench.
pub const BENCH_FORMAT: &str = "clear-bend-bench";

/// The version that is written; 1, with one source and one path, and 2 are read too.
pub const BENCH_VERSION: u32 = 3;

/// The rate at which benches run, Hz.
pub const BENCH_RATE_HZ: u32 = 48_000;

/// The most that a bench takes as a file, bytes: some thousand stages.
pub const LARGEST_BYTES: usize = 1_000_000;

/// How a bench is listened to.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Listening {
    /// What is heard.
    pub hear: Hear,
    /// By what after is made as loud as before.
    pub level_match: MatchBy,
    /// Whether all stems are heard, or only the one that is worked on.
    pub all_stems: bool,
    /// How what they send is heard.
    pub sends_as: SendsAs,
}

/// A fan that is open.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct FanDocument {
    /// How many values are proposed.
    pub count: usize,
    /// The values, where they were chosen by hand.
    pub values: Option<Vec<Number>>,
    /// The second parameter, which is moved so that all values reach the same amount of its outcome.
    pub same: Option<String>,
}

/// How a bench is looked at.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
pub struct View {
    /// The picture in the middle.
    pub picture: Picture,
    /// The stage whose parameters are shown.
    pub stage: usize,
    /// The stage whose picture is kept in view while others are worked on; none: the picture is of `stage`.
    pub kept: Option<usize>,
    /// The parameter that is being explained, by id.
    pub spotlight: Option<String>,
    /// The fan of the parameter in the spotlight.
    pub fan: Option<FanDocument>,
    /// Whether pictures and numbers are hidden, so that only the ears decide.
    pub hidden: bool,
    /// Whether the stages of a path that move are linked: one rate, one shape, and their phases move together.
    pub linked: bool,
}

/// A bench as it is saved.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BenchDocument {
    /// Always [`BENCH_FORMAT`].
    pub format: String,
    /// [`BENCH_VERSION`].
    pub version: u32,
    /// What plays together; at least one.
    pub stems: Vec<Stem>,
    /// The stem that is worked on.
    #[serde(default)]
    pub work: usize,
    /// The part of the sources that is played in a loop; all of them, or their first minute, where there is none.
    #[serde(default)]
    pub region: Option<Region>,
    /// Whether that goes round, or is played once with its tail.
    #[serde(default)]
    pub play: Play,
    /// A track to set against the work.
    #[serde(default)]
    pub reference: Option<SourceDocument>,
    /// How it is listened to.
    #[serde(default)]
    pub listening: Listening,
    /// How it is looked at.
    #[serde(default)]
    pub view: View,
}

impl BenchDocument {
    /// Reads and checks the text of a bench.
    ///
    /// # Errors
    /// Refuses what is not JSON, another format or version, unknown fields, and whatever a source or a path
    /// refuses, with the path to the field.
    pub fn from_json(text: &str) -> Result<Self, Refusal> {
        Self::from_value(parse_json(text)?)
    }

    /// Reads and checks a bench out of a JSON value: what the page works on, all values as plain numbers.
    ///
    /// # Errors
    /// As [`BenchDocument::from_json`].
    pub fn from_value(value: Value) -> Result<Self, Refusal> {
        let document: Self = parse_value(migrated(value))?;
        document.check()?;
        document.written(Source::to_document, Path::to_document)
    }

    /// The bench as people read it: choices by their words, bands as lists, and no values that are at their defaults.
    ///
    /// # Errors
    /// Those of [`BenchDocument::check`].
    pub fn to_file(&self) -> Result<Self, Refusal> {
        self.written(Source::to_file, Path::to_file)
    }

    /// The same bench with its sources and paths written anew.
    fn written(
        &self,
        source: fn(&Source) -> SourceDocument,
        path: fn(&Path) -> PathDocument,
    ) -> Result<Self, Refusal> {
        let source = |document: &SourceDocument| Ok::<_, Refusal>(source(&Source::from_document(document)?));
        let mut anew = self.clone();
        for stem in &mut anew.stems {
            stem.source = source(&stem.source)?;
            for snapshot in &mut stem.snapshots {
                *snapshot = path(&Path::from_document(snapshot)?);
            }
        }
        anew.reference = anew.reference.as_ref().map(source).transpose()?;
        Ok(anew)
    }

    /// The stem that is worked on.
    ///
    /// # Errors
    /// Refuses a bench without it.
    pub fn stem_at_work(&self) -> Result<&Stem, Refusal> {
        let accepted = || format!("0 to {}", self.stems.len().saturating_sub(1));
        self.stems.get(self.work).ok_or_else(|| Refusal::new("work", self.work, accepted()))
    }

    /// Checks everything that the types do not, and gives the checked stems.
    ///
    /// # Errors
    /// As [`BenchDocument::from_json`].
    pub fn check(&self) -> Result<Vec<CheckedStem>, Refusal> {
        document::check_format(&self.format, BENCH_FORMAT)?;
        document::check_version(self.version, BENCH_VERSION)?;
        if !(1..=MOST_STEMS).contains(&self.stems.len()) {
            return Err(Refusal::new("stems", self.stems.len(), format!("1 to {MOST_STEMS}")));
        }
        let stems = stems::check(&self.stems)?;
        self.stem_at_work()?;
        self.region.map(|r| r.check().map_err(|e| e.within("region"))).transpose()?;
        let played = |source| Source::from_document(source).and_then(Source::by_itself);
        let reference = self.reference.as_ref().map(played);
        reference.transpose().map_err(|e| e.within("reference"))?;
        self.check_view(&stems[self.work].path).map_err(|e| e.within("view"))?;
        let bytes = serde_json::to_vec(self).map_or(usize::MAX, |text| text.len());
        if bytes > LARGEST_BYTES {
            let accepted =
                format!("at most {} kB; fewer snapshots, stages or bands take less", LARGEST_BYTES / 1000);
            return Err(Refusal::new("bench", format!("{} kB", bytes.div_ceil(1000)), accepted));
        }
        Ok(stems)
    }

    fn check_view(&self, path: &Path) -> Result<(), Refusal> {
        let view = &self.view;
        let last = path.stages.len().max(1) - 1;
        for (field, stage) in [("stage", Some(view.stage)), ("kept", view.kept)] {
            if let Some(beyond) = stage.filter(|stage| *stage > last) {
                return Err(Refusal::new(field, beyond, format!("0 to {last}")));
            }
        }
        if let (Some(id), Some(stage)) = (&view.spotlight, path.stages.get(view.stage)) {
            let known: Vec<_> = stage.effect.all_params().map(|p| p.id).collect();
            if !known.contains(&id.as_str()) {
                return Err(Refusal::new("spotlight", format!("\u{201c}{id}\u{201d}"), known.join(", ")));
            }
        }
        if let Some(fan) = &view.fan {
            fan::check_count(fan.values.as_ref().map_or(fan.count, Vec::len)).map_err(|e| e.within("fan"))?;
        }
        Ok(())
    }

    /// A new bench: the demo loop through one compressor at its default settings.
    #[must_use]
    pub fn fresh() -> Self {
        let stage = path::Stage::of(clear_bend_effects::ALL[0]);
        let kind = clear_bend_signals::ALL[0];
        let source = SourceDocument::of_kind(kind.id, Values::default());
        let spotlight = stage.effect.order.first().map(|step| step.param.to_owned());
        Self {
            format: BENCH_FORMAT.to_owned(),
            version: BENCH_VERSION,
            stems: vec![Stem::new(source, Path { stages: vec![stage] }.to_document())],
            work: 0,
            region: None,
            play: Play::Round,
            reference: None,
            listening: Listening { level_match: MatchBy::Loudness, ..Listening::default() },
            view: View {
                picture: Picture::OverTime,
                stage: 0,
                kept: None,
                spotlight,
                fan: None,
                hidden: false,
                linked: false,
            },
        }
    }
}

/// A bench of version 1 or 2 as one of today; any other value as it is.
fn migrated(mut value: Value) -> Value {
    let version = value.get("version").and_then(Value::as_u64).filter(|version| (1..=2).contains(version));
    let (Some(version), Some(old)) = (version, value.as_object_mut()) else { return value };
    old.insert("version".to_owned(), json!(BENCH_VERSION));
    if version == 1 && old.contains_key("source") {
        let (source, path) = (old.remove("source"), old.remove("path"));
        old.insert("stems".to_owned(), json!([{"source": source, "snapshots": [path]}]));
        if let Some(listening) = old.get_mut("listening").and_then(Value::as_object_mut) {
            let by = if listening.get("level_match") == Some(&json!(false)) { "off" } else { "loudness" };
            listening.insert("level_match".to_owned(), json!(by));
            listening.insert("all_stems".to_owned(), json!(false));
        }
    }
    let stems = old.get_mut("stems").and_then(Value::as_array_mut).into_iter().flatten();
    let snapshots = stems.filter_map(|stem| stem.get_mut("snapshots")?.as_array_mut()).flatten();
    for snapshot in snapshots {
        // Each was a path file of its own.
        *snapshot = brought_up(snapshot.take());
        if let Some(fields) = snapshot.as_object_mut() {
            fields.retain(|field, _| field != "format" && field != "version");
        }
    }
    value
}
