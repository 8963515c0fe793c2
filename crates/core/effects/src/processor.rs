//! The moving part of an effect: what it is made from, and what it promises.

use std::sync::Arc;

use super::around::Around;
use clear_bend_sound::Buffer;
use clear_bend_sound::scope::Scope;

/// What a processor is prepared for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Setup {
    /// Sample rate, Hz.
    pub rate_hz: u32,
    /// The largest number of frames in one call of [`Processor::process`].
    pub max_block: usize,
}

/// What a processor is made from.
#[derive(Debug, Clone, Copy)]
pub struct Plan<'a> {
    /// Rate and block.
    pub setup: Setup,
    /// Values in catalogue order.
    pub values: &'a [f64],
    /// The sounds of its whole slots, in the order of its slots; none where they are not at hand, and for those that run
    /// in step with the passage.
    pub sounds: &'a [Option<Arc<Buffer>>],
    /// What part of the signal it works on: of all but stereo it gets one channel.
    pub scope: Scope,
    /// Where it plays for the ear, its place among those that run side by side: what is heavy is then made by
    /// [`Processor::prepare`], and at another time than that of the others. None where it is measured: all is there at once.
    pub turn: Option<usize>,
}

impl<'a> Plan<'a> {
    /// For measuring, without sounds.
    #[must_use]
    pub fn plain(setup: Setup, values: &'a [f64]) -> Self {
        Self { setup, values, sounds: &[], scope: Scope::Stereo, turn: None }
    }
}

/// What an effect moves over time, and reports for every frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Quantity {
    /// A gain that goes with the level: the reduction, without any fixed gain, dB; 0 or negative.
    GainDb,
    /// A delay, ms.
    DelayMs,
    /// A frequency, Hz.
    FreqHz,
}

impl Quantity {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::GainDb, Self::DelayMs, Self::FreqHz];
}

/// The moving part of an effect.
///
/// The result does not depend on how the signal is cut into blocks, and nothing allocates, locks or
/// calls the system in `process`.
pub trait Processor: Send {
    /// Moves to new values, smoothly.
    fn set(&mut self, values: &[f64]);

    /// Processes one block of one or two channels in place; every channel has the same length, at most
    /// the prepared maximum.
    fn process(&mut self, io: &mut [&mut [f32]], around: &Around);

    /// Back to the state just after it was made.
    fn reset(&mut self);

    /// Makes a part of what is heavy, in a time that a block can spare; called between blocks, where it plays for the ear.
    /// Says whether there was anything to do.
    fn prepare(&mut self) -> bool {
        false
    }

    /// Whether it can be heard: what it cannot be without is made.
    fn ready(&self) -> bool {
        true
    }

    /// Frames by which the output lags behind the input; the same as long as it lives.
    fn latency(&self) -> usize {
        0
    }

    /// Frames by which its gain may move before the sound does that moves it: its lookahead.
    fn ahead(&self) -> usize {
        0
    }

    /// Frames for which what has entered is heard after it has ended, until it is 60 dB down, as it is set now, or [`ENDLESS`].
    /// Those that are late because they look ahead with a symmetrical filter ring no longer than they are late.
    fn tail(&self) -> usize {
        self.latency()
    }

    /// What lies under the processed signal below full mix: gets the untouched signal of the last block, as late as
    /// the processed one, and changes it in place where something else belongs there.
    fn lay_under(&self, _dry: &mut [&mut [f32]]) {}

    /// What it has moved over the last block, frame by frame: part 0 is that of the whole, 1 and on are those of its bands,
    /// voices or sections, as many as it has.
    fn trace(&self, _quantity: Quantity, _part: usize) -> Option<&[f32]> {
        None
    }
}

/// How long a moved parameter takes to arrive, in seconds: short enough to feel immediate, long enough
/// not to click.
pub const MOVE_S: f64 = 0.02;

/// The tail of what never ends.
pub const ENDLESS: usize = usize::MAX;
