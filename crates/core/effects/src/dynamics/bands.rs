//! Crossovers whose bands add up flat.

use clear_bend_sound::dsp::{Corner, StateVariable};

/// One crossover of two channels, of the fourth order after Linkwitz and Riley (JAES 24(1), 1976): each side is two
/// Butterworth filters one after the other, 6.02 dB down at the crossover; both add up to an all-pass.
#[derive(Debug, Clone, Copy, Default)]
pub struct Split {
    /// Shared by both sides: its low and high part are one filter.
    first: StateVariable,
    low: StateVariable,
    high: StateVariable,
}

impl Split {
    /// The sides under and over the corner.
    #[inline]
    pub fn step(&mut self, corner: &Corner, x: f64) -> (f64, f64) {
        let parts = self.first.step(corner, x);
        (self.low.step(corner, parts.low).low, self.high.step(corner, parts.high).high)
    }
}
