//! Convolution without any delay: the first samples of a kernel directly, all others in pieces that grow (W. G. Gardner, "Efficient
//! Convolution without Input-Output Delay", JAES 43(3), 1995).

use super::{Convolver, NewKernel, Routes, widest};
use crate::audio::stretch;
use crate::cast;

/// Lengths of the pieces. Those of a length begin at as many samples into the kernel: what they give is one piece late, and comes
/// just in time.
const PIECES: [usize; 3] = [64, 512, 4096];
/// So many samples are convolved directly.
const DIRECT: usize = PIECES[0];
/// Where blocks of so many samples come, as when a whole passage is rendered, there is no need for shorter pieces: one length does, and
/// what comes is convolved at once.
pub const WHOLE: usize = 8192;

/// The pieces of one length.
struct Level {
    /// Where its part of the kernel begins, and how long its pieces are.
    from: usize,
    piece: usize,
    convolver: Convolver<f32>,
    /// Whether other kernels wait for the next piece, and whether the piece that runs goes over to them.
    waits: bool,
    fades: bool,
}

/// Kernels that are to be written.
pub struct NewKernels<'a> {
    /// Their samples.
    pub samples: &'a [Vec<f64>],
    /// The energy of each, before the gain.
    pub energies: &'a [f64],
    /// What all samples are multiplied by.
    pub gain: f64,
}

/// Convolves two channels with kernels that may be exchanged while sound runs: each with its own, both with one, or each with its own
/// and with the other one.
pub struct Immediate {
    routes: Routes,
    levels: Vec<Level>,
    /// The beginnings of the kernels that are heard, and of those that come next, in the order of the routes.
    direct: [[[f32; DIRECT]; 4]; 2],
    /// Whether the first kernels are written.
    first: bool,
    /// How many samples of the way to the next ones are left, and whether they wait.
    going: usize,
    waits: bool,
    /// What came last, then a block, by channel.
    input: [Vec<f32>; 2],
    scratch: [Vec<f32>; 2],
    sums: [Vec<f32>; 2],
}

impl Immediate {
    /// For kernels of at most so many samples, and blocks of as many: of [`WHOLE`] or more, all of it is quicker. `turn` tells those
    /// apart that run side by side: each computes its pieces at a time of its own. [`Immediate::widen`] readies its memory.
    #[must_use]
    pub fn new(taps: usize, routes: Routes, turn: usize, max_block: usize) -> Self {
        let ends = PIECES.into_iter().skip(1).chain([usize::MAX]);
        let growing = PIECES.into_iter().zip(ends).map(|(piece, end)| (piece, piece, end));
        let whole = [(0, WHOLE.min(taps.next_power_of_two()), usize::MAX)];
        let parts = if max_block < WHOLE { growing.collect() } else { whole.to_vec() };
        let levels =
            parts.into_iter().take_while(|(from, ..)| *from.max(&DIRECT) < taps).map(|(from, piece, end)| {
                let mut convolver = Convolver::new(piece, (end.min(taps) - from).div_ceil(piece));
                convolver.make_room(routes);
                convolver.write_routes(routes);
                convolver.switch();
                convolver.write_routes(routes);
                convolver.set_first(true);
                // All seams lie on those of the shortest pieces.
                convolver.begin_at(turn * DIRECT % piece);
                Level { from, piece, convolver, waits: false, fades: false }
            });
        let block = || [(); 2].map(|()| vec![0.0; max_block]);
        Self {
            routes,
            levels: levels.collect(),
            direct: [[[0.0; DIRECT]; 4]; 2],
            first: true,
            going: 0,
            waits: false,
            input: [(); 2].map(|()| vec![0.0; DIRECT - 1 + max_block]),
            scratch: block(),
            sums: [(); 2].map(|()| vec![0.0; max_block]),
        }
    }

    /// The longest kernel that has room, samples.
    #[must_use]
    pub fn taps(&self) -> usize {
        self.levels.last().map_or(DIRECT, |level| level.from + level.convolver.pieces() * level.piece)
    }

    /// Readies some of its memory for other kernels, without allocating; says whether that is all.
    pub fn widen(&mut self) -> bool {
        self.levels.iter_mut().all(|level| level.convolver.widen_next())
    }

    /// Writes a part of the kernels that come next, in the order of [`Routes::kernels`], each with [`Immediate::taps`] samples. Each
    /// length of pieces goes over at its own next one, once all of its pieces are written: what comes first is heard first. Of the first
    /// kernels every piece is heard at once. Says how many samples have been written; none when there is nothing left.
    pub fn write(&mut self, step: usize, kernels: &NewKernels) -> Option<usize> {
        let NewKernels { samples, energies, gain } = kernels;
        let Some(mut step) = step.checked_sub(1) else {
            for (next, kernel) in self.direct[usize::from(!self.first)].iter_mut().zip(*samples) {
                next.iter_mut().zip(kernel).for_each(|(y, x)| *y = cast::sample(gain * *x));
            }
            self.waits = !self.first;
            return Some(DIRECT);
        };
        let routes = self.routes.kernels();
        let count = routes.len();
        for level in &mut self.levels {
            let pieces = level.convolver.pieces();
            if step < count * pieces {
                let (at, which) = (step / count, step % count);
                let kernel = NewKernel {
                    samples: &samples[which][level.from..],
                    skipped: DIRECT.saturating_sub(level.from),
                    energy: energies[which],
                    gain: *gain,
                };
                level.convolver.write_piece(routes[which], at, &kernel);
                level.waits = !self.first && step + 1 == count * pieces;
                return Some(level.piece);
            }
            step -= count * pieces;
        }
        self.first = false;
        self.levels.iter_mut().for_each(|level| level.convolver.set_first(false));
        None
    }

    /// Whether so many steps have written all that is heard within two of the longest pieces: others are needed that much later, and
    /// are in time.
    #[must_use]
    pub fn begins(&self, steps: usize) -> bool {
        let longest = PIECES[PIECES.len() - 1];
        let needed = self
            .levels
            .iter()
            .map(|level| level.convolver.pieces().min(if level.piece < longest { usize::MAX } else { 2 }));
        steps > self.routes.kernels().len() * needed.sum::<usize>()
    }

    /// Takes them at once, where they wait or are gone over to.
    pub fn take(&mut self) {
        if std::mem::take(&mut self.waits) || self.going > 0 {
            self.going = 0;
            self.direct[0] = self.direct[1];
        }
        for level in &mut self.levels {
            if std::mem::take(&mut level.waits) | std::mem::take(&mut level.fades) {
                level.convolver.switch();
            }
        }
    }

    /// Whether all of it has gone over, so that other kernels may be written.
    #[must_use]
    pub fn is_settled(&self) -> bool {
        !self.waits && self.going == 0 && self.levels.iter().all(|level| !level.waits && !level.fades)
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.take();
        self.input.iter_mut().for_each(|input| input.fill(0.0));
        self.levels.iter_mut().for_each(|level| level.convolver.reset());
    }

    /// Convolves a block of one or two channels.
    pub fn process(&mut self, io: &mut [&mut [f32]]) {
        let n = io.first().map_or(0, |c| c.len());
        if std::mem::take(&mut self.waits) {
            self.going = DIRECT;
        }
        for (c, x) in io.iter().enumerate().take(2) {
            self.input[c][DIRECT - 1..DIRECT - 1 + n].copy_from_slice(x);
        }
        for c in 0..io.len().min(2) {
            self.directly(c, io.len(), n);
        }
        if self.going > 0 {
            self.going = self.going.saturating_sub(n);
            if self.going == 0 {
                self.direct[0] = self.direct[1];
            }
        }
        let channels = io.len().min(2);
        for level in &mut self.levels {
            level.process(&self.input, &mut self.scratch, &mut self.sums, channels, n);
        }
        for (c, x) in io.iter_mut().enumerate().take(2) {
            x.copy_from_slice(&self.sums[c][..n]);
            self.input[c].copy_within(n..n + DIRECT - 1, 0);
        }
    }

    /// The beginnings of the kernels of a block of some channels: what they give to one of them.
    fn directly(&mut self, to: usize, channels: usize, n: usize) {
        let fading = self.going.min(n);
        self.sums[to][..n].fill(0.0);
        for (which, (goes_to, from)) in self.routes.kernels().iter().enumerate() {
            // One kernel is that of both.
            let from = if self.routes == Routes::Alike { to } else { *from };
            if (self.routes != Routes::Alike && *goes_to != to) || from >= channels {
                continue;
            }
            let (input, sums) = (&self.input[from][..DIRECT - 1 + n], &mut self.sums[to][..n]);
            let [now, next] = &self.direct;
            if fading == 0 {
                add_directly(&now[which], input, sums);
                continue;
            }
            let mut both = [[0.0; DIRECT]; 2];
            for (kernel, sums) in [now, next].into_iter().zip(&mut both) {
                add_directly(&kernel[which], &input[..DIRECT - 1 + fading], &mut sums[..fading]);
            }
            let [old, new] = both;
            for (i, (y, (old, new))) in sums.iter_mut().zip(old.iter().zip(new)).enumerate().take(fading) {
                let share = cast::sample(cast::real(DIRECT - self.going + i + 1) / cast::real(DIRECT));
                *y += old + share * (new - old);
            }
            // Behind the way there are only the next ones.
            if fading < n {
                add_directly(&next[which], &input[fading..], &mut sums[fading..]);
            }
        }
    }
}

impl Level {
    /// Adds what its pieces give of a block.
    fn process(
        &mut self,
        input: &[Vec<f32>; 2],
        scratch: &mut [Vec<f32>; 2],
        sums: &mut [Vec<f32>; 2],
        channels: usize,
        n: usize,
    ) {
        for (to, from) in scratch.iter_mut().zip(input).take(channels) {
            to[..n].copy_from_slice(&from[DIRECT - 1..DIRECT - 1 + n]);
        }
        let [first, second] = scratch;
        let mut both = [&mut first[..n], &mut second[..n]];
        let io = &mut both[..channels];
        let mut done = 0;
        while done < n {
            if self.convolver.at_seam() {
                self.fades = std::mem::take(&mut self.waits);
            }
            let end = n.min(done + self.convolver.until_seam());
            stretch(io, done..end, |io| match self.from {
                0 => self.convolver.process_at_once(io, self.fades),
                _ => self.convolver.process(io, self.fades),
            });
            self.fades &= !self.convolver.at_seam();
            done = end;
        }
        for (sum, x) in sums.iter_mut().zip(io) {
            sum.iter_mut().zip(x.iter()).for_each(|(sum, x)| *sum += *x);
        }
    }
}

/// Adds the direct sum; `input` begins as many samples before the first one of `out` as the kernel has but one.
fn add_directly(kernel: &[f32; DIRECT], input: &[f32], out: &mut [f32]) {
    let n = out.len();
    widest(|| {
        for (k, tap) in kernel.iter().enumerate().filter(|(_, tap)| **tap != 0.0) {
            let from = &input[DIRECT - 1 - k..][..n];
            out.iter_mut().zip(from).for_each(|(y, x)| *y += tap * x);
        }
    });
}
