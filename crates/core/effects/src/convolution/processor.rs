//! The convolution reverb at work.

use std::sync::Arc;

use super::settings::{MOST_PREDELAY_MS, Settings};
use super::shape::{Shape, Shaper};
use crate::tone::{CUT_OFF_HZ, Coming, Leaving, Shelf, ToneIn, ToneOut};
use crate::{Around, MOVE_S, Plan, Processor, Setup};
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::stretch;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Immediate, MovedDelay, Routes, WHOLE};
use clear_bend_sound::scope::Scope;

/// How long another pre-delay takes to be reached, s.
const FADE_S: f64 = 0.03;
/// So much of making other kernels is done at a time, in samples of which a spectrum is made: about as much as a block takes.
const WORK: usize = 40_000;
/// What other parts of it take, in the same: of readying memory, and of shaping each kernel.
const WORK_OF_READYING: usize = 4_000;
const WORK_OF_SHAPING: usize = 1_500;
/// A stretch is at most this long, and ends where the shortest pieces do; where whole passages are rendered, where the pieces do.
const RUN: usize = 64;

/// A convolution reverb.
pub struct Convolution {
    setup: Setup,
    settings: Settings,
    /// None without a response: the sound passes then.
    room: Option<Room>,
    coming: Coming,
    predelay: [MovedDelay; 2],
    leaving: Leaving,
    /// How long a stretch is at most, how much of one has come, and room for the other side of what has one only.
    run: usize,
    into: usize,
    other: Vec<f32>,
    even: Vec<f32>,
}

/// The response at work.
struct Room {
    /// Whether it is one for both sides.
    alike: bool,
    convolver: Immediate,
    shaper: Shaper,
    /// Frames of the response.
    frames: usize,
    wanted: Shape,
    /// The shape of the kernels that are there; none before the first ones are.
    made: Option<Shape>,
    making: Making,
    /// Whether as much of the first ones is there as is heard before the rest is.
    begun: bool,
    /// Whether kernels are made between blocks, by `prepare`.
    in_turns: bool,
}

/// What is being made.
#[derive(Clone, Copy, PartialEq)]
enum Making {
    Nothing,
    Shape(Shape),
    Pieces(Shape, usize),
}

impl Room {
    fn new(plan: &Plan, response: &Arc<Buffer>, shape: Shape) -> Self {
        let rate_hz = plan.setup.rate_hz;
        // Room for all that can be set without another form.
        let widest = shape.with_room();
        let taps = widest.frames(response.frames(), rate_hz);
        let routes = match response.channels().len() {
            1 => Routes::Alike,
            2 => Routes::Apart,
            _ => Routes::Crossed,
        };
        let convolver = Immediate::new(taps, routes, plan.turn.unwrap_or(0), run_of(plan));
        let shaper = Shaper::new(Arc::clone(response), convolver.taps(), shape);
        let mut room = Self {
            alike: response.channels().len() == 1,
            convolver,
            shaper,
            frames: response.frames(),
            wanted: shape,
            made: None,
            making: Making::Nothing,
            begun: false,
            in_turns: plan.turn.is_some(),
        };
        if !room.in_turns {
            room.make_at_once();
        }
        room
    }

    /// Makes the next part of other kernels; says how much work that was, or that nothing is to be made.
    fn make(&mut self) -> Option<usize> {
        match self.making {
            Making::Nothing if self.made == Some(self.wanted) || !self.convolver.is_settled() => None,
            Making::Nothing => {
                if self.convolver.widen() {
                    self.shaper.begin(self.wanted);
                    self.making = Making::Shape(self.wanted);
                }
                Some(WORK_OF_READYING)
            }
            Making::Shape(shape) => {
                if !self.shaper.step() {
                    self.making = Making::Pieces(shape, 0);
                }
                Some(WORK_OF_SHAPING * self.shaper.kernels())
            }
            Making::Pieces(shape, step) => {
                let written = self.convolver.write(step, &self.shaper.made());
                self.begun |= self.convolver.begins(step + 1);
                if written.is_some() {
                    self.making = Making::Pieces(shape, step + 1);
                } else {
                    (self.making, self.begun, self.made) = (Making::Nothing, true, Some(shape));
                }
                Some(written.unwrap_or(0))
            }
        }
    }

    fn make_at_once(&mut self) {
        while self.make().is_some() {}
    }
}

impl Convolution {
    /// At rest.
    #[must_use]
    pub fn new(plan: &Plan) -> Self {
        let settings = Settings::from_values(plan.values);
        let setup = plan.setup;
        let rate_hz = f64::from(setup.rate_hz);
        let frames = cast::frames(MOVE_S, setup.rate_hz);
        let most = cast::count(MOST_PREDELAY_MS / 1000.0 * rate_hz) + 1;
        let fade = cast::frames(FADE_S, setup.rate_hz);
        let predelay = || MovedDelay::new(predelay_frames(&settings, rate_hz), most, fade);
        let response = plan.sounds.first().and_then(Option::as_ref).filter(|response| response.frames() > 0);
        let response = response.map(|response| on(plan.scope, response));
        Self {
            setup,
            settings,
            room: response.map(|response| Room::new(plan, &response, Shape::of(&settings))),
            coming: Coming::new(&tone_in(&settings), rate_hz, frames),
            predelay: [predelay(), predelay()],
            leaving: Leaving::new(&tone_out(&settings), rate_hz, frames),
            run: run_of(plan),
            into: 0,
            other: vec![0.0; run_of(plan)],
            even: vec![1.0; run_of(plan)],
        }
    }

    /// A stretch of both sides.
    fn convolve(&mut self, left: &mut [f32], right: &mut [f32]) {
        let Some(room) = &mut self.room else { return };
        self.coming.process(left, right);
        self.predelay[0].process(left);
        self.predelay[1].process(right);
        room.convolver.process(&mut [&mut *left, &mut *right]);
        if room.alike {
            // Both sides have the same response: no width makes what they have in common louder.
            let even = &mut self.even[..left.len()];
            self.leaving.even(even);
            for ((l, r), gain) in left.iter_mut().zip(&mut *right).zip(even) {
                (*l, *r) = (*gain * *l, *gain * *r);
            }
        }
        self.leaving.process(left, right);
    }
}

/// What a response does to a part of the signal: its own side to left and right, and to what both sides have or have not in common what it
/// makes of that (each side's answer to both inputs, in true stereo).
fn on(scope: Scope, response: &Arc<Buffer>) -> Arc<Buffer> {
    let shares: &[f32] = match (scope, response.channels().len()) {
        (Scope::Stereo, _) | (_, 1) => return Arc::clone(response),
        (Scope::Left, 2) => &[1.0, 0.0],
        (Scope::Right, 2) => &[0.0, 1.0],
        (_, 2) => &[0.5, 0.5],
        (Scope::Left, _) => &[1.0, 0.0, 0.0, 0.0],
        (Scope::Right, _) => &[0.0, 0.0, 0.0, 1.0],
        (Scope::Mid, _) => &[0.5, 0.5, 0.5, 0.5],
        (Scope::Side, _) => &[0.5, -0.5, -0.5, 0.5],
    };
    let parts = || response.channels().iter().zip(shares);
    let at = |i: usize| parts().map(|(channel, share)| share * channel[i]).sum::<f32>();
    let samples = (0..response.frames()).map(at).collect();
    Buffer::new(response.rate_hz(), vec![samples]).map_or_else(|_| Arc::clone(response), Arc::new)
}

fn run_of(plan: &Plan) -> usize {
    if plan.turn.is_none() && plan.setup.max_block >= WHOLE { WHOLE } else { RUN }
}

fn predelay_frames(settings: &Settings, rate_hz: f64) -> usize {
    cast::count(settings.predelay_ms / 1000.0 * rate_hz)
}

fn tone_in(settings: &Settings) -> ToneIn {
    ToneIn { crossfeed: 0.0, low_cut_hz: settings.low_cut_hz, high_cut_hz: CUT_OFF_HZ.1 }
}

fn tone_out(settings: &Settings) -> ToneOut {
    let [high, low] = Shelf::tilt(settings.tilt_db);
    let shelves = [high, low, Shelf::NONE, Shelf::NONE, Shelf::NONE];
    ToneOut { shelves, high_cut_hz: settings.high_cut_hz, width: settings.width }
}

impl Processor for Convolution {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        let rate_hz = f64::from(self.setup.rate_hz);
        self.settings = settings;
        self.coming.set(&tone_in(&settings));
        self.predelay.iter_mut().for_each(|delay| delay.set(predelay_frames(&settings, rate_hz)));
        self.leaving.set(&tone_out(&settings));
        if let Some(room) = &mut self.room {
            room.wanted = Shape::of(&settings);
        }
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        if !self.ready() {
            io.iter_mut().for_each(|channel| channel.fill(0.0));
            return;
        }
        let mut done = 0;
        while done < n {
            if self.into == 0
                && let Some(room) = self.room.as_mut().filter(|room| !room.in_turns)
            {
                room.make_at_once();
            }
            let end = n.min(done + self.run - self.into);
            let count = end - done;
            stretch(io, done..end, |io| match io {
                [left, right] => self.convolve(left, right),
                [mono] => {
                    let mut other = std::mem::take(&mut self.other);
                    other[..count].copy_from_slice(mono);
                    self.convolve(mono, &mut other[..count]);
                    self.other = other;
                }
                _ => {}
            });
            self.into = (self.into + count) % self.run;
            done = end;
        }
    }

    fn reset(&mut self) {
        self.coming.reset();
        self.predelay.iter_mut().for_each(MovedDelay::reset);
        self.leaving.reset();
        self.into = 0;
        if let Some(room) = &mut self.room {
            room.convolver.reset();
            if !room.in_turns {
                room.make_at_once();
                room.convolver.take();
            }
        }
    }

    fn prepare(&mut self) -> bool {
        let Some(room) = self.room.as_mut().filter(|room| room.in_turns) else { return false };
        let mut work = 0;
        while work < WORK
            && let Some(more) = room.make()
        {
            work += more;
        }
        work > 0
    }

    fn ready(&self) -> bool {
        self.room.as_ref().is_none_or(|room| room.begun)
    }

    fn tail(&self) -> usize {
        let Some(room) = &self.room else { return 0 };
        let shape = Shape::of(&self.settings);
        predelay_frames(&self.settings, f64::from(self.setup.rate_hz))
            + shape.frames(room.frames, self.setup.rate_hz)
    }
}
