//! Eight samples for one: room above the audible range for what a bent wave adds, so that it does not fold back.
//!
//! Three half-band stages up and three down (Kaiser-windowed, linear phase). A half-band filter has every other tap
//! zero, so one branch of each stage is a plain delay (Crochiere and Rabiner, "Multirate Digital Signal Processing",
//! 1983, chapter 5).

use std::f64::consts::PI;

use super::{Kaiser, symmetric};
use crate::cast;

/// Samples that are made of one.
pub const FACTOR: usize = 8;

/// Half-band lengths are `4 k + 3`; `k` of the three stages. The first leaves 0 to 20 kHz whole at 48 kHz and takes
/// what folds back from 28 kHz on; the others have wide gaps to work in.
const STAGES: [usize; 3] = [17, 5, 4];

/// Samples at the high rate by which the result is held back, so that the whole delay is a whole number of samples.
const PAD: usize = 2;

/// Frames by which the way up and down delays the signal.
pub const LATENCY: usize = {
    let mut eighths = PAD;
    let mut stage = 0;
    while stage < STAGES.len() {
        eighths += (4 * STAGES[stage] + 2) * (FACTOR >> (stage + 1));
        stage += 1;
    }
    assert!(eighths.is_multiple_of(FACTOR));
    eighths / FACTOR
};

/// Samples at the high rate by which the way up delays the signal: half of the way up and down.
const UP: usize = (FACTOR * LATENCY - PAD) / 2;

/// Stop-band attenuation for which the windows are designed, dB.
const STOP_DB: f64 = 90.0;

/// One channel on its way up, through a curve, and down.
#[derive(Debug, Clone)]
pub struct Oversampler {
    up: [HalfBand; 3],
    down: [HalfBand; 3],
    from: Vec<f32>,
    to: Vec<f32>,
    pad: [f32; PAD],
}

impl Oversampler {
    /// An oversampler for blocks of at most `max_block`.
    #[must_use]
    pub fn new(max_block: usize) -> Self {
        let stage = |i: usize, ways: usize| HalfBand::new(STAGES[i], max_block << i, ways);
        let room = vec![0.0; FACTOR * max_block];
        Self {
            up: [stage(0, 1), stage(1, 1), stage(2, 1)],
            down: [stage(0, 2), stage(1, 2), stage(2, 2)],
            from: room.clone(),
            to: room,
            pad: [0.0; PAD],
        }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.up.iter_mut().chain(&mut self.down).for_each(HalfBand::reset);
        self.pad = [0.0; PAD];
    }

    /// Sends a block through `curve`, which gets all samples at the high rate, eight for each of the block.
    pub fn process(&mut self, block: &mut [f32], curve: impl FnOnce(&mut [f32])) {
        let n = block.len();
        if n == 0 {
            return;
        }
        self.from[..n].copy_from_slice(block);
        for (i, stage) in self.up.iter_mut().enumerate() {
            stage.up(&self.from[..n << i], &mut self.to[..n << (i + 1)]);
            std::mem::swap(&mut self.from, &mut self.to);
        }
        let high = FACTOR * n;
        curve(&mut self.from[..high]);
        // The last samples wait for the next block; those of the last one come first.
        let mut pad = [0.0; PAD];
        pad.copy_from_slice(&self.from[high - PAD..high]);
        self.from.copy_within(..high - PAD, PAD);
        self.from[..PAD].copy_from_slice(&self.pad);
        self.pad = pad;
        for (i, stage) in self.down.iter_mut().enumerate().rev() {
            stage.down(&self.from[..n << (i + 1)], &mut self.to[..n << i]);
            std::mem::swap(&mut self.from, &mut self.to);
        }
        block.copy_from_slice(&self.from[..n]);
    }
}

/// A whole sound with eight samples for one, in time with it.
#[must_use]
pub fn up(sound: &[f32]) -> Vec<f32> {
    let mut from = sound.to_vec();
    from.resize(sound.len() + UP.div_ceil(FACTOR), 0.0);
    for k in STAGES {
        let mut to = vec![0.0; 2 * from.len()];
        HalfBand::new(k, from.len(), 1).up(&from, &mut to);
        from = to;
    }
    from.drain(..UP);
    from.truncate(FACTOR * sound.len());
    from
}

/// One half-band stage, up or down.
#[derive(Debug, Clone)]
pub struct HalfBand {
    k: usize,
    /// Every other tap, the first half of the symmetric row, for the way up; halved on the way down.
    taps: Vec<f32>,
    /// The last samples of either branch, then room for one block.
    branches: Vec<Vec<f32>>,
    /// Room for one block.
    row: Vec<f32>,
}

impl HalfBand {
    /// A stage of length `4 k + 3` for blocks of at most `max_block` at its low rate; the way up has one branch, the way
    /// down two.
    #[must_use]
    pub fn new(k: usize, max_block: usize, branches: usize) -> Self {
        let branch = vec![0.0; 2 * k + 1 + max_block];
        Self { k, taps: half_band(k), branches: vec![branch; branches], row: vec![0.0; max_block] }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.branches.iter_mut().for_each(|branch| branch.fill(0.0));
    }

    /// Two samples for one. Of the whole filter, even outputs see the taps, odd ones the middle.
    pub fn up(&mut self, x: &[f32], out: &mut [f32]) {
        let (n, k) = (x.len(), self.k);
        let history = 2 * k + 1;
        let past = &mut self.branches[0];
        past[history..history + n].copy_from_slice(x);
        symmetric(&self.taps, None, past, &mut self.row[..n]);
        let branches = self.row.iter().zip(&past[history - k..]);
        for (pair, (even, odd)) in out.chunks_exact_mut(2).zip(branches) {
            (pair[0], pair[1]) = (*even, *odd);
        }
        past.copy_within(n..n + history, 0);
    }

    /// One sample for two.
    fn down(&mut self, x: &[f32], out: &mut [f32]) {
        let (n, k) = (out.len(), self.k);
        let history = 2 * k + 1;
        let [even, odd] = &mut self.branches[..] else { return };
        for (i, pair) in x.chunks_exact(2).enumerate() {
            even[history + i] = pair[0];
            odd[history + i] = pair[1];
        }
        symmetric(&self.taps, None, even, out);
        // The sample of the odd branch before the present one, k further back.
        for (out, middle) in out.iter_mut().zip(&odd[history - k - 1..]) {
            *out = 0.5 * (*out + middle);
        }
        even.copy_within(n..n + history, 0);
        odd.copy_within(n..n + history, 0);
    }
}

/// The even taps of a half-band filter of length `4 k + 3`, times two, the first half of the row.
fn half_band(k: usize) -> Vec<f32> {
    let middle = cast::real(2 * k + 1);
    let window = Kaiser::new(STOP_DB);
    let tap = |i: usize| {
        let t = cast::real(i) - middle;
        (PI * t / 2.0).sin() / (PI * t) * window.at(t / (middle + 1.0))
    };
    let even: Vec<f64> = (0..=k).map(|r| tap(2 * r)).collect();
    // Both branches have the same gain at 0 Hz.
    let sum: f64 = even.iter().sum::<f64>() * 2.0;
    even.iter().map(|tap| cast::sample(tap / sum)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn tone(freq: f64, n: usize) -> Vec<f32> {
        (0..n).map(|i| cast::sample((2.0 * PI * freq * cast::real(i)).sin())).collect()
    }

    /// A whole sound on its way up is the same tone in time with it, away from its ends.
    #[test]
    fn a_whole_sound_goes_up_in_time() {
        for freq in [0.001, 0.1, 0.3, 0.4] {
            let (low, high) = (tone(freq, 400), tone(freq / 8.0, 3200));
            let up = up(&low);
            assert_eq!(up.len(), high.len());
            let off =
                up.iter().zip(&high).skip(800).take(1600).map(|(x, y)| (x - y).abs()).fold(0.0, f32::max);
            assert!(off < 1e-3, "{freq}: {off}");
        }
    }

    /// Up and down alone is a delay, for what lies under 20 kHz at 48 kHz.
    #[test]
    fn what_is_not_bent_only_comes_later() {
        for freq_hz in [100.0, 5_000.0, 19_000.0] {
            let x = tone(freq_hz / 48_000.0, 4000);
            let mut y = x.clone();
            let mut over = Oversampler::new(64);
            y.chunks_mut(64).for_each(|block| over.process(block, |_| {}));
            let off =
                x[400..3000].iter().zip(&y[400 + LATENCY..]).map(|(x, y)| (x - y).abs()).fold(0.0, f32::max);
            assert!(off < 1e-3, "{freq_hz} Hz: {off}");
        }
    }
}
