//! A passage after a path: what came out, and what moved on the way.

use std::borrow::Cow;
use std::sync::Arc;

use clear_bend_effects::Quantity;
use clear_bend_sound::Buffer;

/// Frames per block. The result does not depend on it but for the last bits of a convolution, which is quickest in blocks of this
/// length; a block of stereo stays in the second cache.
pub(super) const BLOCK: usize = clear_bend_sound::dsp::WHOLE;
/// And of one that is a short round.
pub(super) const SHORT_BLOCK: usize = 512;

/// What is left after the end is followed for at most this long, s.
pub const LONGEST_TAIL_S: f64 = 30.0;

/// A passage after a path.
#[derive(Debug, Clone)]
pub struct Rendered {
    /// The signal that leaves the path, as long as the passage.
    pub after: Buffer,
    /// What is left after the end, until it is 60 dB under the loudest that is left, or 100 dB under that of the passage, or 30 s are over; nothing
    /// in a round.
    pub tail: Buffer,
    /// By how many frames the gain of every stage may move before the sound does that moves it.
    pub ahead: Vec<usize>,
    /// What every stage has moved, at least over the passage and its tail.
    pub(super) moved: Vec<Arc<Vec<Moved>>>,
}

/// What a stage has moved over time.
#[derive(Debug, Clone, PartialEq)]
pub struct Moved {
    /// What it is.
    pub quantity: Quantity,
    /// 0 for the whole stage, or the number of its band, voice or section, from 1.
    pub part: usize,
    /// Its value at every frame.
    pub values: Vec<f32>,
}

impl Rendered {
    /// The signal that leaves the path, and its tail after it.
    #[must_use]
    pub fn with_tail(&self) -> Cow<'_, Buffer> {
        if self.tail.frames() == 0 {
            return Cow::Borrowed(&self.after);
        }
        let mut whole = self.after.clone();
        for (channel, tail) in whole.channels_mut().iter_mut().zip(self.tail.channels()) {
            channel.extend_from_slice(tail);
        }
        Cow::Owned(whole)
    }

    /// The gain reduction of a stage over the passage, dB per frame; none for stages that report none or were switched off.
    #[must_use]
    pub fn gain_db(&self, stage: usize) -> Option<&[f32]> {
        self.gain_with_tail_db(stage)?.get(..self.after.frames())
    }

    /// The same with that over the tail after it.
    #[must_use]
    pub fn gain_with_tail_db(&self, stage: usize) -> Option<&[f32]> {
        let whole = self.of(stage).find(|moved| moved.quantity == Quantity::GainDb && moved.part == 0)?;
        whole.values.get(..self.after.frames() + self.tail.frames())
    }

    /// The gain reduction of every band of a stage over the passage, dB per frame; nothing for stages without bands.
    pub fn band_gains_db(&self, stage: usize) -> impl Iterator<Item = &[f32]> {
        let bands = self.of(stage).filter(|moved| moved.quantity == Quantity::GainDb && moved.part > 0);
        bands.filter_map(|moved| moved.values.get(..self.after.frames()))
    }

    /// What else a stage has moved over the passage: delays and frequencies, with the numbers of their parts.
    pub fn moved(&self, stage: usize) -> impl Iterator<Item = (Quantity, usize, &[f32])> {
        let others = self.of(stage).filter(|moved| moved.quantity != Quantity::GainDb);
        others
            .filter_map(|moved| Some((moved.quantity, moved.part, moved.values.get(..self.after.frames())?)))
    }

    fn of(&self, stage: usize) -> impl Iterator<Item = &Moved> {
        self.moved.get(stage).into_iter().flat_map(|moved| moved.iter())
    }
}
