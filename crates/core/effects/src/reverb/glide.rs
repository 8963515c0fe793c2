//! Many numbers that go to others in straight lines, together.

use clear_bend_sound::cast;

/// Numbers that are moved together.
pub trait Numbers: Copy + PartialEq {
    /// Changes every number by the one in the same place of others.
    fn each(&mut self, other: &Self, change: impl FnMut(&mut f64, f64));
}

/// Numbers on their way to others, which they reach after a fixed number of samples.
#[derive(Debug, Clone)]
pub struct Glide<N> {
    /// Where they are.
    pub now: N,
    target: N,
    step: N,
    left: usize,
    length: usize,
}

impl<N: Numbers> Glide<N> {
    /// At rest; every later move takes so many samples.
    #[must_use]
    pub fn new(now: N, length: usize) -> Self {
        Self { now, target: now, step: now, left: 0, length }
    }

    /// Begins to move to others from where they are.
    pub fn set(&mut self, target: N) {
        if target == self.target {
            return;
        }
        (self.target, self.step, self.left) = (target, target, self.length);
        let part = 1.0 / cast::real(self.length.max(1));
        self.step.each(&self.now, |to, from| *to = (*to - from) * part);
    }

    /// Where they go.
    #[must_use]
    pub fn target(&self) -> &N {
        &self.target
    }

    /// Arrives at once.
    pub fn settle(&mut self) {
        self.left = 0;
        self.now = self.target;
    }

    /// Whether they have arrived.
    #[must_use]
    pub fn rests(&self) -> bool {
        self.left == 0
    }

    /// Goes on by some samples.
    #[inline]
    pub fn skip(&mut self, samples: usize) {
        if self.left == 0 {
            return;
        }
        let samples = samples.min(self.left);
        self.left -= samples;
        if self.left == 0 {
            self.now = self.target;
        } else if samples == 1 {
            self.now.each(&self.step, |now, step| *now += step);
        } else {
            let times = cast::real(samples);
            self.now.each(&self.step, |now, step| *now += times * step);
        }
    }
}
