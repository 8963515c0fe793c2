//! In what two paths differ.

use serde::Serialize;

use super::{Path, Stage};

/// One setting in which two paths differ.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Difference {
    /// The stage, from 1.
    pub stage: usize,
    /// The effect there.
    pub effect: String,
    /// What differs: a parameter, the switch, the scope, or the stage as a whole.
    pub label: String,
    /// How the one has it.
    pub one: String,
    /// How the other has it.
    pub other: String,
}

/// Every setting in which two paths differ, stage by stage.
#[must_use]
pub fn differences(one: &Path, other: &Path) -> Vec<Difference> {
    let stages = one.stages.len().max(other.stages.len());
    (0..stages).flat_map(|i| between(i, one.stages.get(i), other.stages.get(i))).collect()
}

fn between(index: usize, one: Option<&Stage>, other: Option<&Stage>) -> Vec<Difference> {
    let name = |stage: Option<&Stage>| stage.map_or("none".to_owned(), |s| s.effect.label.to_owned());
    let difference = |label: &str, a: String, b: String| Difference {
        stage: index + 1,
        effect: name(one.or(other)),
        label: label.to_owned(),
        one: a,
        other: b,
    };
    let (Some(a), Some(b)) = (one, other) else { return vec![difference("Stage", name(one), name(other))] };
    if a.effect != b.effect {
        return vec![difference("Stage", name(one), name(other))];
    }
    let mut found = Vec::new();
    if a.on != b.on {
        let text = |on: bool| if on { "on" } else { "off" }.to_owned();
        found.push(difference("Switch", text(a.on), text(b.on)));
    }
    if a.scope != b.scope {
        found.push(difference("Scope", a.scope.word().to_owned(), b.scope.word().to_owned()));
    }
    let values = |stage: &Stage| stage.values.iter().copied().chain([stage.mix]).collect::<Vec<_>>();
    for (param, (x, y)) in a.effect.all_params().zip(values(a).into_iter().zip(values(b))) {
        if x != y {
            found.push(difference(param.label, param.text(x), param.text(y)));
        }
    }
    found
}
