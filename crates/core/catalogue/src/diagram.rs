//! The block diagram of an effect, as data.

use serde::Serialize;

/// One block: a step on the way from input to output.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Block {
    /// What it does, in a word or two.
    pub label: &'static str,
    /// The parameters that act in it, by id.
    pub params: &'static [&'static str],
    /// Whether it works beside the signal (reads the level, makes the gain) rather than on it.
    pub beside: bool,
}

/// The blocks of an effect in the order in which the signal meets them. Those beside the signal form one row of
/// their own: the first is fed by the input, the last acts on the next block in the signal's row.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Diagram {
    /// All blocks.
    pub blocks: &'static [Block],
    /// The block at which the row beside comes back, by its label; the one that follows it where nothing is said.
    pub joins: Option<&'static str>,
}
