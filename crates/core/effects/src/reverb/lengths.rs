//! Delays of whole samples, and what goes over to others by a cross-fade: nothing slides, so nothing is heard at another pitch.

use std::array::from_fn;

use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;

/// How long a cross-fade to other delays takes, s.
pub const FADE_S: f64 = 0.06;

/// Delays, samples, that go over to others in step.
pub type Lengths<const N: usize> = Fading<[usize; N]>;

/// Something that other things of its kind are reached from by a cross-fade.
#[derive(Debug, Clone)]
pub struct Fading<T> {
    /// What is left.
    pub from: T,
    /// What is reached.
    pub to: T,
    /// What was asked for while a cross-fade ran.
    next: T,
    share: Ramp,
}

impl<T: Copy + PartialEq> Fading<T> {
    /// At rest.
    #[must_use]
    pub fn new(at: T, rate_hz: u32) -> Self {
        let share = Ramp::new(1.0, cast::frames(FADE_S, rate_hz));
        Self { from: at, to: at, next: at, share }
    }

    /// Asks for another one.
    pub fn set(&mut self, next: T) {
        self.next = next;
    }

    /// Arrives at once.
    pub fn settle(&mut self) {
        (self.from, self.to) = (self.next, self.next);
        self.share = Ramp::new(1.0, self.share.length());
    }

    /// Begins a cross-fade where one is due and none runs. Called before every stretch.
    pub fn begin(&mut self) {
        if self.next != self.to && self.share.left() == 0 {
            (self.from, self.to) = (self.to, self.next);
            self.share = Ramp::new(0.0, self.share.length());
            self.share.set(1.0);
        }
    }

    /// Whether it is what was asked for last.
    #[must_use]
    pub fn is_settled(&self) -> bool {
        self.next == self.to && self.share.left() == 0
    }

    /// Samples until the cross-fade that runs is over; none at rest.
    #[must_use]
    pub fn moves_for(&self) -> Option<usize> {
        Some(self.share.left()).filter(|left| *left > 0)
    }

    /// The shares of what is reached at the next few samples; none at rest.
    pub fn next_shares<const M: usize>(&mut self, frames: usize) -> Option<[f64; M]> {
        self.moves_for()?;
        let mut shares = [1.0; M];
        shares[..frames].iter_mut().for_each(|share| *share = self.share.next_value());
        Some(shares)
    }
}

impl<const N: usize> Lengths<N> {
    /// The shortest delay that is read.
    #[must_use]
    pub fn shortest(&self) -> usize {
        self.from.iter().chain(&self.to).copied().min().unwrap_or(0)
    }
}

/// Samples that were written, as far back as its length; a power of two, so that places go round by themselves.
#[derive(Debug, Clone)]
pub struct Ring {
    samples: Vec<f32>,
    mask: usize,
    at: usize,
}

impl Ring {
    /// A ring for delays of at most so many samples, read and written in stretches of at most `run`.
    #[must_use]
    pub fn new(most: usize, run: usize) -> Self {
        let size = (most + run + 1).next_power_of_two();
        Self { samples: vec![0.0; size], mask: size - 1, at: 0 }
    }

    /// Writes the first few of some samples.
    #[inline(always)]
    pub fn extend<const N: usize>(&mut self, block: &[f32; N], count: usize) {
        let place = self.at & self.mask;
        match self.samples.get_mut(place..place + N).and_then(|to| <&mut [f32; N]>::try_from(to).ok()) {
            // Of a known length, they are copied without a call.
            Some(to) if count == N => *to = *block,
            _ => {
                let first = count.min(self.samples.len() - place);
                self.samples[place..place + first].copy_from_slice(&block[..first]);
                self.samples[..count - first].copy_from_slice(&block[first..count]);
            }
        }
        self.at = self.at.wrapping_add(count);
    }

    /// The samples that were written from so long before the next one on; those that are not written yet are of no use.
    #[inline(always)]
    #[must_use]
    pub fn read<const N: usize>(&self, delay: usize) -> [f32; N] {
        let place = self.at.wrapping_sub(delay) & self.mask;
        match self.samples.get(place..place + N).and_then(|from| <[f32; N]>::try_from(from).ok()) {
            Some(from) => from,
            None => std::array::from_fn(|i| self.samples[(place + i) & self.mask]),
        }
    }

    /// Forgets all earlier samples.
    pub fn clear(&mut self) {
        self.samples.fill(0.0);
    }
}

/// Lengths spread evenly on a logarithmic axis between two ratios, moved by a random share of their distance, with a mean of 1.
#[must_use]
pub fn spread<const N: usize>(
    count: usize,
    (least, most): (f64, f64),
    mut random: impl FnMut() -> f64,
) -> [f64; N] {
    /// How far a length may leave its place, of the distance to the next one.
    const JITTER: f64 = 0.35;
    let place = |i: usize, random: f64| (cast::real(i) + 0.5 + JITTER * random) / cast::real(count.max(1));
    let ratios: [f64; N] =
        from_fn(|i| if i < count { least * (most / least).powf(place(i, random())) } else { 1.0 });
    let mean = ratios[..count].iter().sum::<f64>() / cast::real(count.max(1));
    ratios.map(|ratio| ratio / mean)
}
