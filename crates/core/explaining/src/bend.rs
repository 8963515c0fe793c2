//! The bend: an outcome measured over the whole range of one parameter, all else as it stands.

use serde::{Deserialize, Serialize};

use crate::outcomes::{self, Reach, Readable};
use clear_bend_catalogue::{Number, Outcome, Param};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::Run;
use clear_bend_sound::Refusal;
use clear_bend_sound::refusal::nearest;

/// The usual number of points of a bend: fine enough to see where it turns over.
pub const USUAL_POINTS: usize = 17;

/// The most points of a bend.
pub const MOST_POINTS: usize = 200;

/// One point of a bend.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct BendPoint {
    /// Value of the parameter.
    pub value: Number,
    /// The outcome there; none where the passage does not show it.
    pub outcome: Option<f64>,
}

/// A parameter of a stage whose bend is wanted.
#[derive(Debug, Clone)]
pub struct BendOf {
    path: Path,
    stage: usize,
    /// Place of the parameter in the catalogue; none for the mix.
    place: Option<usize>,
    /// The parameter.
    pub param: Param,
    /// What is measured.
    pub outcome: Outcome,
}

impl BendOf {
    /// Finds a parameter, or the mix, of a stage of a path.
    ///
    /// # Errors
    /// Refuses a stage or a parameter that is not there, and one that has no outcome.
    pub fn new(path: &Path, stage: usize, param: &str) -> Result<Self, Refusal> {
        let refuse_stage = || {
            let accepted = format!("0 to {}", path.stages.len().saturating_sub(1));
            Refusal::new(
                "stage",
                stage,
                if path.stages.is_empty() { "a path with a stage".into() } else { accepted },
            )
        };
        let effect = path.stages.get(stage).ok_or_else(refuse_stage)?.effect;
        let place = effect.params.iter().position(|p| p.id == param);
        let found = effect.all_params().find(|p| p.id == param).copied();
        let refuse_param = || {
            let near = nearest(param, effect.all_params().map(|p| p.id));
            Refusal::new("param", format!("\u{201c}{param}\u{201d}"), near)
        };
        let found = found.ok_or_else(refuse_param)?;
        let outcome = found.outcome.ok_or_else(refuse_param)?;
        Ok(Self { path: path.clone(), stage, place, param: found, outcome })
    }

    /// Whether another path has the same bend, because it differs in nothing on which that depends but the parameter itself.
    #[must_use]
    pub fn is_that_of(&self, path: &Path) -> bool {
        let other = Self { path: path.clone(), ..self.clone() };
        self.read_at(self.param.default) == other.read_at(self.param.default)
    }

    /// As much of the path, with another value of the parameter, as the outcome depends on, and the place of the stage in it.
    fn read_at(&self, value: f64) -> (Path, usize) {
        let mut path = self.path_at(value);
        match Reach::of(&self.outcome) {
            Reach::Alone => {
                let stage = path.stages.drain(..).nth(self.stage);
                (Path { stages: stage.into_iter().collect() }, 0)
            }
            Reach::UpTo => {
                path.stages.truncate(self.stage + 1);
                (path, self.stage)
            }
            Reach::Path => (path, self.stage),
        }
    }

    /// The value of the parameter as it stands.
    #[must_use]
    pub fn value(&self) -> f64 {
        let stage = self.path.stages.get(self.stage);
        stage.map_or(self.param.default, |s| self.place.map_or(s.mix, |i| s.values[i]))
    }

    /// The path with another value of the parameter.
    #[must_use]
    pub fn path_at(&self, value: f64) -> Path {
        let mut path = self.path.clone();
        if let Some(Stage { values, mix, .. }) = path.stages.get_mut(self.stage) {
            *self.place.and_then(|i| values.get_mut(i)).unwrap_or(mix) = value;
        }
        path
    }

    /// The outcome at one value: at most one run of the passage through what comes after the last stage that has not changed.
    #[must_use]
    pub fn point<T>(&self, run: &mut Run<T>, passage: &Passage, value: f64) -> BendPoint {
        let (path, stage) = self.read_at(value);
        let outcome = if Reach::of(&self.outcome) == Reach::Alone {
            outcomes::read(&self.outcome, &Readable::new(&path, passage, stage))
        } else {
            let rendered = run.render(&path, &passage.buffer, passage.play, |_| {});
            outcomes::read(&self.outcome, &Readable::of(&rendered, &path, passage, stage))
        };
        BendPoint { value: Number(value), outcome }
    }

    /// The values at which a bend of so many points is measured: evenly along the control, ends included.
    pub fn values(&self, points: usize) -> impl Iterator<Item = f64> {
        let param = self.param;
        // A choice has one point for each of its values.
        let points =
            if param.choices.is_empty() { points.clamp(2, MOST_POINTS) } else { param.choices.len() };
        let last = points - 1;
        (0..=last).map(move |i| {
            param.place_value(clear_bend_sound::cast::real(i) / clear_bend_sound::cast::real(last))
        })
    }

    /// The whole bend.
    #[must_use]
    pub fn measure(&self, passage: &Passage, points: usize) -> Vec<BendPoint> {
        let mut run = Run::<()>::default();
        self.values(points).map(|value| self.point(&mut run, passage, value)).collect()
    }
}
