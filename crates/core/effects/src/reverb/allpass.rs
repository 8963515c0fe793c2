//! All-passes one after the other: every echo becomes many, and no frequency gets louder or quieter (Schroeder, "Natural
//! sounding artificial reverberation", JAES 10, 1962).

use std::array::from_fn;

use super::lengths::{Lengths, Ring};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Ramp, widest};

/// The most all-passes in a chain.
pub const MOST: usize = 8;

/// A stretch is at most this long, samples.
const RUN: usize = 64;

/// A chain of all-passes for one channel, of which the first few are at work.
pub struct Chain {
    passes: [AllPass; MOST],
    lengths: Lengths<MOST>,
    gain: Ramp,
}

/// One of them, and how much of it is heard: 1, or 0 where the sound passes beside it.
struct AllPass {
    ring: Ring,
    share: Ramp,
}

/// What a chain is set to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChainSettings {
    /// Their lengths, samples, at least 1.
    pub lengths: [usize; MOST],
    /// How many are at work.
    pub count: usize,
    /// Their gain, -1 to 1; with 0, none is at work.
    pub gain: f64,
}

impl ChainSettings {
    fn share(&self, place: usize) -> f64 {
        f64::from(u8::from(place < self.count && self.gain != 0.0))
    }
}

impl Chain {
    /// At rest; no length is over `most`, moves take so many samples.
    #[must_use]
    pub fn new(settings: &ChainSettings, most: usize, rate_hz: u32, move_frames: usize) -> Self {
        let pass =
            |i| AllPass { ring: Ring::new(most, RUN), share: Ramp::new(settings.share(i), move_frames) };
        Self {
            passes: from_fn(pass),
            lengths: Lengths::new(settings.lengths, rate_hz),
            gain: Ramp::new(settings.gain, move_frames),
        }
    }

    /// Moves to other settings.
    pub fn set(&mut self, settings: &ChainSettings) {
        let idle = self.is_idle();
        self.lengths.set(settings.lengths);
        if idle {
            self.lengths.settle();
        }
        // Those that go keep their gain until they are gone.
        if settings.gain != 0.0 && settings.count > 0 {
            self.gain.set(settings.gain);
        }
        for (i, pass) in self.passes.iter_mut().enumerate() {
            if pass.share.rests_at(0.0) && settings.share(i) > 0.0 {
                // What it held when it went is not heard again.
                pass.ring.clear();
            }
            pass.share.set(settings.share(i));
        }
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.lengths.settle();
        self.gain.settle();
        for pass in &mut self.passes {
            pass.ring.clear();
            pass.share.settle();
        }
    }

    fn is_idle(&self) -> bool {
        self.passes.iter().all(|pass| pass.share.rests_at(0.0)) && self.lengths.is_settled()
    }

    /// Sends a block through it.
    pub fn process(&mut self, block: &mut [f32]) {
        if self.is_idle() {
            self.gain.skip(block.len());
            return;
        }
        let mut rest = block;
        while !rest.is_empty() {
            self.lengths.begin();
            let run = rest.len().min(RUN).min(self.lengths.shortest().max(1));
            let run = self.lengths.moves_for().map_or(run, |left| run.min(left));
            let (now, later) = rest.split_at_mut(run);
            widest(
                #[inline(always)]
                || self.run(now),
            );
            rest = later;
        }
    }

    #[inline(always)]
    fn run(&mut self, block: &mut [f32]) {
        let n = block.len();
        let mut gains = [0.0; RUN];
        self.gain.fill(&mut gains[..n]);
        let news: Option<[f64; RUN]> = self.lengths.next_shares(n);
        let news = news.map(|news| news.map(cast::sample));
        let mut samples = [0.0; RUN];
        samples[..n].copy_from_slice(block);
        for (i, pass) in self.passes.iter_mut().enumerate() {
            pass.run(&mut samples, n, &gains, (self.lengths.from[i], self.lengths.to[i]), news.as_ref());
        }
        block.copy_from_slice(&samples[..n]);
    }
}

impl AllPass {
    /// The first few samples, no more than the delays are long, with the gain at every sample, and the share of the second delay
    /// while it is on its way there.
    #[inline(always)]
    fn run(
        &mut self,
        samples: &mut [f32; RUN],
        n: usize,
        gains: &[f32; RUN],
        (from, to): (usize, usize),
        news: Option<&[f32; RUN]>,
    ) {
        if self.share.rests_at(0.0) {
            return;
        }
        let mut back: [f32; RUN] = self.ring.read(to);
        if let Some(news) = news {
            let old: [f32; RUN] = self.ring.read(from);
            for ((back, old), new) in back.iter_mut().zip(&old).zip(news) {
                *back = new * *back + (1.0 - new) * old;
            }
        }
        let beside = (!self.share.rests_at(1.0)).then_some(*samples);
        let mut written = [0.0f32; RUN];
        for (((x, w), g), written) in samples.iter_mut().zip(&back).zip(gains).zip(&mut written) {
            let v = *x - g * w;
            *x = g * v + w;
            *written = v;
        }
        if let Some(beside) = beside {
            for ((x, beside), written) in samples[..n].iter_mut().zip(&beside).zip(&mut written) {
                let share = cast::sample(self.share.next_value());
                *x = share * *x + (1.0 - share) * beside;
                // What comes back later begins as softly.
                *written *= share;
            }
        }
        self.ring.extend(&written, n);
    }
}
