//! Convolution with long kernels by partitions: overlap-save on the spectra of equal pieces (T. G. Stockham, 1966;
//! uniform partitions after W. G. Gardner, JAES 43(3), 1995).

use std::sync::Arc;

use realfft::{ComplexToReal, RealFftPlanner, RealToComplex};
use rustfft::num_complex::Complex64;

use crate::cast;

/// Kernels from each channel to each: `[to][from]`.
struct Kernels {
    /// The spectra of the pieces of each, one after the other.
    pieces: [[Vec<Complex64>; 2]; 2],
    /// Whether anything goes from one channel to the other.
    crosses: bool,
}

/// Convolves two channels with kernels that may be exchanged while sound runs. The result is one piece late.
pub struct Convolver {
    piece: usize,
    count: usize,
    forward: Arc<dyn RealToComplex<f64>>,
    backward: Arc<dyn ComplexToReal<f64>>,
    /// The piece before and the one that comes in, by channel.
    window: [Vec<f64>; 2],
    /// Spectra of the latest windows, by channel, as a ring that ends at `newest`.
    past: [Vec<Complex64>; 2],
    newest: usize,
    out: [Vec<f64>; 2],
    fill: usize,
    kernels: [Kernels; 2],
    now: usize,
    room: Room,
}

struct Room {
    time: Vec<f64>,
    sum: Vec<Complex64>,
    scratch: Vec<Complex64>,
}

impl Convolver {
    /// For kernels of `count` pieces of a length.
    #[must_use]
    pub fn new(piece: usize, count: usize) -> Self {
        let mut planner = RealFftPlanner::new();
        let (forward, backward) = (planner.plan_fft_forward(2 * piece), planner.plan_fft_inverse(2 * piece));
        let bins = piece + 1;
        let spectra = || vec![Complex64::default(); bins * count];
        let kernels = || Kernels { pieces: [(); 2].map(|()| [spectra(), spectra()]), crosses: false };
        let scratch = forward.get_scratch_len().max(backward.get_scratch_len());
        Self {
            piece,
            count,
            window: [(); 2].map(|()| vec![0.0; 2 * piece]),
            past: [spectra(), spectra()],
            newest: 0,
            out: [(); 2].map(|()| vec![0.0; piece]),
            fill: 0,
            kernels: [kernels(), kernels()],
            now: 0,
            room: Room {
                time: vec![0.0; 2 * piece],
                sum: vec![Complex64::default(); bins],
                scratch: vec![Complex64::default(); scratch],
            },
            forward,
            backward,
        }
    }

    /// Length of a kernel in samples.
    #[must_use]
    pub fn length(&self) -> usize {
        self.piece * self.count
    }

    /// Whether the next sample begins a piece: the moment to exchange kernels.
    #[must_use]
    pub fn at_seam(&self) -> bool {
        self.fill == 0
    }

    /// Samples until the next seam.
    #[must_use]
    pub fn until_seam(&self) -> usize {
        self.piece - self.fill
    }

    /// Writes the spectra of the pieces of a kernel to the kernels that come next.
    pub fn write(&mut self, to: usize, from: usize, kernel: &[f64]) {
        let next = &mut self.kernels[1 - self.now].pieces[to][from];
        let bins = self.piece + 1;
        for (taps, spectrum) in kernel.chunks(self.piece).zip(next.chunks_mut(bins)) {
            self.room.time.fill(0.0);
            self.room.time[..taps.len()].copy_from_slice(taps);
            let done =
                self.forward.process_with_scratch(&mut self.room.time, spectrum, &mut self.room.scratch);
            debug_assert!(done.is_ok(), "the lengths fit");
        }
    }

    /// Says whether the kernels that come next go from one channel to the other.
    pub fn write_crosses(&mut self, crosses: bool) {
        self.kernels[1 - self.now].crosses = crosses;
    }

    /// Takes the kernels that have been written, at once.
    pub fn switch(&mut self) {
        self.now = 1 - self.now;
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.window.iter_mut().chain(&mut self.out).for_each(|x| x.fill(0.0));
        self.past.iter_mut().for_each(|x| x.fill(Complex64::default()));
        self.fill = 0;
        self.newest = 0;
    }

    /// Convolves samples of one or two channels, at most up to the next seam. Where `fades`, the piece that ends there
    /// goes over from the present kernels to those that have been written.
    pub fn process(&mut self, io: &mut [&mut [f32]], fades: bool) {
        let n = io.first().map_or(0, |c| c.len());
        let (from, to) = (self.fill, self.fill + n);
        for (c, channel) in io.iter_mut().enumerate() {
            for (x, slot) in channel.iter().zip(&mut self.window[c][self.piece + from..self.piece + to]) {
                *slot = f64::from(*x);
            }
            for (x, y) in channel.iter_mut().zip(&self.out[c][from..to]) {
                *x = cast::sample(*y);
            }
        }
        self.fill = to;
        if self.fill == self.piece {
            self.fill = 0;
            self.next_piece(io.len(), fades);
        }
    }

    fn next_piece(&mut self, channels: usize, fades: bool) {
        let bins = self.piece + 1;
        self.newest = (self.newest + 1) % self.count;
        for c in 0..channels {
            self.room.time.copy_from_slice(&self.window[c]);
            let spectrum = &mut self.past[c][self.newest * bins..(self.newest + 1) * bins];
            let done =
                self.forward.process_with_scratch(&mut self.room.time, spectrum, &mut self.room.scratch);
            debug_assert!(done.is_ok(), "the lengths fit");
            self.window[c].copy_within(self.piece.., 0);
        }
        for to in 0..channels {
            self.convolve(to, channels, self.now);
            self.out[to].copy_from_slice(&self.room.time[self.piece..]);
            if fades {
                self.convolve(to, channels, 1 - self.now);
                let length = cast::real(self.piece);
                for (i, (y, new)) in self.out[to].iter_mut().zip(&self.room.time[self.piece..]).enumerate() {
                    let share = cast::real(i + 1) / length;
                    *y += share * (new - *y);
                }
            }
        }
        if fades {
            self.switch();
        }
    }

    /// The latest window through the kernels to one channel, into the room's time.
    fn convolve(&mut self, to: usize, channels: usize, which: usize) {
        let bins = self.piece + 1;
        let kernels = &self.kernels[which];
        self.room.sum.fill(Complex64::default());
        for from in 0..channels {
            if from != to && !kernels.crosses {
                continue;
            }
            for (i, kernel) in kernels.pieces[to][from].chunks(bins).enumerate() {
                let age = (self.newest + self.count - i) % self.count;
                let past = &self.past[from][age * bins..(age + 1) * bins];
                for (sum, (x, h)) in self.room.sum.iter_mut().zip(past.iter().zip(kernel)) {
                    *sum += x * h;
                }
            }
        }
        // The ends of the spectrum of a real signal are real.
        self.room.sum[0].im = 0.0;
        self.room.sum[bins - 1].im = 0.0;
        let Room { time, sum, scratch } = &mut self.room;
        let done = self.backward.process_with_scratch(sum, time, scratch);
        debug_assert!(done.is_ok(), "the lengths fit");
        let scale = 1.0 / cast::real(2 * self.piece);
        time.iter_mut().for_each(|x| *x *= scale);
    }
}
