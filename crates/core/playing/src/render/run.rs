//! A path over a passage, again and again while its settings move: what comes before the first stage that has changed is not run
//! again.

use std::borrow::Cow;
use std::sync::Arc;

use super::rendered::{BLOCK, LONGEST_TAIL_S, Moved, Rendered, SHORT_BLOCK};
use super::stage::{once, round};
use crate::path::{Chain, Path, Play, Stage};
use clear_bend_effects::Setup;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

/// So many samples are kept between the stages: with more, only every second or third signal is, from which the next ones are
/// made again.
const KEPT: usize = 32 << 20;
/// It has ended when it is this far under the loudest sample that is left after the passage, or under the loudest of the passage, linear
/// (60 and 100 dB): a room that is mixed in quietly rings as long as one that is loud.
const TAIL_ENDS: (f32, f32) = (1e-3, 1e-5);

/// What has been made of a passage by the stages of a path, and what has been read off it between them.
#[derive(Debug)]
pub struct Run<T = ()> {
    /// How many samples may be kept.
    kept: usize,
    /// Whether tails are kept down to silence.
    whole: bool,
    play: Play,
    /// Frames that every stage is run over: the passage and, if it is played once, room for a tail.
    long: usize,
    steps: Vec<Step<T>>,
}

/// A stage that has been run.
#[derive(Debug)]
struct Step<T> {
    stage: Stage,
    /// The signal that leaves it, if it is kept.
    out: Option<Buffer>,
    moved: Arc<Vec<Moved>>,
    ahead: usize,
    tail: usize,
    seen: Option<T>,
}

/// A path that is being run over a passage, stage by stage. It belongs to the [`Run`] that has begun it, which does nothing else
/// meanwhile.
pub struct Underway {
    chain: Chain,
    /// What is still to be run when it begins.
    stages: Vec<Stage>,
    tails: Vec<usize>,
    /// What leaves the last stage that has been run.
    signal: Buffer,
    /// Frames of the passage.
    frames: usize,
    every: usize,
    /// How many stages had been run before.
    start: usize,
}

/// Reads something off the passage before and after a stage.
pub type Look<T> = fn(&Stage, &Buffer, &Buffer) -> T;

impl<T> Default for Run<T> {
    fn default() -> Self {
        Self { kept: KEPT, whole: false, play: Play::default(), long: 0, steps: Vec::new() }
    }
}

impl<T> Run<T> {
    /// One that keeps at most so many samples between the stages.
    #[must_use]
    pub fn keeping(samples: usize) -> Self {
        Self { kept: samples, ..Self::default() }
    }

    /// One that keeps nothing, and follows what is left after the end down to silence, for what is added up or runs on.
    #[must_use]
    pub fn whole() -> Self {
        Self { whole: true, ..Self::keeping(0) }
    }

    /// Forgets what has been run: that belongs to one passage.
    pub fn forget(&mut self) {
        self.steps.clear();
    }

    /// Runs a path over the passage; calls `after_stage` with the passage after each stage that is run but the last of the path.
    pub fn render(
        &mut self,
        path: &Path,
        before: &Buffer,
        play: Play,
        mut after_stage: impl FnMut(&Buffer),
    ) -> Rendered {
        let mut underway = self.begin(path, before, play);
        let (all, frames) = (path.stages.len(), before.frames());
        while self.advance(&mut underway, None) {
            if self.steps.len() < all {
                after_stage(&passage_of(&underway.signal, frames));
            }
        }
        self.end(underway)
    }

    /// Begins to run a path over the passage, stage by stage, with what has been run of it already.
    #[must_use]
    pub fn begin(&mut self, path: &Path, before: &Buffer, play: Play) -> Underway {
        let frames = before.frames();
        let setup = setup_for(before, play);
        let same = self.steps.iter().zip(&path.stages).take_while(|(step, stage)| step.stage == **stage);
        let same = if play == self.play { same.count() } else { 0 };
        let mut start = self.steps[..same].iter().rposition(|step| step.out.is_some()).map_or(0, |at| at + 1);
        let mut chain = Chain::new(&Path { stages: path.stages[start..].to_vec() }, setup);
        let long = if play == Play::Once {
            let tails = self.steps[..start].iter().map(|step| step.tail);
            let tail = tails.fold(chain.tail(), usize::saturating_add);
            frames + tail.min(cast::frames(LONGEST_TAIL_S, setup.rate_hz))
        } else {
            frames
        };
        if long != self.long && start > 0 {
            start = 0;
            chain = Chain::new(path, setup);
        }
        (self.play, self.long) = (play, long);
        chain.set_passage(play, frames);
        let entering = self.steps[..start].last().and_then(|step| step.out.as_ref());
        let mut signal = entering.unwrap_or(before).clone();
        signal.resize(long);
        self.steps.truncate(start);
        let stages = &path.stages[start..];
        let size = long * before.channels().len();
        // Of so many signals, the last one is kept.
        let every =
            if self.kept == 0 { usize::MAX } else { (path.stages.len() * size).div_ceil(self.kept).max(1) };
        Underway {
            tails: (0..stages.len()).map(|index| chain.tail_of(index)).collect(),
            stages: stages.to_vec(),
            chain,
            signal,
            frames,
            every,
            start,
        }
    }

    /// Runs one stage more; false where all have been run. Where not everything that leaves a stage is kept, `look` reads each at once.
    pub fn advance(&mut self, underway: &mut Underway, look: Option<Look<T>>) -> bool {
        let Underway { stages, chain, signal, tails, frames, every, start } = underway;
        let index = self.steps.len() - *start;
        let Some(stage) = stages.get(index) else { return false };
        let entering = look.filter(|_| *every > 1).map(|look| (look, signal.clone()));
        let moved = run_stage(chain, index, signal, self.play);
        self.steps.push(Step {
            stage: stage.clone(),
            out: (self.steps.len() + 1).is_multiple_of(*every).then(|| signal.clone()),
            moved: Arc::new(moved),
            ahead: chain.ahead_of(index),
            tail: tails[index],
            seen: entering.map(|(look, entering)| {
                look(stage, &passage_of(&entering, *frames), &passage_of(signal, *frames))
            }),
        });
        true
    }

    /// How many stages are still to be run.
    #[must_use]
    pub fn left(&self, underway: &Underway) -> usize {
        underway.start + underway.stages.len() - self.steps.len()
    }

    /// What a path has made of the passage once all its stages have been run.
    #[must_use]
    pub fn end(&self, underway: Underway) -> Rendered {
        let Underway { mut signal, frames, .. } = underway;
        if self.steps.is_empty() {
            signal.channels_mut().iter_mut().for_each(|channel| clear_bend_sound::audio::sanitise(channel));
        }
        let left = if self.whole { self.long - frames } else { tail_frames(&signal, frames) };
        let tail = signal.slice(frames..frames + left);
        signal.resize(frames);
        Rendered {
            after: signal,
            tail,
            ahead: self.steps.iter().map(|step| step.ahead).collect(),
            moved: self.steps.iter().map(|step| Arc::clone(&step.moved)).collect(),
        }
    }

    /// What is read off the passage before and after a stage that has been run, read once; none where there is no such stage.
    pub fn seen(
        &mut self,
        stage: usize,
        before: &Buffer,
        read: impl FnOnce(&Stage, &Buffer, &Buffer) -> T,
    ) -> Option<&T> {
        if self.steps.get(stage)?.seen.is_none() {
            let [entering, leaving] = [stage, stage + 1].map(|count| self.after(count, before));
            let [entering, leaving] = [&entering, &leaving].map(|signal| passage_of(signal, before.frames()));
            let seen = read(&self.steps[stage].stage, &entering, &leaving);
            self.steps[stage].seen = Some(seen);
        }
        self.steps[stage].seen.as_ref()
    }

    /// The signal after the first so many stages; what is not kept is made again.
    fn after<'a>(&'a self, count: usize, before: &'a Buffer) -> Cow<'a, Buffer> {
        let kept = self.steps[..count].iter().rposition(|step| step.out.is_some()).map_or(0, |at| at + 1);
        let from = self.steps[..kept].last().and_then(|step| step.out.as_ref()).unwrap_or(before);
        if kept == count {
            return Cow::Borrowed(from);
        }
        let mut signal = from.clone();
        signal.resize(self.long);
        let stages = self.steps[kept..count].iter().map(|step| step.stage.clone()).collect();
        let mut chain = Chain::new(&Path { stages }, setup_for(before, self.play));
        chain.set_passage(self.play, before.frames());
        for index in 0..count - kept {
            drop(run_stage(&mut chain, index, &mut signal, self.play));
        }
        Cow::Owned(signal)
    }
}

/// Whole passages come in long blocks. A round is cut at its seam: a short one comes in many short blocks, for which long pieces would be
/// made anew each time.
fn setup_for(before: &Buffer, play: Play) -> Setup {
    let short = play == Play::Round && before.frames() <= SHORT_BLOCK;
    Setup { rate_hz: before.rate_hz(), max_block: if short { SHORT_BLOCK } else { BLOCK } }
}

/// The passage in a signal, without room for a tail.
fn passage_of(signal: &Buffer, frames: usize) -> Cow<'_, Buffer> {
    if signal.frames() == frames { Cow::Borrowed(signal) } else { Cow::Owned(signal.slice(0..frames)) }
}

/// Runs one stage over a signal.
fn run_stage(chain: &mut Chain, index: usize, signal: &mut Buffer, play: Play) -> Vec<Moved> {
    match play {
        Play::Once => once(chain, index, signal),
        Play::Round => round(chain, index, signal),
    }
}

/// For how many frames after the passage what is left has not ended.
pub fn tail_frames(signal: &Buffer, frames: usize) -> usize {
    let channels = signal.channels();
    let loudest = |x: &[f32]| x.iter().fold(0.0, |most: f32, x| most.max(x.abs()));
    let (before, left) = channels.iter().fold((0.0f32, 0.0f32), |(before, left), channel| {
        (before.max(loudest(&channel[..frames])), left.max(loudest(&channel[frames..])))
    });
    let ends = (TAIL_ENDS.0 * left).max(TAIL_ENDS.1 * before);
    let heard = |x: &f32| x.abs() > ends;
    channels.iter().filter_map(|c| Some(c[frames..].iter().rposition(heard)? + 1)).max().unwrap_or(0)
}
