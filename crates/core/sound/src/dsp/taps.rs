//! A delay whose length may be moved.

use super::Ramp;
use crate::cast;

/// Gives back samples up to `most` samples later. Another delay is reached by a cross-fade, not by sliding: nothing
/// is heard at another pitch.
#[derive(Debug, Clone)]
pub struct MovedDelay {
    ring: Vec<f32>,
    at: usize,
    from: usize,
    to: usize,
    share: Ramp,
    /// A delay that was asked for during a cross-fade.
    next: usize,
}

impl MovedDelay {
    /// A delay of `frames`, at most `most`, with cross-fades of so many samples.
    #[must_use]
    pub fn new(frames: usize, most: usize, fade: usize) -> Self {
        let frames = frames.min(most);
        let share = Ramp::new(1.0, fade);
        Self { ring: vec![0.0; most + 1], at: 0, from: frames, to: frames, share, next: frames }
    }

    /// Begins to move to another delay.
    pub fn set(&mut self, frames: usize) {
        self.next = frames.min(self.ring.len() - 1);
    }

    /// The delay that was asked for last, frames.
    #[must_use]
    pub fn wanted(&self) -> usize {
        self.next
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.ring.fill(0.0);
        (self.from, self.to) = (self.next, self.next);
        self.share = Ramp::new(1.0, self.share.length());
    }

    /// Delays a block while the delay does not move, in stretches within which neither place wraps around.
    fn rest(&mut self, block: &mut [f32]) {
        let size = self.ring.len();
        let mut rest = block;
        while !rest.is_empty() {
            let from = if self.to > self.at { self.at + size - self.to } else { self.at - self.to };
            let run = rest.len().min(size - self.at).min(size - from);
            let (now, later) = rest.split_at_mut(run);
            for (i, x) in now.iter_mut().enumerate() {
                self.ring[self.at + i] = *x;
                *x = self.ring[from + i];
            }
            self.at = (self.at + run) % size;
            rest = later;
        }
    }

    /// Takes over everything from another one of the same length.
    pub fn follow(&mut self, other: &Self) {
        self.ring.copy_from_slice(&other.ring);
        (self.at, self.from, self.to, self.next) = (other.at, other.from, other.to, other.next);
        self.share.clone_from(&other.share);
    }

    /// Delays a block in place.
    pub fn process(&mut self, block: &mut [f32]) {
        if self.next == self.to && self.share.left() == 0 {
            self.rest(block);
            return;
        }
        let size = self.ring.len();
        for x in block {
            if self.next != self.to && self.share.left() == 0 {
                (self.from, self.to) = (self.to, self.next);
                self.share = Ramp::new(0.0, self.share.length());
                self.share.set(1.0);
            }
            self.ring[self.at] = *x;
            let back =
                |frames: usize| if frames > self.at { self.at + size - frames } else { self.at - frames };
            *x = self.ring[back(self.to)];
            if self.share.left() > 0 {
                let old = self.ring[back(self.from)];
                let share = cast::sample(self.share.next_value());
                *x = share * *x + (1.0 - share) * old;
            }
            self.at += 1;
            if self.at == size {
                self.at = 0;
            }
        }
    }
}
