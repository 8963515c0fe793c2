//! A delay of a whole number of samples.

/// Gives back every sample a fixed number of samples later, zeros first.
#[derive(Debug, Clone)]
pub struct Delay {
    ring: Vec<f32>,
    at: usize,
}

impl Delay {
    /// A delay of `frames` samples; 0 passes the signal as it is.
    #[must_use]
    pub fn new(frames: usize) -> Self {
        Self { ring: vec![0.0; frames], at: 0 }
    }

    /// Its length, samples.
    #[must_use]
    pub fn frames(&self) -> usize {
        self.ring.len()
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.ring.fill(0.0);
    }

    /// Delays a block in place.
    pub fn process(&mut self, block: &mut [f32]) {
        if self.ring.is_empty() {
            return;
        }
        let mut rest = block;
        while !rest.is_empty() {
            let run = rest.len().min(self.ring.len() - self.at);
            let (now, later) = rest.split_at_mut(run);
            now.swap_with_slice(&mut self.ring[self.at..self.at + run]);
            self.at = (self.at + run) % self.ring.len();
            rest = later;
        }
    }
}
