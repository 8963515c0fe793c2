//! Early reflections: a pattern of echoes on each side, drawn from a seed (Moorer, "About this reverberation business", Computer
//! Music Journal 3(2), 1979; random pulses on a grid after Välimäki and others, "Fifty years of artificial reverberation", IEEE
//! Trans. Audio, Speech, Lang. Proc. 20(5), 2012).

use super::allpass::Chain;
use super::lengths::{Fading, Ring};
use super::settings::{MOST_EARLY_MS, Settings};
use crate::{MOVE_S, Setup};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::widest;

/// The most reflections on each side.
pub const MOST: usize = 64;
/// A stretch is at most this long, samples.
const RUN: usize = 128;

/// Reflections: how late each is, samples, and its gain on both sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pattern {
    count: usize,
    delays: [usize; MOST],
    gains: [[f32; MOST]; 2],
}

impl Pattern {
    /// That of some settings: one reflection at a random place of every part of the time, parts that grow shorter where they
    /// crowd, falling along a straight line in dB, with a random sign and a random place between the sides. All of them have as
    /// much energy as the sound.
    #[must_use]
    pub fn of(settings: &Settings, rate_hz: f64) -> Self {
        let count = cast::count(settings.early_count).min(MOST);
        let mut random = SplitMix64::new(cast::seed(settings.early_seed), 30);
        let span_s = settings.early_ms * settings.early_size / 1000.0;
        let mut pattern = Self { count, delays: [1; MOST], gains: [[0.0; MOST]; 2] };
        let mut energy = [0.0; 2];
        let mut sizes = [[0.0; MOST]; 2];
        for (k, delay) in pattern.delays.iter_mut().enumerate().take(count) {
            let even = (cast::real(k) + 0.5 + 0.4 * random.bipolar()) / cast::real(count);
            // A number that grows with the cube of time has a rate that grows with its square.
            let share = even.powf(1.0 / (1.0 + 2.0 * settings.early_crowd));
            let sign = if random.bipolar() < 0.0 { -1.0 } else { 1.0 };
            let size = sign * clear_bend_sound::level::gain_from_db(-settings.early_fade_db * share);
            let place = settings.early_swing * random.bipolar();
            let angle = std::f64::consts::FRAC_PI_4 * (1.0 + place);
            *delay = cast::count(span_s * share * rate_hz).max(1);
            for (side, part) in [angle.cos(), angle.sin()].into_iter().enumerate() {
                sizes[side][k] = size * part;
                energy[side] += (size * part).powi(2);
            }
        }
        let whole = (0.5 * (energy[0] + energy[1])).sqrt();
        for (gains, sizes) in pattern.gains.iter_mut().zip(&sizes) {
            for (gain, size) in gains.iter_mut().zip(sizes).take(count) {
                *gain = cast::sample(size / whole);
            }
        }
        pattern
    }

    /// How late each reflection is (samples), and its gain on both sides, in the order of time.
    pub fn reflections(&self) -> impl Iterator<Item = (usize, [f32; 2])> + '_ {
        (0..self.count).map(|k| (self.delays[k], [self.gains[0][k], self.gains[1][k]]))
    }
}

/// The early part.
pub struct Early {
    rings: [Ring; 2],
    pattern: Fading<Pattern>,
    chains: [Chain; 2],
    /// What a pattern gives.
    sum: Vec<f32>,
}

impl Early {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let most = cast::count(MOST_EARLY_MS / 1000.0 * rate_hz) + 1;
        let smear = cast::count(0.05 * 2.5 * rate_hz);
        let move_frames = cast::frames(MOVE_S, setup.rate_hz);
        let chain = |c| Chain::new(&settings.early_chain(c, rate_hz), smear, setup.rate_hz, move_frames);
        Self {
            rings: [Ring::new(most, RUN), Ring::new(most, RUN)],
            pattern: Fading::new(Pattern::of(settings, rate_hz), setup.rate_hz),
            chains: [chain(0), chain(1)],
            sum: vec![0.0; RUN],
        }
    }

    /// Moves to other settings.
    pub fn set(&mut self, settings: &Settings, rate_hz: f64) {
        self.pattern.set(Pattern::of(settings, rate_hz));
        for (c, chain) in self.chains.iter_mut().enumerate() {
            chain.set(&settings.early_chain(c, rate_hz));
        }
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.rings.iter_mut().for_each(Ring::clear);
        self.chains.iter_mut().for_each(Chain::reset);
        self.pattern.settle();
    }

    /// Turns a block of both sides into its reflections.
    pub fn process(&mut self, sides: [&mut [f32]; 2]) {
        let n = sides[0].len();
        let [left, right] = sides;
        let mut done = 0;
        while done < n {
            self.pattern.begin();
            let run = (n - done).min(RUN).min(self.pattern.moves_for().unwrap_or(RUN));
            let shares: Option<[f64; RUN]> = self.pattern.next_shares(run);
            let blocks = [&mut left[done..done + run], &mut right[done..done + run]];
            for (side, block) in blocks.into_iter().enumerate() {
                let mut written = [0.0; RUN];
                written[..run].copy_from_slice(block);
                self.rings[side].extend(&written, run);
                self.add_up(side, false, run);
                block.copy_from_slice(&self.sum[..run]);
                if let Some(shares) = &shares {
                    self.add_up(side, true, run);
                    for ((new, old), share) in block.iter_mut().zip(&self.sum).zip(shares) {
                        let share = cast::sample(*share);
                        *new = share * *new + (1.0 - share) * old;
                    }
                }
            }
            done += run;
        }
        for (chain, block) in self.chains.iter_mut().zip([left, right]) {
            chain.process(block);
        }
    }

    /// The reflections of the stretch that has just been written, by the present pattern or the former one, into the sum.
    fn add_up(&mut self, side: usize, former: bool, run: usize) {
        let pattern = if former { &self.pattern.from } else { &self.pattern.to };
        let sum = &mut self.sum[..run];
        sum.fill(0.0);
        widest(
            #[inline(always)]
            || {
                for (delay, gains) in pattern.reflections() {
                    let read: [f32; RUN] = self.rings[side].read(delay + run);
                    let gain = gains[side];
                    sum.iter_mut().zip(&read).for_each(|(sum, x)| *sum += gain * *x);
                }
            },
        );
    }
}
