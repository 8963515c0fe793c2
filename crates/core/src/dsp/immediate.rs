//! Convolution without any delay: the first samples of a kernel directly, all others in pieces that grow (W. G. Gardner, "Efficient
//! Convolution without Input-Output Delay", JAES 43(3), 1995).

use super::{Convolver, Routes, widest};
use crate::audio::stretch;
use crate::cast;

/// Lengths of the pieces. Those of a length begin at as many samples into the kernel: what they give is one piece late, and comes
/// just in time.
const PIECES: [usize; 3] = [64, 512, 4096];
/// So many samples are convolved directly.
const DIRECT: usize = PIECES[0];

/// The pieces of one length.
struct Level {
    /// Where its part of the kernel begins.
    from: usize,
    convolver: Convolver<f32>,
    /// Whether other kernels wait for the next piece, and whether the piece that runs goes over to them.
    waits: bool,
    fades: bool,
}

/// Convolves each of two channels with a kernel of its own, or both with one, which may be exchanged while sound runs.
pub struct Immediate {
    alike: bool,
    levels: Vec<Level>,
    /// The beginnings of the kernels that are heard, and of those that come next.
    direct: [[[f32; DIRECT]; 2]; 2],
    /// How many samples of the way to the next ones are left, and whether they wait.
    going: usize,
    waits: bool,
    /// What came last, then a block, by channel.
    input: [Vec<f32>; 2],
    scratch: [Vec<f32>; 2],
    sums: [Vec<f32>; 2],
}

impl Immediate {
    /// For kernels of at most so many samples, one for each channel or the same for both. `turn` tells those apart that run side by
    /// side: each computes its pieces at a time of its own. [`Immediate::widen`] readies its memory.
    #[must_use]
    pub fn new(taps: usize, alike: bool, turn: usize, max_block: usize) -> Self {
        let routes = if alike { Routes::Alike } else { Routes::Apart };
        let ends = PIECES.iter().skip(1).copied().chain([usize::MAX]);
        let levels = PIECES.iter().zip(ends).take_while(|(piece, _)| **piece < taps).map(|(piece, end)| {
            let mut convolver = Convolver::new(*piece, (end.min(taps) - piece).div_ceil(*piece));
            convolver.make_room(routes);
            convolver.write_routes(routes);
            convolver.switch();
            convolver.write_routes(routes);
            // All seams lie on those of the shortest pieces.
            convolver.begin_at(turn * DIRECT % piece);
            Level { from: *piece, convolver, waits: false, fades: false }
        });
        let block = || [(); 2].map(|()| vec![0.0; max_block]);
        Self {
            alike,
            levels: levels.collect(),
            direct: [[[0.0; DIRECT]; 2]; 2],
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
        self.levels.last().map_or(DIRECT, |level| level.from + level.convolver.pieces() * level.from)
    }

    /// Readies some of its memory, without allocating; says whether that is all.
    pub fn widen(&mut self) -> bool {
        self.levels.iter_mut().all(|level| level.convolver.widen())
    }

    /// How many steps it takes to write other kernels.
    #[must_use]
    pub fn steps(&self) -> usize {
        let pieces: usize = self.levels.iter().map(|level| level.convolver.pieces()).sum();
        1 + self.kernels() * pieces
    }

    fn kernels(&self) -> usize {
        if self.alike { 1 } else { 2 }
    }

    /// Writes a part of the kernels that come next, each with [`Immediate::taps`] samples of which so much energy is in all.
    pub fn write(&mut self, step: usize, kernels: &[Vec<f64>; 2], energies: [f64; 2]) {
        let Some(mut step) = step.checked_sub(1) else {
            for (next, kernel) in self.direct[1].iter_mut().zip(kernels) {
                next.iter_mut().zip(kernel).for_each(|(y, x)| *y = cast::sample(*x));
            }
            return;
        };
        let count = self.kernels();
        for level in &mut self.levels {
            let pieces = level.convolver.pieces();
            if step < count * pieces {
                let (channel, at) = (step / pieces, step % pieces);
                let kernel = &kernels[channel][level.from..];
                level.convolver.write_piece((channel, channel), at, kernel, energies[channel]);
                return;
            }
            step -= count * pieces;
        }
    }

    /// Goes over to the kernels that have been written, each length of pieces at its own next one.
    pub fn go_over(&mut self) {
        self.waits = true;
        self.levels.iter_mut().for_each(|level| level.waits = true);
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
            let own = self.kernel(c);
            let (input, sums) = (&self.input[c][..DIRECT - 1 + n], &mut self.sums[c][..n]);
            directly(&self.direct[0][own], input, sums);
            if self.going > 0 {
                let mut next = [0.0; DIRECT];
                let fading = self.going.min(n);
                directly(&self.direct[1][own], &input[..DIRECT - 1 + fading], &mut next[..fading]);
                for (i, (y, next)) in sums.iter_mut().zip(next).enumerate().take(fading) {
                    let share = cast::sample(cast::real(DIRECT - self.going + i + 1) / cast::real(DIRECT));
                    *y += share * (next - *y);
                }
                // Behind the way there are only the next ones.
                if fading < n {
                    let rest = &input[fading..];
                    directly(&self.direct[1][own], rest, &mut sums[fading..]);
                }
            }
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

    fn kernel(&self, channel: usize) -> usize {
        if self.alike { 0 } else { channel }
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
            stretch(io, done..end, |io| self.convolver.process(io, self.fades));
            self.fades &= !self.convolver.at_seam();
            done = end;
        }
        for (sum, x) in sums.iter_mut().zip(io) {
            sum.iter_mut().zip(x.iter()).for_each(|(sum, x)| *sum += *x);
        }
    }
}

/// The direct sum; `input` begins as many samples before the first one of `out` as the kernel has but one.
fn directly(kernel: &[f32; DIRECT], input: &[f32], out: &mut [f32]) {
    out.fill(0.0);
    let n = out.len();
    widest(|| {
        for (k, tap) in kernel.iter().enumerate().filter(|(_, tap)| **tap != 0.0) {
            let from = &input[DIRECT - 1 - k..][..n];
            out.iter_mut().zip(from).for_each(|(y, x)| *y += tap * x);
        }
    });
}
