//! The processors of a path, one after the other.

use super::{Path, Scope, Stage};
use crate::audio::{for_each_piece, sanitise};
use crate::cast;
use crate::dsp::Ramp;
use crate::effects::{MOVE_S, Processor, Setup};

/// A path that processes sound. Parameters, mixes and switches move smoothly while it runs; another
/// sequence of effects needs a new chain.
pub struct Chain {
    runners: Vec<Runner>,
    max_block: usize,
}

impl Chain {
    /// A chain for one or two channels, at rest at the settings of the path.
    #[must_use]
    pub fn new(path: &Path, setup: Setup) -> Self {
        let runners = path.stages.iter().map(|stage| Runner::new(stage, setup)).collect();
        Self { runners, max_block: setup.max_block }
    }

    /// Moves a stage to new settings; a stage that is not there is ignored. The effect must be the same.
    pub fn set(&mut self, index: usize, stage: &Stage) {
        if let Some(runner) = self.runners.get_mut(index) {
            runner.processor.set(&stage.values);
            runner.wet.set(stage.wet());
        }
    }

    /// Processes a block of one or two channels in place, any number of frames.
    pub fn process(&mut self, io: &mut [&mut [f32]]) {
        for_each_piece(io, self.max_block, |io| {
            io.iter_mut().for_each(|channel| sanitise(channel));
            for runner in &mut self.runners {
                runner.process(io);
            }
        });
    }

    /// Processes one block, of at most the prepared maximum, with one stage alone, and returns the gain
    /// that the stage reports for it.
    pub fn process_stage(&mut self, index: usize, io: &mut [&mut [f32]]) -> Option<&[f32]> {
        let runner = self.runners.get_mut(index)?;
        io.iter_mut().for_each(|channel| sanitise(channel));
        runner.process(io);
        runner.gain_db()
    }

    /// The gain reduction of a stage at the end of the last block, dB; 0 for stages that report none.
    #[must_use]
    pub fn last_gain_db(&self, index: usize) -> f32 {
        let gain = self.runners.get(index).and_then(Runner::gain_db);
        gain.and_then(|g| g.last().copied()).unwrap_or(0.0)
    }
}

/// Cuts a block in two.
fn in_two(io: &mut [&mut [f32]], at: usize, mut f: impl FnMut(&mut [&mut [f32]])) {
    match io {
        [left, right] => {
            let (left, right) = (left.split_at_mut(at), right.split_at_mut(at));
            f(&mut [left.0, right.0]);
            f(&mut [left.1, right.1]);
        }
        [mono] => {
            let (first, second) = mono.split_at_mut(at);
            f(&mut [first]);
            f(&mut [second]);
        }
        _ => {}
    }
}

/// One stage at work: scope, processor, mix.
struct Runner {
    processor: Box<dyn Processor>,
    scope: Scope,
    wet: Ramp,
    idle: bool,
    dry: [Vec<f32>; 2],
}

impl Runner {
    fn new(stage: &Stage, setup: Setup) -> Self {
        Self {
            processor: (stage.effect.build)(setup, &stage.values),
            scope: stage.scope,
            wet: Ramp::new(stage.wet(), cast::frames(MOVE_S, setup.rate_hz)),
            idle: true,
            dry: [vec![0.0; setup.max_block], vec![0.0; setup.max_block]],
        }
    }

    fn gain_db(&self) -> Option<&[f32]> {
        self.processor.gain_db().filter(|_| !self.idle)
    }

    fn process(&mut self, io: &mut [&mut [f32]]) {
        // A mix that arrives within the block: what follows is at rest, wherever blocks end.
        let moving = self.wet.left();
        if moving > 0 && moving < io.first().map_or(0, |c| c.len()) {
            in_two(io, moving, |part| self.process(part));
            return;
        }
        // Out of the path: the signal passes bit for bit, and nothing old is left for the next time.
        self.idle = self.wet.rests_at(0.0);
        if self.idle {
            self.processor.reset();
            return;
        }
        match (self.scope, io) {
            (Scope::Stereo, io) => self.process_all(io),
            (Scope::Left, [left, ..]) | (Scope::Mid, [left]) | (Scope::Right, [_, left]) => {
                self.process_all(&mut [left]);
            }
            (Scope::Mid, [left, right]) => {
                to_mid_side(left, right);
                self.process_all(&mut [left]);
                to_left_right(left, right);
            }
            (Scope::Side, [left, right]) => {
                to_mid_side(left, right);
                self.process_all(&mut [right]);
                to_left_right(left, right);
            }
            _ => self.idle = true,
        }
    }

    fn process_all(&mut self, io: &mut [&mut [f32]]) {
        if self.wet.rests_at(1.0) {
            self.processor.process(io);
        } else {
            for (dry, x) in self.dry.iter_mut().zip(io.iter()) {
                dry[..x.len()].copy_from_slice(x);
            }
            self.processor.process(io);
            let moves = self.wet.clone();
            for (dry, x) in self.dry.iter().zip(io.iter_mut()) {
                self.wet = moves.clone();
                for (x, dry) in x.iter_mut().zip(dry) {
                    // Exact at both ends, so that it makes no difference where a block ends.
                    let wet = cast::sample(self.wet.next_value());
                    *x = wet * *x + (1.0 - wet) * dry;
                }
            }
        }
        // Gains on samples of absurd size may overflow.
        io.iter_mut().for_each(|channel| sanitise(channel));
    }
}

/// Mid is half the sum, side half the difference, so that left is mid + side.
fn to_mid_side(left: &mut [f32], right: &mut [f32]) {
    for (l, r) in left.iter_mut().zip(right) {
        (*l, *r) = (0.5 * (*l + *r), 0.5 * (*l - *r));
    }
}

fn to_left_right(mid: &mut [f32], side: &mut [f32]) {
    for (m, s) in mid.iter_mut().zip(side) {
        (*m, *s) = (*m + *s, *m - *s);
    }
}
