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
/// At most so many samples are read before they are written.
pub const STRETCH: usize = 16;
/// Places between two samples for which taps are kept; between those, taps go in straight lines, off by less than 3e-5.
const PLACES: usize = 128;
/// What a number is rounded by that it is added to.
const ROUNDS: f64 = 6_755_399_441_055_744.0;

/// Taps with 1 to [`SIDE`] samples to each side: what has hardly been written yet is read with as many as there are. Few of them are
/// those of the polynomial through all samples, which is right for lows with any number, all of them a windowed sinc. At whole
/// samples every one is the sample itself, so that a moving delay goes from one to the other without a step. A row holds the taps of
/// a place, and then how far it is to those of the next one.
static TAPS: LazyLock<[Vec<f32>; SIDE]> = LazyLock::new(|| {
    std::array::from_fn(|k| {
        let side = k + 1;
        let tap = if side == SIDE { sinc } else { lagrange };
        let row = move |place: usize| {
            (0..2 * side).map(move |i| {
                let at = cast::real(side) - 1.0 + cast::real(place) / cast::real(PLACES);
                tap(2 * side, cast::real(2 * side - 1) - at, i)
            })
        };
        let rise = |at: usize| row(at + 1).zip(row(at)).map(|(next, tap)| next - tap);
        (0..PLACES).flat_map(|at| row(at).chain(rise(at)).map(cast::sample)).collect()
    })
});

/// The tap of one of so many samples for a place between them, by a sinc under Kaiser's window.
fn sinc(count: usize, place: f64, i: usize) -> f64 {
    let away = place - cast::real(i);
    let share = away / (0.5 * cast::real(count));
    let sinc = if away == 0.0 { 1.0 } else { (PI * away).sin() / (PI * away) };
    if share.abs() >= 1.0 { 0.0 } else { sinc * Kaiser::new(STOP_DB).at(share) }
}

/// The same by the polynomial through all of them.
fn lagrange(count: usize, place: f64, i: usize) -> f64 {
    let others = (0..count).filter(|other| *other != i).map(cast::real);
    others.map(|other| (place - other) / (cast::real(i) - other)).product()
}

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
        (cast::floor(shortest) + 1).saturating_sub(SIDE).clamp(1, STRETCH)
    }

    /// The sound of so many samples before the last one written, and before those that are going to be written after it.
    #[inline]
    #[must_use]
    pub fn read(&self, delays: &[f64; STRETCH], count: usize) -> [f32; STRETCH] {
        let (mut fixed, mut between) = ([0u32; STRETCH], [0.0; STRETCH]);
        for k in 0..STRETCH {
            // Added to 1.5 * 2^52, what lies behind the point is rounded off, and the rest stands in the low bits: several at a time.
            let places = delays[k] * cast::real(PLACES);
            let rounded = (places - 0.5) + ROUNDS;
            fixed[k] = cast::low_bits(rounded);
            between[k] = cast::sample(places - (rounded - ROUNDS));
        }
        // Four sums each, which are added up afterwards: so both are done four at a time.
        let mut sums = [[0.0; 4]; STRETCH];
        for (k, sums) in sums.iter_mut().enumerate().take(count) {
            let fixed = fixed[k] as usize;
            let (whole, place) = (fixed / PLACES, fixed % PLACES);
            let side = (whole + 1).min(SIDE);
            // The last one written stands at `at - 1`.
            let oldest = (self.at + k + self.size - 1 - whole - side) & (self.size - 1);
            let (samples, row) = (&self.ring[oldest..], &self.taps[side - 1][4 * side * place..]);
            if side == SIDE {
                *sums = weighed::<{ SIDE / 2 }>(samples, row, between[k]);
            } else {
                let (taps, rises) = row.split_at(2 * side);
                sums[0] = (0..2 * side).map(|i| samples[i] * (taps[i] + between[k] * rises[i])).sum();
            }
        }
        sums.map(|[a, b, c, d]| (a + b) + (c + d))
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.ring.fill(0.0);
        self.at = 0;
    }
}

/// So many times four samples by taps that lie between two rows: four sums side by side.
#[inline(always)]
fn weighed<const FOURS: usize>(samples: &[f32], row: &[f32], between: f32) -> [f32; 4] {
    let (samples, row) = (samples.as_chunks::<4>().0, row.as_chunks::<4>().0);
    let mut sums = [0.0f32; 4];
    let (Some(samples), Some(taps), Some(rises)) =
        (samples.first_chunk::<FOURS>(), row.first_chunk::<FOURS>(), row[FOURS..].first_chunk::<FOURS>())
    else {
        return sums;
    };
    for ((x, tap), rise) in samples.iter().zip(taps).zip(rises) {
        for lane in 0..4 {
            sums[lane] += x[lane] * (tap[lane] + between * rise[lane]);
        }
    }
    sums
}
