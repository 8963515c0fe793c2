//! A parameter that moves without a step.

use crate::cast;

/// A value that goes to its target in a straight line over a fixed number of samples.
///
/// The line is counted in samples, so the result does not depend on how the signal is cut into blocks.
#[derive(Debug, Clone)]
pub struct Ramp {
    target: f64,
    step: f64,
    left: usize,
    length: usize,
}

impl Ramp {
    /// A ramp that rests at `value` and takes `length` samples for every later move.
    #[must_use]
    pub fn new(value: f64, length: usize) -> Self {
        Self { target: value, step: 0.0, left: 0, length }
    }

    /// Starts a move to `target` from wherever the value is now.
    pub fn set(&mut self, target: f64) {
        if target != self.target {
            let from = self.value();
            self.target = target;
            self.left = self.length;
            self.step = if self.length == 0 { 0.0 } else { (target - from) / cast::real(self.length) };
        }
    }

    /// Arrives at its target at once.
    pub fn settle(&mut self) {
        self.left = 0;
    }

    /// The present value.
    #[must_use]
    pub fn value(&self) -> f64 {
        self.target - self.step * cast::real(self.left)
    }

    /// Samples until the value rests.
    #[must_use]
    pub fn left(&self) -> usize {
        self.left
    }

    /// Samples that every move takes.
    #[must_use]
    pub fn length(&self) -> usize {
        self.length
    }

    /// Goes on by some samples.
    pub fn skip(&mut self, samples: usize) {
        self.left = self.left.saturating_sub(samples);
    }

    /// Whether the value is at rest at exactly `value`.
    #[must_use]
    pub fn rests_at(&self, value: f64) -> bool {
        self.left == 0 && self.target == value
    }

    /// The value at the next sample.
    #[inline]
    pub fn next_value(&mut self) -> f64 {
        self.left = self.left.saturating_sub(1);
        self.value()
    }

    /// Multiplies the same stretch of some channels.
    pub fn scale(&mut self, io: &mut [&mut [f32]]) {
        let start = self.clone();
        for channel in io {
            *self = start.clone();
            channel.iter_mut().for_each(|x| *x *= cast::sample(self.next_value()));
        }
    }

    /// Writes the values of the next `out.len()` samples.
    pub fn fill(&mut self, out: &mut [f32]) {
        let moving = self.left.min(out.len());
        for x in &mut out[..moving] {
            *x = cast::sample(self.next_value());
        }
        out[moving..].fill(cast::sample(self.target));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reaches_its_target_exactly_and_in_a_straight_line() {
        let mut ramp = Ramp::new(1.0, 4);
        ramp.set(3.0);
        let mut out = [0.0; 6];
        ramp.fill(&mut out[..3]);
        ramp.fill(&mut out[3..]);
        assert_eq!(out, [1.5, 2.0, 2.5, 3.0, 3.0, 3.0]);
        assert!(ramp.rests_at(3.0));
    }

    #[test]
    fn a_new_target_starts_from_where_the_value_is() {
        let mut ramp = Ramp::new(0.0, 4);
        ramp.set(4.0);
        ramp.next_value();
        ramp.next_value();
        ramp.set(0.0);
        assert_eq!(ramp.value(), 2.0);
        assert_eq!(ramp.next_value(), 1.5);
    }
}
