//! The one error of the core: a value that is not accepted.

/// What was refused: which field, what was found there, and what would be accepted.
///
/// Shown as one sentence, e.g. `stages[0].params.ratio is 0.5; accepted: 1 to inf`.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{field} is {found}; accepted: {accepted}")]
pub struct Refusal {
    /// Path to the field, e.g. `stages[0].params.ratio`.
    pub field: String,
    /// The value that was found, as text.
    pub found: String,
    /// What is accepted there, as text.
    pub accepted: String,
}

impl Refusal {
    /// A refusal of the value `found` at `field`.
    pub fn new(field: impl Into<String>, found: impl ToString, accepted: impl Into<String>) -> Self {
        Self { field: field.into(), found: found.to_string(), accepted: accepted.into() }
    }

    /// The same refusal seen from further out: `params.ratio` inside `stages[0]`.
    #[must_use]
    pub fn within(mut self, outer: &str) -> Self {
        self.field = if self.field.is_empty() {
            outer.to_owned()
        } else if self.field.starts_with('[') {
            format!("{outer}{}", self.field)
        } else {
            format!("{outer}.{}", self.field)
        };
        self
    }
}

/// So many names are offered in place of an unknown one.
const OFFERED: usize = 4;

/// The names that are most like an unknown one, nearest first (J. Winkler, 1990), and how many more there are.
#[must_use]
pub fn nearest<'a>(unknown: &str, known: impl Iterator<Item = &'a str>) -> String {
    let mut known: Vec<&str> = known.collect();
    known.sort_by(|a, b| strsim::jaro_winkler(b, unknown).total_cmp(&strsim::jaro_winkler(a, unknown)));
    let more = known.len().saturating_sub(OFFERED);
    let offered = known.into_iter().take(OFFERED).collect::<Vec<_>>().join(", ");
    if more == 0 { offered } else { format!("{offered} and {more} others") }
}
