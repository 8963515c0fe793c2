//! Delays that sway: what chorus, flanger and vibrato are made of. Dattorro, "Effect Design, Part 2: Delay-Line Modulation and
//! Chorus", JAES 45(10), 1997, has the structures; how the delays are read stands in `delay.rs`.

use std::array::from_fn;
use std::f64::consts::{FRAC_PI_4, SQRT_2};

use super::delay::{Ago, STRETCH, SwungDelay};
use super::{Swing, Swings, rounds};
use crate::{Around, Processor, Quantity, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, Ramp, StateVariable, widest};

/// The longest delay, swung out, ms.
const MOST_MS: f64 = 60.0;
/// How long it takes to slide to another delay, s. A delay that slides is heard at another pitch meanwhile, as on tape.
const SLIDE_S: f64 = 0.08;
/// The shortest delay: what comes back must have been written, samples.
pub(super) const LEAST: f64 = 1.0;
/// What is smaller than this is silence.
const SMALLEST: f32 = 1e-15;
/// The frequency at which a tone control is off, Hz.
pub const OPEN_HZ: f64 = 20_000.0;

/// Delays that sway.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sway {
    /// How they move.
    pub swing: Swing,
    /// Their middle, ms.
    pub delay_ms: f64,
    /// How far they move to either side, ms.
    pub depth_ms: f64,
    /// How many there are, spread over the cycle.
    pub voices: usize,
    /// How much of what comes out goes in again.
    pub feedback: f64,
    /// How far the voices stand apart, 0 to 1.
    pub width: f64,
    /// The sign of what comes out, 1 or -1; what goes in again has its own.
    pub gain: f64,
    /// Where the highs of it end, Hz; [`OPEN_HZ`] is nowhere.
    pub tone_hz: f64,
    /// By how much everything else is late, ms: a delay can then be shorter than none.
    pub late_ms: f64,
}

impl Sway {
    /// The delay of a voice against the rest of the sound at a time of the passage (s), ms.
    #[must_use]
    pub fn delay_ms_at(&self, seconds: f64, voice: usize, side: usize) -> f64 {
        let apart = if side == 1 { self.swing.apart } else { 0.0 };
        self.delay_ms + self.depth_ms * self.swing.at(seconds, self.ahead(voice) + apart)
    }

    /// What is said where the delay would be shorter than none.
    #[must_use]
    pub fn rests_at_shortest(&self) -> Option<String> {
        (self.depth_ms > self.delay_ms + self.late_ms).then(|| {
            "The depth is larger than the delay: the delay rests at its shortest for a part of every cycle.".to_owned()
        })
    }

    /// Voices are spread over the cycle.
    pub(super) fn ahead(&self, voice: usize) -> f64 {
        cast::real(voice) / cast::real(self.voices.max(1))
    }

    /// What of a side goes in again: all of its voices together pass no more than 1.
    pub(super) fn again(&self, side: usize) -> f64 {
        let all: f64 = (0..self.voices).map(|voice| self.share(voice, side).abs()).sum();
        self.feedback * self.gain / all.max(1.0)
    }

    /// How loud a voice is on a side: as much power in all as one of them has.
    #[must_use]
    pub fn share(&self, voice: usize, side: usize) -> f64 {
        if voice >= self.voices {
            return 0.0;
        }
        // In pairs to the left and to the right, the first ones furthest, evenly down to the middle: both sides are equally loud.
        let all = cast::real(self.voices.max(2) - 1);
        let outward = if self.voices == 1 { 0.0 } else { 1.0 - 2.0 * cast::real(voice / 2) / all };
        let place = self.width * outward * if voice.is_multiple_of(2) { -1.0 } else { 1.0 };
        let turn = (1.0 + place) * FRAC_PI_4;
        let side = if side == 0 { turn.cos() } else { turn.sin() };
        SQRT_2 * side * self.gain / cast::real(self.voices).sqrt()
    }
}

/// One channel: what has come in, and what has been made of it.
struct Channel {
    line: SwungDelay,
    tone: StateVariable,
}

/// Up to `V` voices on two sides.
pub struct Swayed<const V: usize> {
    /// What the values of an effect mean.
    meaning: fn(&[f64]) -> Sway,
    rate: f64,
    late: usize,
    channels: [Channel; 2],
    swings: Swings<V>,
    delay: Ramp,
    depth: Ramp,
    /// Of each side: what goes in again is never more than the share that is set, however many voices come together.
    feedbacks: [Ramp; 2],
    tone_octaves: Ramp,
    /// How much of the sound has its highs taken off.
    toned: Ramp,
    shares: [[Ramp; V]; 2],
    /// The voices that are heard, also those that still fade, and those that stay.
    voices: usize,
    wanted: usize,
    /// The middle over a block in whole samples and what is behind the point, and the depth, samples.
    whole: Vec<f32>,
    rest: Vec<f32>,
    depths: Vec<f32>,
    /// How far each voice is behind over the stretch that is worked on.
    ago: [Ago; V],
    /// The delay of the first voice on the left, ms.
    delays_ms: Vec<f32>,
    traced: usize,
}

impl<const V: usize> Swayed<V> {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, values: &[f64], meaning: fn(&[f64]) -> Sway) -> Self {
        let sway = meaning(values);
        let rate = f64::from(setup.rate_hz);
        let channel = || Channel {
            line: SwungDelay::new(cast::count(MOST_MS / 1000.0 * rate)),
            tone: StateVariable::default(),
        };
        let slide = cast::frames(SLIDE_S, setup.rate_hz);
        let per_ms = rate / 1000.0;
        // Whole samples: all else waits for so many.
        let late = cast::count(sway.late_ms * per_ms);
        Self {
            meaning,
            rate,
            late,
            channels: [channel(), channel()],
            swings: Swings::new(setup, sway.swing, from_fn(|voice| sway.ahead(voice))),
            delay: Ramp::new(sway.delay_ms * per_ms + cast::real(late), slide),
            depth: Ramp::new(sway.depth_ms * per_ms, slide),
            feedbacks: [0, 1].map(|side| Ramp::new(sway.again(side), slide)),
            tone_octaves: Ramp::new(sway.tone_hz.log2(), slide),
            toned: Ramp::new(toned(&sway), slide),
            shares: [0, 1].map(|side| from_fn(|voice| Ramp::new(sway.share(voice, side), slide))),
            voices: sway.voices.min(V),
            wanted: sway.voices.min(V),
            whole: vec![0.0; setup.max_block + STRETCH],
            rest: vec![0.0; setup.max_block + STRETCH],
            depths: vec![0.0; setup.max_block + STRETCH],
            ago: [Ago::NONE; V],
            delays_ms: vec![0.0; setup.max_block],
            traced: 0,
        }
    }

    /// Works out how far the voices of a side are behind over a stretch of the block, the sample that comes next counted as the last
    /// one, and how much of it can be read at once: what comes back must have been written.
    #[inline(always)]
    fn look_back(&mut self, side: usize, from: usize, frames: usize) -> usize {
        // What is waited for before a sample can come back.
        let least = cast::sample(LEAST);
        let most = cast::sample(self.channels[side].line.most());
        let (whole, rest) = (stretch(&self.whole, from), stretch(&self.rest, from));
        let depths = stretch(&self.depths, from);
        let (low, high) = (whole.map(|whole| least - whole), whole.map(|whole| most - whole));
        let places = Ago::places(&whole.map(|whole| whole - least));
        let mut shortest = usize::MAX;
        for (voice, ago) in self.ago.iter_mut().enumerate().take(self.voices) {
            let swings = stretch(self.swings.of(side, voice), from);
            let mut swung = [0.0; STRETCH];
            for k in 0..STRETCH {
                let to = rest[k] + depths[k] * swings[k];
                let to = if to < low[k] { low[k] } else { to };
                swung[k] = if high[k] < to { high[k] } else { to };
            }
            *ago = Ago::new(&places, &swung);
            shortest = shortest.min(ago.whole_samples());
        }
        frames.min(SwungDelay::stretch(shortest))
    }

    /// Lets what all voices of a side give take the place of what enters them, as far as that can be done at once, and says how far.
    #[inline(always)]
    fn sway(&mut self, side: usize, x: &mut [f32], from: usize) -> usize {
        let n = self.look_back(side, from, STRETCH.min(x.len()));
        let line = &mut self.channels[side].line;
        let (mut sums, mut shares) = ([[0.0; 4]; STRETCH], [0.0; STRETCH]);
        for (voice, ago) in self.ago.iter().enumerate().take(self.voices) {
            self.shares[side][voice].fill(&mut shares[..n]);
            line.read(ago, &shares, &mut sums, n);
        }
        let wet = sums.map(|[a, b, c, d]| (a + b) + (c + d));
        let (mut feedback, mut enters) = ([0.0; STRETCH], [0.0; STRETCH]);
        self.feedbacks[side].fill(&mut feedback[..n]);
        enters[..n].copy_from_slice(&x[..n]);
        for k in 0..STRETCH {
            let sum = enters[k] + feedback[k] * wet[k];
            // What has died away is silence: small numbers take long.
            enters[k] = if sum.abs() < SMALLEST { 0.0 } else { sum };
        }
        line.extend(&enters, n);
        x[..n].copy_from_slice(&wet[..n]);
        n
    }

    fn run(&mut self, side: usize, x: &mut [f32]) {
        let mut done = 0;
        while done < x.len() {
            done += widest(
                #[inline(always)]
                || self.sway(side, &mut x[done..], done),
            );
        }
        let tone = &mut self.channels[side].tone;
        if self.toned.rests_at(0.0) {
            return;
        }
        let mut corner = Corner::butterworth(self.tone_octaves.value().exp2(), self.rate);
        for x in x {
            if self.tone_octaves.left() > 0 {
                corner = Corner::butterworth(self.tone_octaves.next_value().exp2(), self.rate);
            }
            let share = cast::sample(self.toned.next_value());
            let low = cast::sample(tone.step(&corner, f64::from(*x)).low);
            *x = share * low + (1.0 - share) * *x;
        }
    }
}

/// The stretch of a block that begins at a place; behind the block there is room.
#[inline(always)]
fn stretch<T: Copy + Default>(block: &[T], from: usize) -> [T; STRETCH] {
    block[from..].first_chunk().copied().unwrap_or_default()
}

/// A number in whole ones, and what is behind the point.
fn parted(number: f64) -> (f32, f32) {
    let whole = cast::down(number);
    (cast::sample(whole), cast::sample(number - whole))
}

/// Whether the highs are taken off, as a share.
fn toned(sway: &Sway) -> f64 {
    f64::from(u8::from(sway.tone_hz < OPEN_HZ))
}

impl<const V: usize> Processor for Swayed<V> {
    fn set(&mut self, values: &[f64]) {
        let sway = (self.meaning)(values);
        let per_ms = self.rate / 1000.0;
        self.swings.set(sway.swing, from_fn(|voice| sway.ahead(voice)));
        // By how much all else is late stays as it is.
        self.delay.set(sway.delay_ms * per_ms + cast::real(self.late));
        self.depth.set(sway.depth_ms * per_ms);
        self.feedbacks.iter_mut().enumerate().for_each(|(side, feedback)| feedback.set(sway.again(side)));
        self.tone_octaves.set(sway.tone_hz.log2());
        if self.toned.rests_at(0.0) {
            self.channels.iter_mut().for_each(|channel| channel.tone.reset());
        }
        self.toned.set(toned(&sway));
        for (side, shares) in self.shares.iter_mut().enumerate() {
            shares.iter_mut().enumerate().for_each(|(voice, share)| share.set(sway.share(voice, side)));
        }
        // Voices that go are heard until they are gone; those that come read what there is.
        self.wanted = sway.voices.min(V);
        self.voices = self.voices.max(self.wanted);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        self.swings.fill(around.at, n, io.len().min(2), self.voices);
        // Both sides move in step.
        self.depth.fill(&mut self.depths[..n]);
        let moving = n.min(self.delay.left());
        for k in 0..moving {
            (self.whole[k], self.rest[k]) = parted(self.delay.next_value());
        }
        let (whole, rest) = parted(self.delay.value());
        // Behind the block there is a stretch that is looked at and not heard.
        self.whole[moving..n + STRETCH].fill(whole);
        self.rest[moving..n + STRETCH].fill(rest);
        let (swings, ms) = (self.swings.of(0, 0), cast::sample(1000.0 / self.rate));
        let late = cast::sample(cast::real(self.late));
        for (k, delay_ms) in self.delays_ms[..n].iter_mut().enumerate() {
            *delay_ms = ((self.whole[k] - late) + (self.rest[k] + self.depths[k] * swings[k])) * ms;
        }
        self.traced = n;
        let ramps = (self.tone_octaves.clone(), self.toned.clone());
        for (side, x) in io.iter_mut().enumerate().take(2) {
            (self.tone_octaves, self.toned) = ramps.clone();
            self.run(side, x);
        }
        if io.len() == 1 {
            self.feedbacks[1].skip(n);
            self.shares[1].iter_mut().for_each(|share| share.skip(n));
        }
    }

    fn reset(&mut self) {
        for channel in &mut self.channels {
            channel.line.reset();
            channel.tone.reset();
        }
        self.voices = self.wanted;
        self.swings.reset();
        for ramp in [&mut self.delay, &mut self.depth, &mut self.tone_octaves, &mut self.toned] {
            ramp.settle();
        }
        self.feedbacks.iter_mut().chain(self.shares.iter_mut().flatten()).for_each(Ramp::settle);
    }

    fn latency(&self) -> usize {
        self.late
    }

    fn tail(&self) -> usize {
        let round = self.delay.value().abs() + self.depth.value().abs();
        let feedback = self.feedbacks[0].value().abs().max(self.feedbacks[1].value().abs());
        cast::count(round * rounds(feedback)) + self.late
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::DelayMs && part == 0).then(|| &self.delays_ms[..self.traced])
    }
}
