//! A path over a whole passage, as it is measured and exported.

use crate::Buffer;
use crate::effects::Setup;
use crate::measures::Reduction;
use crate::path::{Chain, Path};

/// Frames per block. The result does not depend on it; this keeps a block of stereo in the first cache.
const BLOCK: usize = 512;

/// A passage after a path.
#[derive(Debug, Clone)]
pub struct Rendered {
    /// The signal that leaves the path.
    pub after: Buffer,
    /// The gain reduction of every stage over time, dB per frame; none for stages that report none or that
    /// were switched off.
    pub gains_db: Vec<Option<Vec<f32>>>,
    /// The gain reduction of every band of every stage over time, dB per frame; empty for stages without bands.
    pub band_gains_db: Vec<Vec<Vec<f32>>>,
    /// By how many frames the gain of every stage may move before the sound does that moves it.
    pub ahead: Vec<usize>,
}

impl Rendered {
    /// Summary of the gain reduction of a stage; none where it reports none.
    #[must_use]
    pub fn reduction(&self, stage: usize, onsets: &[usize]) -> Option<Reduction> {
        let gain = self.gains_db.get(stage)?.as_deref()?;
        Some(Reduction::of(gain, onsets, self.ahead[stage], self.after.rate_hz()))
    }

    /// The same of one band of a stage.
    #[must_use]
    pub fn band_reduction(&self, stage: usize, band: usize, onsets: &[usize]) -> Option<Reduction> {
        let gain = self.band_gains_db.get(stage)?.get(band)?;
        Some(Reduction::of(gain, onsets, self.ahead[stage], self.after.rate_hz()))
    }
}

/// Runs a path, from rest, over a passage; calls `after_stage` with the signal after each stage but the last.
pub fn render_with(path: &Path, before: &Buffer, mut after_stage: impl FnMut(&Buffer)) -> Rendered {
    let mut chain = Chain::new(path, Setup { rate_hz: before.rate_hz(), max_block: BLOCK });
    let mut signal = before.clone();
    let last = path.stages.len().saturating_sub(1);
    let mut gains_db = Vec::with_capacity(path.stages.len());
    let mut band_gains_db = Vec::with_capacity(path.stages.len());
    for index in 0..path.stages.len() {
        // What the stage delays is put back in its place, so that before and after stay aligned.
        let late = chain.latency_of(index);
        signal.channels_mut().iter_mut().for_each(|channel| channel.extend(std::iter::repeat_n(0.0, late)));
        let mut gain: Option<Vec<f32>> = None;
        let mut bands: Vec<Vec<f32>> = Vec::new();
        let mut at = 0;
        signal.for_each_block(BLOCK, |io| {
            let from = at;
            at += io.first().map_or(0, |c| c.len());
            if let Some(block) = chain.process_stage(index, io, from) {
                gain.get_or_insert_with(|| Vec::with_capacity(before.frames())).extend_from_slice(block);
                // A stage at rest has no bands at work.
                bands.resize(chain.bands_of(index), Vec::new());
                for (i, band) in bands.iter_mut().enumerate() {
                    band.extend_from_slice(chain.band_gain_db(index, i));
                }
            }
        });
        signal
            .channels_mut()
            .iter_mut()
            .chain(&mut gain)
            .chain(&mut bands)
            .for_each(|samples| drop(samples.drain(..late)));
        gains_db.push(gain);
        band_gains_db.push(bands);
        if index < last {
            after_stage(&signal);
        }
    }
    if path.stages.is_empty() {
        signal.channels_mut().iter_mut().for_each(|channel| crate::audio::sanitise(channel));
    }
    let ahead = (0..path.stages.len()).map(|index| chain.ahead_of(index)).collect();
    Rendered { after: signal, gains_db, band_gains_db, ahead }
}

/// Runs a path, from rest, over a passage.
#[must_use]
pub fn render(path: &Path, before: &Buffer) -> Rendered {
    render_with(path, before, |_| {})
}
