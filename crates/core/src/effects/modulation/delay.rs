//! A delay that is read between its samples.

use std::f64::consts::PI;
use std::sync::LazyLock;

use crate::cast;
use crate::dsp::Kaiser;

/// Samples to each side of the place that is read. With Kaiser's window for this stop-band a delay between two samples is flat within
/// 0.05 dB up to three quarters of half the rate, 18 kHz at 48 kHz (Laakso and others, "Splitting the unit delay", IEEE Signal
/// Processing Magazine 13(1), 1996; Kaiser's formula for the length).
const SIDE: usize = 6;
const STOP_DB: f64 = 47.0;
/// Places between two samples for which taps are kept; between those, taps go in straight lines, off by less than 3e-5.
const PLACES: usize = 128;

/// Windowed sincs with 1 to [`SIDE`] samples to each side: what has hardly been written yet is read with as many as there are. At whole
/// samples all of them are the sample itself, so that a moving delay goes from one to the other without a step. A row holds the
/// taps of a place, and then how far it is to those of the next one.
static TAPS: LazyLock<[Vec<f32>; SIDE]> = LazyLock::new(|| {
    std::array::from_fn(|k| {
        let (side, window) = (k + 1, Kaiser::new(STOP_DB));
        let tap = |place: usize, i: usize| {
            let away = cast::real(side) - cast::real(i) - cast::real(place) / cast::real(PLACES);
            let share = away / cast::real(side);
            let sinc = if away == 0.0 { 1.0 } else { (PI * away).sin() / (PI * away) };
            if share.abs() >= 1.0 { 0.0 } else { cast::sample(sinc * window.at(share)) }
        };
        let row = |place: usize| (0..2 * side).map(move |i| tap(place, i));
        (0..PLACES)
            .flat_map(|at| row(at).chain(row(at + 1).zip(row(at)).map(|(next, tap)| next - tap)))
            .collect()
    })
});

/// Samples of one channel, read so long ago as is wanted, also between two of them.
#[derive(Debug, Clone)]
pub struct SwungDelay {
    taps: &'static [Vec<f32>; SIDE],
    /// Every sample stands in both halves, so that neighbours always lie side by side.
    ring: Vec<f32>,
    size: usize,
    at: usize,
}

impl SwungDelay {
    /// For delays of at most so many samples.
    #[must_use]
    pub fn new(most: usize) -> Self {
        let size = (most + SIDE + 2).next_power_of_two();
        Self { taps: &TAPS, ring: vec![0.0; 2 * size], size, at: 0 }
    }

    /// The longest delay that can be read, samples.
    #[must_use]
    pub fn most(&self) -> f64 {
        cast::real(self.size - SIDE - 2)
    }

    /// Writes the next sample.
    #[inline]
    pub fn push(&mut self, x: f32) {
        self.ring[self.at] = x;
        self.ring[self.at + self.size] = x;
        self.at = (self.at + 1) & (self.size - 1);
    }

    /// How many samples in a row can be read before any of them is written, for delays of at least so many samples.
    #[must_use]
    pub fn stretch(shortest: f64) -> usize {
        (cast::floor(shortest) + 1).saturating_sub(SIDE).max(1)
    }

    /// The sound that was written so many samples before the last one, as it will be when so many more have been written.
    #[inline]
    #[must_use]
    pub fn read(&self, delay: f64, later: usize) -> f32 {
        let places = delay * cast::real(PLACES);
        let fixed = cast::floor(places);
        let (whole, place) = (fixed / PLACES, fixed % PLACES);
        let between = cast::sample(places - cast::real(fixed));
        let side = (whole + 1).min(SIDE);
        // The last one written stands at `at - 1`.
        let oldest = (self.at + later + self.size - 1 - whole - side) & (self.size - 1);
        let row = &self.taps[side - 1][4 * side * place..];
        if side == SIDE {
            weighed::<{ SIDE / 2 }>(&self.ring[oldest..], row, between)
        } else {
            let (taps, rises) = row.split_at(2 * side);
            (0..2 * side).map(|i| self.ring[oldest + i] * (taps[i] + between * rises[i])).sum()
        }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.ring.fill(0.0);
        self.at = 0;
    }
}

/// So many times four samples by taps that lie between two rows.
#[inline(always)]
fn weighed<const FOURS: usize>(samples: &[f32], row: &[f32], between: f32) -> f32 {
    let (samples, row) = (samples.as_chunks::<4>().0, row.as_chunks::<4>().0);
    let (Some(samples), Some(taps), Some(rises)) =
        (samples.first_chunk::<FOURS>(), row.first_chunk::<FOURS>(), row[FOURS..].first_chunk::<FOURS>())
    else {
        return 0.0;
    };
    // Four sums side by side.
    let mut sums = [0.0f32; 4];
    for ((x, tap), rise) in samples.iter().zip(taps).zip(rises) {
        for lane in 0..4 {
            sums[lane] += x[lane] * (tap[lane] + between * rise[lane]);
        }
    }
    (sums[0] + sums[1]) + (sums[2] + sums[3])
}
