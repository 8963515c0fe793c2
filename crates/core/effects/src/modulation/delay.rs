//! A delay that is read between its samples.

use std::f64::consts::PI;
use std::sync::LazyLock;

use clear_bend_sound::cast;
use clear_bend_sound::dsp::Kaiser;

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

    /// Writes the next few samples of a stretch.
    #[inline(always)]
    pub fn extend(&mut self, stretch: &[f32; STRETCH], count: usize) {
        let (first, second) = self.ring.split_at_mut(self.size);
        let places =
            first.get_mut(self.at..self.at + STRETCH).zip(second.get_mut(self.at..self.at + STRETCH));
        match places {
            // Of a known length, they are copied without a call.
            Some(places) if count == STRETCH => {
                places.0.copy_from_slice(stretch);
                places.1.copy_from_slice(stretch);
            }
            _ => {
                for (i, x) in stretch.iter().enumerate().take(count) {
                    let at = (self.at + i) & (self.size - 1);
                    (first[at], second[at]) = (*x, *x);
                }
            }
        }
        self.at = (self.at + count) & (self.size - 1);
    }

    /// How many samples in a row can be read before any of them is written, for delays after the last one of at least so many whole
    /// samples.
    #[must_use]
    pub fn stretch(shortest: usize) -> usize {
        shortest.saturating_add(2).saturating_sub(SIDE).clamp(1, STRETCH)
    }

    /// Adds shares of the sound of so many samples before the last one written, and before those that are going to be written after
    /// it. Four sums each, which are added up at last: so both are done four at a time.
    #[inline(always)]
    pub fn read(&self, ago: &Ago, shares: &[f32; STRETCH], sums: &mut [[f32; 4]; STRETCH], count: usize) {
        // The last one written stands at `at - 1`; so far before the first of the stretch is the oldest sample that counts.
        let before = self.at + self.size - 1 - SIDE;
        if ago.whole_samples() >= SIDE - 1 {
            // A loop of a known length is faster; what is read too much is of no use.
            if 2 * count > STRETCH {
                for k in 0..STRETCH {
                    self.add_one(before, ago, k, shares, sums);
                }
            } else {
                for k in 0..count {
                    self.add_one(before, ago, k, shares, sums);
                }
            }
        } else {
            // What has hardly been written yet is read with fewer samples to a side.
            for k in 0..count {
                let (fixed, between) = (ago.fixed[k] as usize, ago.between[k]);
                let (whole, place) = (fixed / PLACES, fixed % PLACES);
                let side = whole + 1;
                if side >= SIDE {
                    self.add_one(before, ago, k, shares, sums);
                    continue;
                }
                let samples = &self.ring[(before + SIDE - side + k - whole) & (self.size - 1)..];
                let (taps, rises) = self.taps.few[side - 1][4 * side * place..].split_at(2 * side);
                let sum: f32 = (0..2 * side).map(|i| samples[i] * (taps[i] + between * rises[i])).sum();
                sums[k][0] += shares[k] * sum;
            }
        }
    }

    /// Adds one of them; `before` is the place of the oldest sample that counts of what came last.
    #[inline(always)]
    fn add_one(
        &self,
        before: usize,
        ago: &Ago,
        k: usize,
        shares: &[f32; STRETCH],
        sums: &mut [[f32; 4]; STRETCH],
    ) {
        let fixed = ago.fixed[k] as usize;
        let from = (before + k - fixed / PLACES) & (self.size - 1);
        let samples =
            self.ring.get(from..from + 2 * SIDE).and_then(|samples| samples.as_chunks().0.first_chunk());
        if let Some(samples) = samples {
            let row = &self.taps.all[fixed % PLACES];
            add(&mut sums[k], shares[k], weighed(samples, row, ago.between[k]));
        }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.ring.fill(0.0);
        self.at = 0;
    }
}

/// Adds a share of four sums to four others.
#[inline(always)]
fn add(sums: &mut [f32; 4], share: f32, more: [f32; 4]) {
    for lane in 0..4 {
        sums[lane] += share * more[lane];
    }
}

/// Samples by weights that lie between those of two places: four sums side by side.
#[inline(always)]
fn weighed(samples: &[[f32; 4]; SIDE / 2], row: &Row, between: f32) -> [f32; 4] {
    std::array::from_fn(|lane| {
        let part = |i: usize| samples[i][lane] * (row[i][lane] + between * row[SIDE / 2 + i][lane]);
        part(0) + part(1) + part(2)
    })
}

/// How long ago a stretch of a sound is read, in whole places between two samples, and how far it is to the next place.
#[derive(Debug, Clone, Copy)]
pub struct Ago {
    fixed: [u32; STRETCH],
    between: [f32; STRETCH],
    /// The least of the first ones.
    least: u32,
}

impl Ago {
    /// Now.
    pub const NONE: Self = Self { fixed: [0; STRETCH], between: [0.0; STRETCH], least: 0 };

    /// So many samples ago, in [`Ago::places`] of whole ones and samples that are to be added to them: a sum of both would lose what
    /// is behind the point.
    #[inline(always)]
    #[must_use]
    pub fn new(places: &[f32; STRETCH], rest: &[f32; STRETCH]) -> Self {
        let whole = places;
        let mut ago = Self::NONE;
        for k in 0..STRETCH {
            let down = rounded_down(rest[k]);
            let places = (rest[k] - down) * PLACES_F32;
            let place = rounded_down(places);
            // A whole number may be taken for the end of what comes before it, also 0: the sum is never under it.
            ago.fixed[k] = low_bits((whole[k] + down * PLACES_F32) + place);
            ago.between[k] = places - place;
        }
        ago.least = ago.fixed.iter().fold(u32::MAX, |least, fixed| least.min(*fixed));
        ago
    }

    /// Whole numbers of samples as whole numbers of places.
    #[inline(always)]
    #[must_use]
    pub fn places(whole: &[f32; STRETCH]) -> [f32; STRETCH] {
        whole.map(|whole| whole * PLACES_F32)
    }

    /// At least so many whole samples lie behind all of them.
    #[inline(always)]
    #[must_use]
    pub fn whole_samples(&self) -> usize {
        self.least as usize / PLACES
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
