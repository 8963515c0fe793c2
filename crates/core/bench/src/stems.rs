//! The stems of a bench, and what of them only fits together.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use clear_bend_playing::mix::{LEVEL, MOST_SHARED, Send, Strip};
use clear_bend_playing::path::{Path, PathDocument};
use clear_bend_signals::{SENT, Source, SourceDocument};
use clear_bend_sound::refusal::Refusal;

/// The most snapshots of a stem.
pub const MOST_SNAPSHOTS: usize = 99;

/// One part of what plays together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Stem {
    /// What is played.
    pub source: SourceDocument,
    /// The numbered states of its path; at least one.
    pub snapshots: Vec<PathDocument>,
    /// The snapshot that is worked on.
    #[serde(default)]
    pub snapshot: usize,
    /// How it sits among the others.
    #[serde(default)]
    pub strip: Strip,
    /// What it sends to shared paths.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "typescript", ts(as = "Option<Vec<Send>>", optional))]
    pub sends: Vec<Send>,
}

/// A stem that has been checked.
#[derive(Debug, Clone, PartialEq)]
pub struct CheckedStem {
    /// What is played.
    pub source: Source,
    /// What it runs through.
    pub path: Path,
    /// How it sits among the others.
    pub strip: Strip,
    /// What it sends to shared paths.
    pub sends: Vec<Send>,
}

impl CheckedStem {
    /// Whether it is a shared path.
    #[must_use]
    pub fn is_shared(&self) -> bool {
        self.source == Source::Sent
    }
}

/// Checks the stems of a bench.
///
/// # Errors
/// Refuses what each of them refuses, shared paths alone or too many of them, sends that lead nowhere or in a circle, and two values
/// of what a bench has once.
pub(super) fn check(stems: &[Stem]) -> Result<Vec<CheckedStem>, Refusal> {
    let shared_paths: Vec<bool> = stems.iter().map(Stem::is_shared).collect();
    let count = shared_paths.iter().filter(|shared| **shared).count();
    if count > MOST_SHARED {
        return Err(Refusal::new("stems", format!("{count} shared paths"), format!("at most {MOST_SHARED}")));
    }
    if count == stems.len() {
        return Err(Refusal::new(
            "stems",
            "shared paths alone",
            "at least one stem with a source of its own",
        ));
    }
    let mut shared = Shared::default();
    let stems = stems.iter().enumerate();
    stems
        .map(|(i, stem)| stem.check(&shared_paths, &mut shared).map_err(|e| e.within(&format!("stems[{i}]"))))
        .collect()
}

impl Stem {
    /// A stem with one snapshot.
    #[must_use]
    pub fn new(source: SourceDocument, path: PathDocument) -> Self {
        Self { source, snapshots: vec![path], snapshot: 0, strip: Strip::default(), sends: Vec::new() }
    }

    /// Whether it is a shared path, which plays what the others send to it.
    #[must_use]
    pub fn is_shared(&self) -> bool {
        self.source.kind == SENT
    }

    fn check(&self, shared_paths: &[bool], shared: &mut Shared) -> Result<CheckedStem, Refusal> {
        let source = Source::from_document(&self.source).map_err(|e| e.within("source"))?;
        if !self.is_shared() {
            source.clone().by_itself().map_err(|e| e.within("source"))?;
        }
        let count = self.snapshots.len();
        if !(1..=MOST_SNAPSHOTS).contains(&count) {
            return Err(Refusal::new("snapshots", count, format!("1 to {MOST_SNAPSHOTS}")));
        }
        let paths = self.snapshots.iter().enumerate();
        let mut paths = paths
            .map(|(i, path)| {
                let path = Path::from_document(path)
                    .and_then(|path| path.check_stems(shared_paths).map(|()| path))
                    .and_then(|path| shared.check(&path).map(|()| path));
                path.map_err(|e| e.within(&format!("snapshots[{i}]")))
            })
            .collect::<Result<Vec<_>, _>>()?;
        if self.snapshot >= count {
            return Err(Refusal::new("snapshot", self.snapshot, format!("0 to {}", count - 1)));
        }
        self.strip.check().map_err(|e| e.within("strip"))?;
        self.check_sends(shared_paths)?;
        let (path, sends) = (paths.swap_remove(self.snapshot), self.sends.clone());
        Ok(CheckedStem { source, path, strip: self.strip, sends })
    }

    fn check_sends(&self, shared_paths: &[bool]) -> Result<(), Refusal> {
        if self.is_shared() && !self.sends.is_empty() {
            let none = "none: a shared path comes back into the sum and sends nothing on, so that no sound goes in a circle";
            return Err(Refusal::new("sends", self.sends.len(), none));
        }
        for (i, send) in self.sends.iter().enumerate() {
            let refused = |accepted: String| Refusal::new(format!("sends[{i}].to"), send.to, accepted);
            if shared_paths.get(send.to) != Some(&true) {
                let places = (0..shared_paths.len()).filter(|place| shared_paths[*place]);
                let places: Vec<_> = places.map(|place| place.to_string()).collect();
                let none = "nothing: no stem of this bench is a shared path".to_owned();
                return Err(refused(if places.is_empty() { none } else { places.join(", ") }));
            }
            if self.sends[..i].iter().any(|other| other.to == send.to) {
                return Err(refused("each shared path once".to_owned()));
            }
            LEVEL.check(send.level_db).map_err(|e| e.within(&format!("sends[{i}]")))?;
        }
        Ok(())
    }
}

/// The values that a bench has once, by parameter, as they have been found.
#[derive(Default)]
struct Shared(BTreeMap<&'static str, f64>);

impl Shared {
    /// Refuses a path in which one of them is another one.
    fn check(&mut self, path: &Path) -> Result<(), Refusal> {
        for (i, stage) in path.stages.iter().enumerate() {
            let shared = stage.effect.params.iter().zip(&stage.values).filter(|(param, _)| param.shared);
            for (param, value) in shared {
                let known = *self.0.entry(param.id).or_insert(*value);
                if known != *value {
                    let accepted = format!("{known}, as everywhere on this bench");
                    let refusal = Refusal::new(param.id, value, accepted);
                    return Err(refusal.within(&format!("stages[{i}].params")));
                }
            }
        }
        Ok(())
    }
}
