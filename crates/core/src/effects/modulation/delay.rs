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
const PLACES_F32: f32 = 128.0;
/// A number of which this is taken and to which it is added is rounded: 1.5 * 2^23.
const ROUNDS: f32 = 12_582_912.0;

/// How [`SIDE`] samples to each side are weighed at a place between two samples, and then how far each weight is to those of the
/// next place.
type Row = [[f32; 4]; SIDE];

/// Weights for every place. With fewer samples to a side, which is how what has hardly been written yet is read, they are those of
/// the polynomial through all of them, which is right for lows with any number; with all of them a windowed sinc. At whole samples
/// every one is the sample itself, so that a moving delay goes from one to the other without a step.
#[derive(Debug)]
struct Taps {
    few: [Vec<f32>; SIDE - 1],
    all: Box<[Row; PLACES]>,
}

static TAPS: LazyLock<Taps> = LazyLock::new(|| {
    let rows = |side: usize, tap: fn(usize, f64, usize) -> f64| {
        let row = move |place: usize| {
            (0..2 * side).map(move |i| {
                let at = cast::real(side) - 1.0 + cast::real(place) / cast::real(PLACES);
                tap(2 * side, cast::real(2 * side - 1) - at, i)
            })
        };
        let rise = move |at: usize| row(at + 1).zip(row(at)).map(|(next, tap)| next - tap);
        (0..PLACES).flat_map(move |at| row(at).chain(rise(at)).map(cast::sample))
    };
    let mut all = Box::new([[[0.0; 4]; SIDE]; PLACES]);
    all.as_flattened_mut()
        .as_flattened_mut()
        .iter_mut()
        .zip(rows(SIDE, sinc))
        .for_each(|(at, tap)| *at = tap);
    Taps { few: std::array::from_fn(|k| rows(k + 1, lagrange).collect()), all }
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
    taps: &'static Taps,
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
    pub fn stretch(shortest: f32) -> usize {
        (cast::floor(f64::from(shortest)) + 1).saturating_sub(SIDE).clamp(1, STRETCH)
    }

    /// The sound of so many samples before the last one written, and before those that are going to be written after it.
    #[inline]
    #[must_use]
    pub fn read(&self, ago: &Ago, count: usize) -> [f32; STRETCH] {
        // Four sums each, which are added up afterwards: so both are done four at a time.
        let mut sums = [[0.0; 4]; STRETCH];
        for (k, sums) in sums.iter_mut().enumerate().take(count) {
            let (fixed, between) = (ago.fixed[k] as usize, ago.between[k]);
            let (whole, place) = (fixed / PLACES, fixed % PLACES);
            let side = (whole + 1).min(SIDE);
            // The last one written stands at `at - 1`.
            let oldest = (self.at + k + self.size - 1 - whole - side) & (self.size - 1);
            let samples = &self.ring[oldest..];
            if side < SIDE {
                let row = &self.taps.few[side - 1][4 * side * place..];
                let (taps, rises) = row.split_at(2 * side);
                sums[0] = (0..2 * side).map(|i| samples[i] * (taps[i] + between * rises[i])).sum();
            } else if let Some(samples) = samples.as_chunks::<4>().0.first_chunk::<{ SIDE / 2 }>() {
                *sums = weighed(samples, &self.taps.all[place], between);
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

/// Samples by weights that lie between those of two places: four sums side by side.
#[inline(always)]
fn weighed(samples: &[[f32; 4]; SIDE / 2], row: &Row, between: f32) -> [f32; 4] {
    let mut sums = [0.0f32; 4];
    for (i, x) in samples.iter().enumerate() {
        for lane in 0..4 {
            sums[lane] += x[lane] * (row[i][lane] + between * row[SIDE / 2 + i][lane]);
        }
    }
    sums
}

/// How long ago a stretch of a sound is read, in whole places between two samples, and how far it is to the next place.
#[derive(Debug, Clone, Copy)]
pub struct Ago {
    fixed: [u32; STRETCH],
    between: [f32; STRETCH],
}

impl Ago {
    /// Now.
    pub const NONE: Self = Self { fixed: [0; STRETCH], between: [0.0; STRETCH] };

    /// So many samples ago, in whole ones and what is to be added to them: a sum of both would lose what is behind the point.
    #[inline]
    #[must_use]
    pub fn new(whole: &[f32; STRETCH], rest: &[f32; STRETCH]) -> Self {
        let mut ago = Self::NONE;
        for k in 0..STRETCH {
            let down = rounded_down(rest[k]);
            let places = (rest[k] - down) * PLACES_F32;
            let place = rounded_down(places);
            // A whole number may be taken for the end of what comes before it, also 0: the sum is never under it.
            ago.fixed[k] = low_bits((whole[k] + down) * PLACES_F32 + place);
            ago.between[k] = places - place;
        }
        ago
    }
}

/// A whole number under one that is small enough, at most 1 away: what is whole already may be taken for itself or for the end of
/// what comes before it.
#[inline(always)]
fn rounded_down(value: f32) -> f32 {
    ((value - 0.5) + ROUNDS) - ROUNDS
}

/// A small whole number as an integer: added to 1.5 * 2^23, it stands in the low bits of how that is written.
#[inline(always)]
fn low_bits(value: f32) -> u32 {
    (value + ROUNDS).to_bits() & 0x003f_ffff
}
