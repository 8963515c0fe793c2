//! The processors of a path, one after the other.

use std::sync::Arc;

use super::{Path, Play, Sound, Stage};
use clear_bend_catalogue::SoundSlot;
use clear_bend_effects::{Around, MOVE_S, Plan, Processor, Quantity, Setup, SoundBlock};
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::{for_each_piece, sanitise, stretch};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, Ramp};
use clear_bend_sound::scope::Scope;

/// A path that processes sound. Parameters, mixes and switches move smoothly while it runs; another
/// sequence of effects needs a new chain.
pub struct Chain {
    runners: Vec<Runner>,
    max_block: usize,
    rate_hz: u32,
    passage: Passage,
}

impl Chain {
    /// A chain for one or two channels, at rest at the settings of the path.
    #[must_use]
    pub fn new(path: &Path, setup: Setup) -> Self {
        Self::of(path, setup, None)
    }

    /// The same for the ear, by its place among those that run side by side: what is heavy is made by [`Chain::prepare`], and
    /// until it is [`Chain::ready`], nothing should be heard of it.
    #[must_use]
    pub fn in_turn(path: &Path, setup: Setup, turn: usize) -> Self {
        Self::of(path, setup, Some(turn))
    }

    fn of(path: &Path, setup: Setup, turn: Option<usize>) -> Self {
        let runners = path.stages.iter().map(|stage| Runner::new(stage, setup, turn)).collect();
        Self { runners, max_block: setup.max_block, rate_hz: setup.rate_hz, passage: Passage::default() }
    }

    /// Makes a part of what is heavy in it, in a time that a block can spare. Says whether there was anything to do.
    pub fn prepare(&mut self) -> bool {
        self.runners.iter_mut().any(|runner| runner.processor.prepare())
    }

    /// Whether it can be heard.
    #[must_use]
    pub fn ready(&self) -> bool {
        self.runners.iter().all(|runner| runner.processor.ready())
    }

    /// Moves a stage to new settings; a stage that is not there is ignored. The effect must be the same.
    pub fn set(&mut self, index: usize, stage: &Stage) {
        if let Some(runner) = self.runners.get_mut(index) {
            let begins = runner.rests() && stage.wet() > 0.0;
            runner.processor.set(&stage.values);
            runner.fresh = false;
            if begins {
                runner.begin(self.rate_hz);
            }
            runner.wet.set(stage.wet());
            runner.laid.set(laid(stage));
            runner.output.set(stage.output_gain());
            runner.times = cast::frames(stage.memory_s(), self.rate_hz);
        }
    }

    /// Gives a stage the sound of a slot, as it is laid there, or none. A slot that is not there is ignored, and so is one
    /// whose sound is needed whole: for that, the chain is made anew. Returns what need no longer be kept, so that it can be
    /// freed elsewhere.
    pub fn set_sound(
        &mut self,
        index: usize,
        slot: usize,
        sound: Option<Arc<Buffer>>,
    ) -> Option<Arc<Buffer>> {
        match self.runners.get_mut(index).and_then(|runner| runner.sounds.get_mut(slot)) {
            Some(running) => std::mem::replace(running, sound),
            None => sound,
        }
    }

    /// How the passage is played, and how many frames it has; 0 where it has no end, which it has not until this is called.
    pub fn set_passage(&mut self, play: Play, frames: usize) {
        self.passage = Passage { play, frames };
    }

    /// Back to rest at once.
    pub fn reset(&mut self) {
        self.runners.iter_mut().for_each(Runner::reset);
    }

    /// Processes a block of one or two channels in place, any number of frames; the first of them is the frame `at`
    /// of the passage.
    pub fn process(&mut self, io: &mut [&mut [f32]], at: usize) {
        self.process_late(io, at, 0);
    }

    /// The same of a signal that comes in so many frames late already.
    pub fn process_late(&mut self, io: &mut [&mut [f32]], at: usize, already_late: usize) {
        let mut done = 0;
        for_each_piece(io, self.max_block, |io| {
            let n = io.first().map_or(0, |c| c.len());
            io.iter_mut().for_each(|channel| sanitise(channel));
            let mut late = already_late;
            for runner in &mut self.runners {
                let mut from = 0;
                while from < n {
                    let place = self.passage.place(at + done + from, late);
                    let end = n.min(from + self.passage.until_seam(place));
                    stretch(io, from..end, |io| runner.run(io, place));
                    from = end;
                }
                late += runner.latency();
            }
            done += n;
        });
    }

    /// Processes one block, of at most the prepared maximum, with one stage alone. The first frame of the block is the
    /// frame `at` of the passage; it does not go over the seam of a loop.
    pub fn process_stage(&mut self, index: usize, io: &mut [&mut [f32]], at: usize) {
        let place = self.passage.place(at, 0);
        if let Some(runner) = self.runners.get_mut(index) {
            io.iter_mut().for_each(|channel| sanitise(channel));
            runner.run(io, place);
        }
    }

    /// What a stage has moved over its last block, frame by frame: as a whole (part 0), or one of its parts. None where it
    /// moves nothing of the kind, and while it is at rest.
    #[must_use]
    pub fn trace(&self, index: usize, quantity: Quantity, part: usize) -> Option<&[f32]> {
        self.runners.get(index)?.trace(quantity, part)
    }

    /// By how many frames the gain of a stage may move before the sound does that moves it.
    #[must_use]
    pub fn ahead_of(&self, index: usize) -> usize {
        self.runners.get(index).map_or(0, |runner| runner.processor.ahead())
    }

    /// Frames for which a stage is heard after its input has ended; 0 where it is at rest.
    #[must_use]
    pub fn tail_of(&self, index: usize) -> usize {
        self.runners.get(index).filter(|runner| !runner.rests()).map_or(0, |runner| runner.processor.tail())
    }

    /// Frames for which a stage remembers what has been: its tail, and all times that are set.
    #[must_use]
    pub fn memory_of(&self, index: usize) -> usize {
        let runner = self.runners.get(index).filter(|runner| !runner.rests());
        runner.map_or(0, |runner| runner.processor.tail().saturating_add(runner.times))
    }

    /// Frames for which the whole path is heard after its input has ended, or [`clear_bend_effects::ENDLESS`].
    #[must_use]
    pub fn tail(&self) -> usize {
        (0..self.runners.len()).map(|index| self.tail_of(index)).fold(0, usize::saturating_add)
    }

    /// Frames by which a stage delays the signal, also while it is switched off.
    #[must_use]
    pub fn latency_of(&self, index: usize) -> usize {
        self.runners.get(index).map_or(0, Runner::latency)
    }

    /// Frames by which the whole path delays the signal.
    #[must_use]
    pub fn latency(&self) -> usize {
        self.runners.iter().map(Runner::latency).sum()
    }

    /// The gain reduction of a stage at the end of the last block, dB; 0 for stages that report none.
    #[must_use]
    pub fn last_gain_db(&self, index: usize) -> f32 {
        let gain = self.trace(index, Quantity::GainDb, 0);
        gain.and_then(|gain| gain.last().copied()).unwrap_or(0.0)
    }
}

/// What is known of the passage.
#[derive(Debug, Clone, Copy, Default)]
struct Passage {
    play: Play,
    frames: usize,
}

impl Passage {
    fn goes_round(self) -> bool {
        self.play == Play::Round && self.frames > 0
    }

    /// The place that belongs to a signal which is so late, when the passage has come to a frame.
    fn place(self, at: usize, late: usize) -> i64 {
        if self.goes_round() {
            let at = at + self.frames - late % self.frames;
            return cast::whole(cast::real(at % self.frames));
        }
        cast::whole(cast::real(at) - cast::real(late))
    }

    /// How many frames it is from a place to the seam.
    fn until_seam(self, place: i64) -> usize {
        if self.goes_round() { self.frames - cast::after(place) } else { usize::MAX / 2 }
    }
}

/// How much of what the processor lays under itself is wanted: nothing where only the untouched signal is.
fn laid(stage: &Stage) -> f64 {
    f64::from(u8::from(stage.wet() > 0.0))
}

/// A stage that comes out of rest is held back for at most this much longer than it is late, s: delays that are meant to be heard one
/// by one need not have been.
const LONGEST_HOLD_S: f64 = 0.05;

/// One stage at work: scope, processor, mix.
struct Runner {
    processor: Box<dyn Processor>,
    scope: Scope,
    wet: Ramp,
    /// Share of what the processor lays under itself in what is under it: all of it, or nothing on the way to the
    /// untouched signal alone.
    laid: Ramp,
    /// Gain after the mix, linear.
    output: Ramp,
    /// The sum of all times that are set, frames.
    times: usize,
    /// The sounds that run in step with the passage, by slot, and each over one block.
    sounds: Vec<Option<Arc<Buffer>>>,
    beside: Vec<SoundBlock>,
    idle: bool,
    /// Out of rest, sound comes into the processor by this, so that no echo of it has an edge.
    entering: Ramp,
    /// Frames until all that it gives has come in so; until then, only the untouched signal is heard.
    held: usize,
    /// Whether the processor is as a reset leaves it.
    fresh: bool,
    /// The untouched signal, as late as the processed one.
    dry: [Vec<f32>; 2],
    /// What lies under the processed signal below full mix.
    under: [Vec<f32>; 2],
    delays: [Delay; 2],
}

impl Runner {
    fn new(stage: &Stage, setup: Setup, turn: Option<usize>) -> Self {
        let samples = |whole: bool| {
            let slots = stage.effect.sounds.iter().zip(&stage.sounds);
            let one = move |(slot, sound): (&SoundSlot, &Option<Sound>)| {
                let sound = sound.as_ref().filter(|_| slot.whole == whole)?;
                // One whose samples are not at hand is silent.
                let silent = || (!whole).then(|| Arc::new(Buffer::empty(setup.rate_hz)));
                sound.samples.clone().or_else(silent)
            };
            slots.map(one).collect::<Vec<_>>()
        };
        let plan = Plan { setup, values: &stage.values, sounds: &samples(true), scope: stage.scope, turn };
        let processor = (stage.effect.build)(&plan);
        let delay = Delay::new(processor.latency());
        Self {
            processor,
            scope: stage.scope,
            wet: Ramp::new(stage.wet(), cast::frames(MOVE_S, setup.rate_hz)),
            laid: Ramp::new(laid(stage), cast::frames(MOVE_S, setup.rate_hz)),
            output: Ramp::new(stage.output_gain(), cast::frames(MOVE_S, setup.rate_hz)),
            times: cast::frames(stage.memory_s(), setup.rate_hz),
            sounds: samples(false),
            beside: vec![SoundBlock::new(setup.max_block); stage.effect.sounds.len()],
            idle: true,
            entering: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            held: 0,
            fresh: true,
            dry: [vec![0.0; setup.max_block], vec![0.0; setup.max_block]],
            under: [vec![0.0; setup.max_block], vec![0.0; setup.max_block]],
            delays: [delay.clone(), delay],
        }
    }

    fn latency(&self) -> usize {
        self.delays[0].frames()
    }

    /// Gets ready to be heard after a rest. Until a processor that looks ahead or delays has been through what it looks ahead or
    /// delays, it gives silence, and what comes after that begins with an edge: a click.
    fn begin(&mut self, rate_hz: u32) {
        self.entering = Ramp::new(0.0, self.entering.length());
        self.entering.set(1.0);
        let delays = self.processor.tail().min(cast::frames(LONGEST_HOLD_S, rate_hz));
        self.held = self.latency() + self.entering.length() + delays;
    }

    fn reset(&mut self) {
        self.processor.reset();
        self.fresh = true;
        self.held = 0;
        self.entering.settle();
        self.delays.iter_mut().for_each(Delay::reset);
        for ramp in [&mut self.wet, &mut self.laid, &mut self.output] {
            ramp.settle();
        }
    }

    /// Whether it is out of the path.
    fn rests(&self) -> bool {
        self.wet.rests_at(0.0) && self.output.rests_at(1.0)
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        self.processor.trace(quantity, part).filter(|_| !self.idle)
    }

    /// Processes a block that begins at a place of the passage.
    fn run(&mut self, io: &mut [&mut [f32]], place: i64) {
        let n = io.first().map_or(0, |c| c.len());
        for (block, sound) in self.beside.iter_mut().zip(&self.sounds) {
            block.read(sound.as_deref().map(Buffer::channels), place, n);
        }
        self.process(io, place, 0);
    }

    /// Processes a part of a block, which begins `from` frames after the place where the block does.
    fn process(&mut self, io: &mut [&mut [f32]], place: i64, from: usize) {
        // A mix that arrives within the block: what follows is at rest, wherever blocks end.
        let ramps = [&self.wet, &self.laid, &self.output, &self.entering].map(Ramp::left);
        let moving = ramps.into_iter().chain([self.held]).filter(|left| *left > 0).min().unwrap_or(0);
        if moving > 0 && moving < io.first().map_or(0, |c| c.len()) {
            let n = io[0].len();
            stretch(io, 0..moving, |part| self.process(part, place, from));
            stretch(io, moving..n, |part| self.process(part, place, from + moving));
            return;
        }
        // Out of the path: the signal passes bit for bit, as late as ever, and nothing old is left for the next time.
        self.idle = self.rests();
        if self.idle {
            if !self.fresh {
                self.processor.reset();
                self.fresh = true;
            }
            // Switched off again before it was heard.
            if self.held > 0 {
                self.held = 0;
                self.entering.settle();
            }
            for (delay, channel) in self.delays.iter_mut().zip(io) {
                delay.process(channel);
            }
            return;
        }
        let n = io.first().map_or(0, |c| c.len());
        let blends = self.latency() > 0 || !self.wet.rests_at(1.0);
        if blends {
            for ((dry, delay), x) in self.dry.iter_mut().zip(&mut self.delays).zip(io.iter()) {
                dry[..n].copy_from_slice(x);
                delay.process(&mut dry[..n]);
            }
        }
        match (self.scope, io) {
            (Scope::Stereo, io) => self.process_channels(io, 0, blends, (place, from)),
            (Scope::Left, [left, rest @ ..]) => {
                self.process_channels(&mut [left], 0, blends, (place, from));
                self.pass_late(rest, 1);
            }
            (Scope::Mid, [mono]) => self.process_channels(&mut [mono], 0, blends, (place, from)),
            (Scope::Right, [left, right]) => {
                self.process_channels(&mut [right], 1, blends, (place, from));
                self.pass_late(&mut [left], 0);
            }
            (Scope::Mid | Scope::Side, [left, right]) => {
                to_mid_side(left, right);
                if blends {
                    let [dry_left, dry_right] = &mut self.dry;
                    to_mid_side(&mut dry_left[..n], &mut dry_right[..n]);
                }
                if self.scope == Scope::Mid {
                    self.process_channels(&mut [left], 0, blends, (place, from));
                    self.pass_late(&mut [right], 1);
                } else {
                    self.process_channels(&mut [right], 1, blends, (place, from));
                    self.pass_late(&mut [left], 0);
                }
                to_left_right(left, right);
                // Two sizes that nearly cancel leave numbers that are too small.
                [left, right].into_iter().for_each(|channel| sanitise(channel));
            }
            // The right or the side of a mono signal is empty.
            (_, io) => {
                self.idle = true;
                self.pass_late(io, 0);
            }
        }
    }

    /// Processes channels, of which the first has the untouched signal `from`, and blends them with it.
    fn process_channels(
        &mut self,
        io: &mut [&mut [f32]],
        from: usize,
        blends: bool,
        (place, begun): (i64, usize),
    ) {
        let n = io.first().map_or(0, |c| c.len());
        if !self.entering.rests_at(1.0) {
            self.entering.scale(io);
        }
        let around = Around::new(place + cast::whole(cast::real(begun)), &self.beside, begun, n);
        self.processor.process(io, &around);
        self.fresh = false;
        if self.held > 0 {
            self.held -= n;
            for (x, dry) in io.iter_mut().zip(&self.dry[from..]) {
                x.copy_from_slice(&dry[..n]);
            }
            return;
        }
        if blends && !self.wet.rests_at(1.0) {
            self.lay_under(io.len(), from, n);
            let moves = (self.wet.clone(), self.laid.clone());
            for ((dry, under), x) in self.dry[from..].iter().zip(&self.under).zip(io.iter_mut()) {
                (self.wet, self.laid) = moves.clone();
                for (x, (dry, under)) in x.iter_mut().zip(dry.iter().zip(under)) {
                    // Exact at both ends, so that it makes no difference where a block ends.
                    let (wet, laid) =
                        (cast::sample(self.wet.next_value()), cast::sample(self.laid.next_value()));
                    *x = wet * *x + (1.0 - wet) * (dry + laid * (under - dry));
                }
            }
        } else {
            self.laid.skip(n);
        }
        if !self.output.rests_at(1.0) {
            self.output.scale(io);
        }
        // Gains on samples of absurd size may overflow.
        io.iter_mut().for_each(|channel| sanitise(channel));
    }

    /// What lies under so many processed channels, of which the first has the untouched signal `from`.
    fn lay_under(&mut self, channels: usize, from: usize, n: usize) {
        for (under, dry) in self.under.iter_mut().zip(&self.dry[from..]).take(channels) {
            under[..n].copy_from_slice(&dry[..n]);
        }
        let [first, second] = &mut self.under;
        match channels {
            1 => self.processor.lay_under(&mut [&mut first[..n]]),
            _ => self.processor.lay_under(&mut [&mut first[..n], &mut second[..n]]),
        }
    }

    /// Channels that the scope leaves alone keep step with the processed ones.
    fn pass_late(&self, io: &mut [&mut [f32]], from: usize) {
        if self.latency() > 0 {
            for (dry, x) in self.dry[from..].iter().zip(io.iter_mut()) {
                x.copy_from_slice(&dry[..x.len()]);
            }
        }
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
