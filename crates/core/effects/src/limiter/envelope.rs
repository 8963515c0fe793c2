//! The gain of a limiter: down in time for the peak that comes, and back at its own pace.

use clear_bend_sound::cast;

/// A gain in dB, held over the lookahead, released, and drawn as two moving means, one after the other, that end where
/// the peak begins: no step, no corner, and never above what the peak needs.
///
/// With a lookahead of L samples, the smallest gain of the last L + 1 is held; the means are L + 2 samples long
/// together, so that at the peak both have seen nothing but held gain.
#[derive(Debug, Clone)]
pub(super) struct Envelope {
    /// Gains that are not above any later one of the window, with their places: a queue in a ring.
    queue: Vec<(usize, f32)>,
    first: usize,
    length: usize,
    place: usize,
    lookahead: usize,
    release: f64,
    released: f64,
    means: [Mean; 2],
}

impl Envelope {
    pub(super) fn new(most: usize, lookahead: usize) -> Self {
        let mut envelope = Self {
            queue: vec![(0, 0.0); most + 2],
            first: 0,
            length: 0,
            place: 0,
            lookahead,
            release: 1.0,
            released: 0.0,
            means: [Mean::new(most + 2), Mean::new(most + 2)],
        };
        envelope.set_lookahead(lookahead);
        envelope
    }

    /// Another lookahead, at most one sample from the last one while sound runs.
    pub(super) fn set_lookahead(&mut self, lookahead: usize) {
        self.lookahead = lookahead;
        self.means[0].set_length(lookahead / 2 + 1);
        self.means[1].set_length(lookahead - lookahead / 2 + 1);
    }

    /// The share of the way back that one sample covers.
    pub(super) fn set_release(&mut self, share: f64) {
        self.release = share;
    }

    pub(super) fn reset(&mut self) {
        (self.first, self.length, self.released) = (0, 0, 0.0);
        self.means.iter_mut().for_each(Mean::reset);
    }

    /// The next gain that is needed, dB (0 or negative); gives the gain for the sample `lookahead` before it.
    #[inline]
    pub(super) fn push(&mut self, gain_db: f32) -> f32 {
        let size = self.queue.len();
        let at = |i: usize| if i >= size { i - size } else { i };
        self.place += 1;
        if self.place > 1 << 30 {
            // Days of sound do not overflow the count; what is still in the queue is younger than a second.
            let back = self.place - (1 << 20);
            self.queue.iter_mut().for_each(|(place, _)| *place = place.saturating_sub(back));
            self.place -= back;
        }
        while self.length > 0 && self.queue[at(self.first + self.length - 1)].1 >= gain_db {
            self.length -= 1;
        }
        self.queue[at(self.first + self.length)] = (self.place, gain_db);
        self.length += 1;
        while self.queue[self.first].0 + self.lookahead < self.place {
            self.first = at(self.first + 1);
            self.length -= 1;
        }
        let held = f64::from(self.queue[self.first].1);
        let way = held - self.released;
        self.released += if way < 0.0 { way } else { way * self.release };
        if self.released > -1e-9 {
            self.released = 0.0;
        }
        let once = self.means[0].push(self.released);
        cast::sample(self.means[1].push(once))
    }
}

/// The mean of the last few values.
#[derive(Debug, Clone)]
struct Mean {
    ring: Vec<f64>,
    at: usize,
    length: usize,
    sum: f64,
}

impl Mean {
    fn new(most: usize) -> Self {
        Self { ring: vec![0.0; most], at: 0, length: 1, sum: 0.0 }
    }

    fn reset(&mut self) {
        self.ring.fill(0.0);
        self.sum = 0.0;
    }

    fn value(&self, back: usize) -> f64 {
        let size = self.ring.len();
        self.ring[(self.at + size - back) % size]
    }

    fn set_length(&mut self, length: usize) {
        self.length = length.clamp(1, self.ring.len());
        self.sum = (1..=self.length).map(|back| self.value(back)).sum();
    }

    #[inline]
    fn push(&mut self, value: f64) -> f64 {
        let size = self.ring.len();
        let out = self.at + size - self.length;
        self.sum += value - self.ring[if out >= size { out - size } else { out }];
        self.ring[self.at] = value;
        self.at += 1;
        if self.at == size {
            // Once around, the sum is made anew, so that rounding errors do not pile up.
            self.at = 0;
            self.sum = self.ring[size - self.length..].iter().sum();
        }
        self.sum / cast::real(self.length)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// The published idea of a lookahead limiter, checked sample by sample: at every sample the gain is at most
        /// what that sample needs.
        #[test]
        fn the_gain_is_never_above_what_is_needed(
            needs in prop::collection::vec(prop_oneof![Just(0f32), -40f32..0.0], 1..400),
            lookahead in 0usize..48,
            release in 0.001f64..1.0,
        ) {
            let mut envelope = Envelope::new(48, lookahead);
            envelope.set_release(release);
            for k in 0..needs.len() + lookahead {
                let gain = envelope.push(needs.get(k).copied().unwrap_or(0.0));
                if k >= lookahead {
                    prop_assert!(gain <= needs[k - lookahead] + 1e-4, "{k}: {gain} for {}", needs[k - lookahead]);
                }
            }
        }
    }
}
