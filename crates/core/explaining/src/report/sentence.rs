//! Sentences, as they are said of a passage.

use serde::Serialize;

/// A sentence whose measured numbers are set apart.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Sentence(pub Vec<Span>);

/// A stretch of a sentence.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Span {
    /// The words.
    pub text: String,
    /// Whether they are a measured number.
    pub number: bool,
}

impl Sentence {
    /// A sentence in which measured numbers stand between asterisks.
    pub(super) fn marked(text: &str) -> Self {
        let spans = text.split('*').enumerate().filter(|(_, text)| !text.is_empty());
        Self(spans.map(|(i, text)| Span { text: text.to_owned(), number: i % 2 == 1 }).collect())
    }
}

impl std::fmt::Display for Sentence {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.iter().try_for_each(|span| f.write_str(&span.text))
    }
}

/// What is said of a level match, by each way of matching.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct MatchSentences {
    /// The place of such a sentence among the others.
    pub at: usize,
    /// By loudness.
    pub loudness: Sentence,
    /// By RMS level.
    pub rms: Sentence,
    /// By peak level.
    pub peak: Sentence,
    /// Not matched.
    pub off: Sentence,
}
