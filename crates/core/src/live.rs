//! Playing a bench for the ear: source, loop, path, switching, level match, meters, safety.
//!
//! One [`Live`] runs in the browser's audio thread. Control calls may allocate; [`Live::process`] does not.

mod meters;
mod safety;

pub use meters::Meters;

use crate::bench::Hear;
use crate::cast;
use crate::dsp::Ramp;
use crate::effects::{MOVE_S, Setup};
use crate::level::gain_from_db;
use crate::path::{Chain, Path, Stage};
use crate::{Buffer, Refusal};
use meters::Metering;
use safety::Safety;

/// Length of the fades between before, after and difference, and of those around jumps, s.
const FADE_S: f64 = 0.01;

/// The live bench.
pub struct Live {
    setup: Setup,
    source: Buffer,
    region: std::ops::Range<usize>,
    position: usize,
    stages: Vec<Stage>,
    chain: Chain,
    playing: bool,
    /// Open while sound runs; closes around every jump.
    gate: Ramp,
    pending: Pending,
    /// What is heard is `before * before_share + after * match_gain * after_share`.
    before_share: Ramp,
    after_share: Ramp,
    match_gain: Ramp,
    before: [Vec<f32>; 2],
    after: [Vec<f32>; 2],
    /// One block of gate, share of before, share of after, and match gain.
    shares: [Vec<f32>; 4],
    metering: Metering,
    safety: Safety,
}

/// Changes that wait for the gate to close. Once done, it holds what was replaced, so that freeing it is
/// left to the next control call.
#[derive(Default)]
struct Pending {
    due: bool,
    seek: Option<usize>,
    source: Option<Buffer>,
    chain: Option<(Vec<Stage>, Chain)>,
}

impl Live {
    /// A silent live bench with an empty path.
    ///
    /// # Errors
    /// Refuses a rate outside [`crate::audio::RATES_HZ`].
    pub fn new(setup: Setup) -> Result<Self, Refusal> {
        let fade = cast::frames(FADE_S, setup.rate_hz);
        let block = || [vec![0.0; setup.max_block], vec![0.0; setup.max_block]];
        Ok(Self {
            setup,
            source: Buffer::new(setup.rate_hz, vec![Vec::new(); 2])?,
            region: 0..0,
            position: 0,
            stages: Vec::new(),
            chain: Chain::new(&Path::default(), setup),
            playing: false,
            gate: Ramp::new(0.0, fade),
            pending: Pending::default(),
            before_share: Ramp::new(0.0, fade),
            after_share: Ramp::new(1.0, fade),
            match_gain: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            before: block(),
            after: block(),
            shares: [(); 4].map(|()| vec![0.0; setup.max_block]),
            metering: Metering::new(setup.rate_hz),
            safety: Safety::new(setup.rate_hz),
        })
    }

    /// Plays another source, all of it, from its start.
    pub fn set_source(&mut self, source: Buffer) {
        self.change().source = Some(source);
    }

    /// Plays through another path. Where only values differ, use [`Live::set_param`] instead.
    pub fn set_path(&mut self, path: &Path) {
        let chain = Chain::new(path, self.setup);
        self.change().chain = Some((path.stages.clone(), chain));
    }

    /// Moves one parameter, by its place in the catalogue.
    ///
    /// # Errors
    /// Refuses a stage or a parameter that is not there and a value out of range.
    pub fn set_param(&mut self, stage: usize, param: usize, value: f64) -> Result<(), Refusal> {
        self.change_stage(stage, |stage| {
            let entry = stage.effect.params.get(param);
            let entry = entry.ok_or_else(|| Refusal::new("param", param, "a place in the catalogue"))?;
            stage.values[param] = entry.check(value)?;
            Ok(())
        })
    }

    /// Moves the mix of a stage and switches it on or off.
    ///
    /// # Errors
    /// Refuses a stage that is not there and a mix out of range.
    pub fn set_mix(&mut self, stage: usize, mix: f64, on: bool) -> Result<(), Refusal> {
        self.change_stage(stage, |stage| {
            stage.mix = stage.effect.mix.check(mix)?;
            stage.on = on;
            Ok(())
        })
    }

    /// Chooses what is heard, with a short cross-fade.
    pub fn set_hear(&mut self, hear: Hear) {
        let (before, after) = match hear {
            Hear::Before => (1.0, 0.0),
            Hear::After => (0.0, 1.0),
            Hear::Difference => (-1.0, 1.0),
        };
        self.before_share.set(before);
        self.after_share.set(after);
    }

    /// Sets the gain of the level match, dB; 0 for none. Values that are not finite count as 0.
    pub fn set_match_gain_db(&mut self, gain_db: f64) {
        self.match_gain.set(if gain_db.is_finite() { gain_from_db(gain_db) } else { 1.0 });
    }

    /// Starts or pauses.
    pub fn set_playing(&mut self, playing: bool) {
        self.playing = playing;
    }

    /// Goes to a time in the source, in seconds.
    pub fn seek(&mut self, seconds: f64) {
        self.change().seek = Some(cast::frames(seconds, self.setup.rate_hz));
    }

    /// The meters since the last call.
    pub fn read_meters(&mut self) -> Meters {
        let position_s = cast::real(self.position) / f64::from(self.setup.rate_hz);
        self.metering.read(position_s, self.playing)
    }

    /// Writes the next block, at most the prepared maximum of frames.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        let n = left.len().min(right.len()).min(self.setup.max_block);
        self.gate.set(if self.playing && !self.pending.due { 1.0 } else { 0.0 });
        if self.gate.rests_at(0.0) {
            self.apply_pending();
            self.gate.set(if self.playing { 1.0 } else { 0.0 });
        }
        if self.gate.rests_at(0.0) || self.region.is_empty() {
            left.fill(0.0);
            right.fill(0.0);
            self.metering.rest(n);
            return;
        }
        self.copy_source(n);
        let [before_left, before_right] = &mut self.before;
        let [after_left, after_right] = &mut self.after;
        let (before_left, before_right) = (&mut before_left[..n], &mut before_right[..n]);
        let (after_left, after_right) = (&mut after_left[..n], &mut after_right[..n]);
        after_left.copy_from_slice(before_left);
        after_right.copy_from_slice(before_right);
        self.chain.process(&mut [&mut *after_left, &mut *after_right]);
        let [gate, b, a, gain] = &mut self.shares;
        let (gate, b, a, gain) = (&mut gate[..n], &mut b[..n], &mut a[..n], &mut gain[..n]);
        self.gate.fill(gate);
        self.before_share.fill(b);
        self.after_share.fill(a);
        self.match_gain.fill(gain);
        let sides =
            [(&mut *left, &*before_left, &mut *after_left), (right, &*before_right, &mut *after_right)];
        for (out, before, after) in sides {
            after.iter_mut().zip(&*gain).for_each(|(x, gain)| *x *= gain);
            for ((out, gate), ((b, before), (a, after))) in
                out.iter_mut().zip(&*gate).zip(b.iter().zip(before).zip(a.iter().zip(&*after)))
            {
                *out = gate * (b * before + a * after);
            }
        }
        self.metering.see([before_left, before_right], [after_left, after_right], [&left[..n], &right[..n]]);
        self.metering.see_gain((0..self.stages.len()).map(|i| self.chain.last_gain_db(i)).sum());
        self.safety.process(&mut left[..n], &mut right[..n]);
    }

    /// The changes to be done when the gate has closed. Drops what earlier changes have replaced.
    fn change(&mut self) -> &mut Pending {
        if !self.pending.due {
            self.pending = Pending { due: true, ..Pending::default() };
        }
        &mut self.pending
    }

    fn apply_pending(&mut self) {
        if !self.pending.due {
            return;
        }
        self.pending.due = false;
        if let Some(source) = &mut self.pending.source {
            std::mem::swap(source, &mut self.source);
            self.region = 0..self.source.frames();
            self.position = 0;
        }
        if let Some((stages, chain)) = &mut self.pending.chain {
            std::mem::swap(stages, &mut self.stages);
            std::mem::swap(chain, &mut self.chain);
        }
        if let Some(frame) = self.pending.seek {
            self.position = frame.clamp(self.region.start, self.region.end.max(1) - 1);
        }
    }

    /// Changes the newest version of a stage: the one that runs, or the one that waits.
    fn change_stage(
        &mut self,
        index: usize,
        change: impl FnOnce(&mut Stage) -> Result<(), Refusal>,
    ) -> Result<(), Refusal> {
        let waiting = self.pending.chain.as_mut().filter(|_| self.pending.due);
        let (stages, chain) = waiting.map_or((&mut self.stages, &mut self.chain), |(s, c)| (s, c));
        let stage = stages.get_mut(index);
        let stage = stage.ok_or_else(|| Refusal::new("stage", index, "a stage of the path"))?;
        change(stage)?;
        chain.set(index, stage);
        Ok(())
    }

    /// Copies the next frames of the loop into `before` and moves on.
    fn copy_source(&mut self, frames: usize) {
        let channels = self.source.channels();
        let right = channels.len() - 1;
        let mut done = 0;
        while done < frames {
            let run = (frames - done).min(self.region.end - self.position);
            let (from, to) = (self.position..self.position + run, done..done + run);
            self.before[0][to.clone()].copy_from_slice(&channels[0][from.clone()]);
            self.before[1][to].copy_from_slice(&channels[right][from]);
            done += run;
            self.position += run;
            if self.position >= self.region.end {
                self.position = self.region.start;
            }
        }
    }
}
