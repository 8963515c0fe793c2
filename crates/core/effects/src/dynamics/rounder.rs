//! Output rounding: the wave bent at a level, with room above the audible range for what that adds.

use super::shaper::WaveShaper;
use crate::{MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::oversample::{self, Oversampler};
use clear_bend_sound::dsp::{Delay, Ramp};
use clear_bend_sound::level::gain_from_db;

/// Bends one or two channels at a level. Switched off, it passes them bit for bit, as late as when it is on.
pub struct Rounder {
    over: [Oversampler; 2],
    late: [Delay; 2],
    share: Ramp,
    level: Ramp,
    round: Ramp,
    plain: Vec<f32>,
    shares: Vec<f32>,
    levels: Vec<f32>,
    rounds: Vec<f32>,
}

impl Rounder {
    /// Frames by which it delays.
    pub const LATENCY: usize = oversample::LATENCY;

    /// A rounder at rest: on or off, its level in dBFS, and its corner from 0, very round, to 1, a sharp edge.
    #[must_use]
    pub fn new(setup: Setup, on: bool, level_dbfs: f64, corner: f64) -> Self {
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let over = Oversampler::new(setup.max_block);
        let block = || vec![0.0; setup.max_block];
        Self {
            over: [over.clone(), over],
            late: [Delay::new(Self::LATENCY), Delay::new(Self::LATENCY)],
            share: ramp(f64::from(u8::from(on))),
            level: ramp(gain_from_db(level_dbfs)),
            round: ramp(1.0 - corner),
            plain: block(),
            shares: block(),
            levels: block(),
            rounds: block(),
        }
    }

    /// Moves to other settings.
    pub fn set(&mut self, on: bool, level_dbfs: f64, corner: f64) {
        if on && self.share.rests_at(0.0) {
            self.over.iter_mut().for_each(Oversampler::reset);
        }
        self.share.set(f64::from(u8::from(on)));
        self.level.set(gain_from_db(level_dbfs));
        self.round.set(1.0 - corner);
    }

    /// Arrives at all settings and forgets all earlier samples.
    pub fn reset(&mut self) {
        [&mut self.share, &mut self.level, &mut self.round].into_iter().for_each(Ramp::settle);
        self.over.iter_mut().for_each(Oversampler::reset);
        self.late.iter_mut().for_each(Delay::reset);
    }

    /// Bends a block.
    pub fn process(&mut self, io: &mut [&mut [f32]]) {
        let n = io.first().map_or(0, |c| c.len());
        if self.share.rests_at(0.0) {
            self.level.skip(n);
            self.round.skip(n);
            self.late.iter_mut().zip(io).for_each(|(late, channel)| late.process(channel));
            return;
        }
        let whole = self.share.rests_at(1.0);
        self.share.fill(&mut self.shares[..n]);
        self.level.fill(&mut self.levels[..n]);
        self.round.fill(&mut self.rounds[..n]);
        for ((over, late), channel) in self.over.iter_mut().zip(&mut self.late).zip(io) {
            let plain = &mut self.plain[..n];
            plain.copy_from_slice(channel);
            late.process(plain);
            let (levels, rounds) = (&self.levels[..n], &self.rounds[..n]);
            over.process(channel, |high| {
                for (xs, (&level, &round)) in
                    high.chunks_exact_mut(oversample::FACTOR).zip(levels.iter().zip(rounds))
                {
                    let bend = WaveShaper::new(level, round);
                    xs.iter_mut().for_each(|x| *x = bend.at(*x));
                }
            });
            if !whole {
                for (x, (plain, share)) in channel.iter_mut().zip(plain.iter().zip(&self.shares)) {
                    *x = share * *x + (1.0 - share) * plain;
                }
            }
        }
    }
}
