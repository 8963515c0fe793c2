//! The largest of the last few samples.

use super::larger;

/// At each sample, the largest of it and the `window - 1` samples before it (zeros before the start).
///
/// A maximum over 2s samples is the larger of two maxima over s samples, so a window of any length takes
/// about log2(window) passes over the block, each of which compiles to SIMD lanes.
#[derive(Debug, Clone)]
pub struct SlidingMax {
    window: usize,
    /// The last `window - 1` input samples, then room for one block.
    input: Vec<f32>,
    from: Vec<f32>,
    to: Vec<f32>,
}

impl SlidingMax {
    /// A window of `window` samples (at least 1) for blocks of at most `max_block`.
    #[must_use]
    pub fn new(window: usize, max_block: usize) -> Self {
        let window = window.max(1);
        let room = vec![0.0; window - 1 + max_block];
        Self { window, input: room.clone(), from: room.clone(), to: room }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.input.fill(0.0);
    }

    /// Takes over what another one of the same length has seen.
    pub fn follow(&mut self, other: &Self) {
        self.input.copy_from_slice(&other.input);
    }

    /// Replaces each of the samples, which are not negative, by the largest of its window.
    pub fn process(&mut self, block: &mut [f32]) {
        let history = self.window - 1;
        let mut length = history + block.len();
        self.input[history..length].copy_from_slice(block);
        self.from[..length].copy_from_slice(&self.input[..length]);
        let mut span = 1;
        while span < self.window {
            let step = span.min(self.window - span);
            length -= step;
            let pairs = self.from[..length].iter().zip(&self.from[step..step + length]);
            for (out, (&a, &b)) in self.to[..length].iter_mut().zip(pairs) {
                *out = larger(a, b);
            }
            std::mem::swap(&mut self.from, &mut self.to);
            span += step;
        }
        self.input.copy_within(block.len()..block.len() + history, 0);
        block.copy_from_slice(&self.from[..length]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn agrees_with_the_obvious_search(
            x in prop::collection::vec(0f32..1.0, 1..200),
            window in 1usize..70,
            block in 1usize..64,
        ) {
            let expected: Vec<f32> = (0..x.len())
                .map(|i| x[(i + 1).saturating_sub(window)..=i].iter().copied().fold(0.0, f32::max))
                .collect();
            let mut found = x.clone();
            let mut max = SlidingMax::new(window, 64);
            found.chunks_mut(block).for_each(|b| max.process(b));
            prop_assert_eq!(found, expected);
        }
    }
}
