//! The equaliser at work, in one of its phases.

use super::bank::{self, Frame, Runner, STEP};
use super::linear::Linear;
use super::settings::{Band, MOST_BANDS, Phase, Settings};
use super::voice::Voice;
use crate::{Around, MOVE_S, Plan, Processor, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;
use clear_bend_sound::level::gain_from_db;

/// The phase of an equaliser is chosen when it is made.
#[must_use]
pub fn build(&Plan { setup, values, turn, .. }: &Plan) -> Box<dyn Processor> {
    let settings = Settings::from_values(values);
    match settings.phase {
        Phase::Minimum => Box::new(Minimum::new(setup, &settings)),
        phase => Box::new(Linear::new(setup, turn, &settings, phase)),
    }
}

/// Every so many samples, states that have died away end.
const TIDY: usize = 4096;

/// The equaliser in minimum phase: sections one after the other, without delay.
struct Minimum {
    rate_hz: f64,
    voices: Vec<Voice>,
    /// The filter for hearing one band, the share of what it takes in what is heard of it, and what goes into it.
    audition: Voice,
    taken: Ramp,
    entering: Vec<Frame>,
    input: Ramp,
    frames: Vec<Frame>,
    /// Frames since the start, which the steps are counted from.
    at: usize,
    /// Whether any band has still to arrive.
    moving: bool,
}

/// Whether what the filter for hearing a band takes is heard.
fn taken(audition: Option<Band>) -> f64 {
    f64::from(u8::from(audition.is_some_and(|band| band.taken)))
}

impl Minimum {
    fn new(setup: Setup, settings: &Settings) -> Self {
        let fade = cast::frames(MOVE_S, setup.rate_hz);
        let mut voices = Vec::with_capacity(MOST_BANDS);
        voices.extend(settings.at_work().map(|band| Voice::new(band, setup.rate_hz)));
        Self {
            rate_hz: f64::from(setup.rate_hz),
            voices,
            audition: Voice::new(settings.audition(), setup.rate_hz),
            taken: Ramp::new(taken(settings.audition()), fade),
            entering: vec![[0.0; 2]; setup.max_block],
            input: Ramp::new(gain_from_db(settings.input_db), fade),
            frames: vec![[0.0; 2]; setup.max_block],
            at: 0,
            moving: false,
        }
    }

    /// Runs the sections over the first `n` frames.
    fn run(&mut self, n: usize, stereo: bool) {
        let mut done = 0;
        while done < n {
            if self.moving && self.at.is_multiple_of(STEP) {
                self.voices
                    .iter_mut()
                    .chain([&mut self.audition])
                    .for_each(|voice| voice.follow(self.rate_hz));
                self.moving = self.voices.iter().chain([&self.audition]).any(Voice::moves);
            }
            let grid = if self.moving { STEP } else { TIDY };
            let end = n.min(done + grid - self.at % grid);
            let frames = &mut self.frames[done..end];
            let of = |sums: bool| move |voice: &&mut Voice| voice.is_sum() == sums;
            run(self.voices.iter_mut().filter(of(false)), frames);
            if self.voices.iter_mut().any(|voice| voice.is_sum() && !voice.runners().is_empty()) {
                if stereo {
                    frames.iter_mut().for_each(|[l, r]| (*l, *r) = (0.5 * (*l + *r), 0.5 * (*l - *r)));
                }
                run(self.voices.iter_mut().filter(of(true)), frames);
                if stereo {
                    frames.iter_mut().for_each(|[m, s]| (*m, *s) = (*m + *s, *m - *s));
                }
            }
            self.hear(done..end);
            if self.moving {
                self.voices.iter_mut().chain([&mut self.audition]).for_each(|voice| voice.skip(end - done));
            }
            self.at += end - done;
            if self.at.is_multiple_of(TIDY) {
                self.voices
                    .iter_mut()
                    .chain([&mut self.audition])
                    .flat_map(Voice::runners)
                    .for_each(Runner::settle);
            }
            done = end;
        }
    }
}

impl Minimum {
    /// Runs the filter for hearing one band.
    fn hear(&mut self, range: std::ops::Range<usize>) {
        let frames = &mut self.frames[range.clone()];
        if self.taken.rests_at(0.0) {
            run([&mut self.audition].into_iter(), frames);
            return;
        }
        let entering = &mut self.entering[range];
        entering.copy_from_slice(frames);
        run([&mut self.audition].into_iter(), frames);
        for (frame, entering) in frames.iter_mut().zip(entering) {
            let taken = self.taken.next_value();
            for (left, whole) in frame.iter_mut().zip(entering) {
                *left += taken * (*whole - 2.0 * *left);
            }
        }
    }
}

/// Runs bands one after the other: those at rest side by side, those that move by themselves.
fn run<'a>(mut voices: impl Iterator<Item = &'a mut Voice>, frames: &mut [Frame]) {
    loop {
        let mut moving = None;
        let resting = voices.by_ref().map_while(|voice| {
            if voice.moves() {
                moving = Some(voice);
                return None;
            }
            Some(voice)
        });
        bank::run(resting.flat_map(Voice::runners), frames);
        match moving {
            Some(voice) => voice.run_moving(frames),
            None => return,
        }
    }
}

impl Processor for Minimum {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.input.set(gain_from_db(settings.input_db));
        for (voice, band) in self.voices.iter_mut().zip(settings.at_work()) {
            voice.set(band);
        }
        self.audition.set(settings.audition());
        self.taken.set(taken(settings.audition()));
        self.moving = true;
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        if !self.input.rests_at(1.0) {
            self.input.scale(io);
        }
        match io {
            [left, right] => {
                for (frame, (l, r)) in self.frames.iter_mut().zip(left.iter().zip(right.iter())) {
                    *frame = [f64::from(*l), f64::from(*r)];
                }
                self.run(n, true);
                for (frame, (l, r)) in self.frames.iter().zip(left.iter_mut().zip(right.iter_mut())) {
                    (*l, *r) = (cast::sample(frame[0]), cast::sample(frame[1]));
                }
            }
            [mono] => {
                self.frames.iter_mut().zip(mono.iter()).for_each(|(frame, x)| *frame = [f64::from(*x), 0.0]);
                self.run(n, false);
                mono.iter_mut().zip(&self.frames).for_each(|(x, frame)| *x = cast::sample(frame[0]));
            }
            _ => {}
        }
    }

    fn reset(&mut self) {
        self.at = 0;
        self.moving = false;
        self.input.settle();
        self.taken.settle();
        self.voices.iter_mut().chain([&mut self.audition]).for_each(|voice| voice.rest(self.rate_hz));
    }

    /// Bands that ring for as long as each other, one after the other, ring longer than each: by no more than as if
    /// their times were added.
    fn tail(&self) -> usize {
        let rings_s: f64 = self.voices.iter().chain([&self.audition]).map(Voice::rings_s).sum();
        cast::count(rings_s * self.rate_hz)
    }
}
