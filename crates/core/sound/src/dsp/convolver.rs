//! Convolution with long kernels by partitions: overlap-save on the spectra of equal pieces (T. G. Stockham, 1966;
//! uniform partitions after W. G. Gardner, JAES 43(3), 1995).

use std::sync::Arc;

use realfft::{ComplexToReal, RealToComplex};
use rustfft::num_complex::Complex;

use super::plans::Precision;
use super::widest;
use crate::cast;

/// Spectra of one length, one after the other, real and imaginary parts apart, so that products need no shuffling.
struct Spectra<F> {
    bins: usize,
    count: usize,
    re: Vec<F>,
    im: Vec<F>,
}

impl<F: Precision> Spectra<F> {
    fn new(bins: usize, count: usize) -> Self {
        let mut spectra = Self::reserved(bins, count);
        while !spectra.is_wide() {
            spectra.widen();
        }
        spectra
    }

    /// Memory for so many, which is not touched yet: see [`Spectra::widen`].
    fn reserved(bins: usize, count: usize) -> Self {
        let room = || Vec::with_capacity(bins * count);
        Self { bins, count, re: room(), im: room() }
    }

    fn is_wide(&self) -> bool {
        self.im.len() == self.bins * self.count
    }

    /// Fills some of the memory with silence.
    fn widen(&mut self) {
        let next = (self.bins * self.count).min(self.re.len() + WIDENED);
        self.re.resize(next, F::zero());
        self.im.resize(next, F::zero());
    }

    fn put(&mut self, at: usize, spectrum: &[Complex<F>]) {
        let range = at * self.bins..(at + 1) * self.bins;
        let parts = self.re[range.clone()].iter_mut().zip(&mut self.im[range]);
        parts.zip(spectrum).for_each(|((re, im), x)| (*re, *im) = (x.re, x.im));
    }

    fn get(&self, at: usize) -> (&[F], &[F]) {
        let range = at * self.bins..(at + 1) * self.bins;
        (&self.re[range.clone()], &self.im[range])
    }

    fn copy_from(&mut self, other: &Self) {
        self.re.copy_from_slice(&other.re);
        self.im.copy_from_slice(&other.im);
    }

    fn clear(&mut self) {
        self.re.fill(F::zero());
        self.im.fill(F::zero());
    }

    /// Adds the product of two spectra to the first one.
    fn add_product(&mut self, (ar, ai): (&[F], &[F]), (br, bi): (&[F], &[F])) {
        let (re, im) = (&mut self.re[..], &mut self.im[..]);
        let n = re.len();
        // One length for all, so that nothing is checked on the way.
        let (im, ar, ai, br, bi) = (&mut im[..n], &ar[..n], &ai[..n], &br[..n], &bi[..n]);
        widest(|| {
            for i in 0..n {
                re[i] = re[i] + (ar[i] * br[i] - ai[i] * bi[i]);
                im[i] = im[i] + (ar[i] * bi[i] + ai[i] * br[i]);
            }
        });
    }
}

/// Readies some of these spectra; says whether all of them are.
fn widened<F: Precision>(past: &mut [Spectra<F>], kernels: &mut Kernels<F>) -> bool {
    let kernels = kernels.each.iter_mut().flatten().map(|kernel| &mut kernel.pieces);
    let next = past.iter_mut().chain(kernels).find(|spectra| !spectra.is_wide());
    next.map(Spectra::widen).is_none()
}

fn zero<F: Precision>() -> Complex<F> {
    Complex::new(F::zero(), F::zero())
}

/// So many numbers of memory are filled at a time: the first touch is what makes it slow.
const WIDENED: usize = 16_384;

/// A piece with less than this share of a kernel's energy is left out: -200 dB, far under what samples hold.
const SILENT: f64 = 1e-20;

/// A kernel in pieces.
struct Kernel<F> {
    /// The spectra of its pieces, one after the other.
    pieces: Spectra<F>,
    /// Which of them are not silent.
    heard: Vec<bool>,
}

/// A kernel that is to be written.
#[derive(Debug, Clone, Copy)]
pub struct NewKernel<'a> {
    /// Its samples.
    pub samples: &'a [f64],
    /// So many at its beginning are taken to be silent.
    pub skipped: usize,
    /// The energy of all of it, before the gain.
    pub energy: f64,
    /// What all samples are multiplied by.
    pub gain: f64,
}

/// What the channels are convolved with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Routes {
    /// Both with the kernel from the first to itself.
    Alike,
    /// Each with its own.
    Apart,
    /// Each with its own, and with the other one.
    Crossed,
}

impl Routes {
    /// Its kernels, each to a channel from a channel, in the order in which a response has its channels.
    #[must_use]
    pub const fn kernels(self) -> &'static [(usize, usize)] {
        match self {
            Self::Alike => &[(0, 0)],
            Self::Apart => &[(0, 0), (1, 1)],
            Self::Crossed => &[(0, 0), (1, 0), (0, 1), (1, 1)],
        }
    }
}

/// Kernels from each channel to each: `[to][from]`.
struct Kernels<F> {
    each: [[Kernel<F>; 2]; 2],
    routes: Routes,
}

impl<F> Kernels<F> {
    fn of(&self, to: usize, from: usize) -> &Kernel<F> {
        if self.routes == Routes::Alike { &self.each[0][0] } else { &self.each[to][from] }
    }
}

/// Convolves two channels with kernels that may be exchanged while sound runs. The result is one piece late. Spectra are made of numbers
/// of 64 bits, or of 32 where it has to be quick.
pub struct Convolver<F: Precision = f64> {
    piece: usize,
    count: usize,
    forward: Arc<dyn RealToComplex<F>>,
    backward: Arc<dyn ComplexToReal<F>>,
    /// The piece before and the one that comes in, by channel.
    window: [Vec<F>; 2],
    /// Spectra of the latest windows, by channel, as a ring that ends at `newest`.
    past: [Spectra<F>; 2],
    newest: usize,
    /// For how many windows both channels have been the same.
    alike: usize,
    out: [Vec<F>; 2],
    fill: usize,
    /// Where the first piece begins.
    start: usize,
    kernels: [Kernels<F>; 2],
    now: usize,
    /// Whether the first kernels are being written: into those that are used, which have been silent.
    first: bool,
    /// What earlier windows give to the piece that runs, by kernels and channel.
    sums: [[Spectra<F>; 2]; 2],
    /// How many of them are in the sums.
    summed: usize,
    room: Room<F>,
}

struct Room<F> {
    time: Vec<F>,
    spectrum: Vec<Complex<F>>,
    scratch: Vec<Complex<F>>,
}

impl<F: Precision> Convolver<F> {
    /// For kernels of `count` pieces of a length; [`Convolver::make_room`] and [`Convolver::widen`] make room for them and for
    /// what is convolved.
    #[must_use]
    pub fn new(piece: usize, count: usize) -> Self {
        let (forward, backward) = F::plans(2 * piece);
        let bins = piece + 1;
        let spectra = || Spectra::reserved(bins, count);
        let kernel = || Kernel { pieces: Spectra::reserved(bins, 0), heard: Vec::new() };
        let kernels = || Kernels { each: [(); 2].map(|()| [kernel(), kernel()]), routes: Routes::Alike };
        let scratch = forward.get_scratch_len().max(backward.get_scratch_len());
        Self {
            piece,
            count,
            window: [(); 2].map(|()| vec![F::zero(); 2 * piece]),
            past: [spectra(), spectra()],
            newest: 0,
            alike: count,
            out: [(); 2].map(|()| vec![F::zero(); piece]),
            fill: 0,
            start: 0,
            kernels: [kernels(), kernels()],
            now: 0,
            first: false,
            sums: [(); 2].map(|()| [(); 2].map(|()| Spectra::new(bins, 1))),
            summed: 0,
            room: Room {
                time: vec![F::zero(); 2 * piece],
                spectrum: vec![zero(); bins],
                scratch: vec![zero(); scratch],
            },
            forward,
            backward,
        }
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

    /// How many pieces a kernel has.
    #[must_use]
    pub fn pieces(&self) -> usize {
        self.count
    }

    /// Readies some of its memory, without allocating; says whether that is all, and it can be used.
    pub fn widen(&mut self) -> bool {
        self.widen_next() && widened(&mut [], &mut self.kernels[self.now])
    }

    /// The same of what it needs before the kernels that come next are written.
    pub fn widen_next(&mut self) -> bool {
        let next = self.next();
        widened(&mut self.past, &mut self.kernels[next])
    }

    fn next(&self) -> usize {
        if self.first { self.now } else { 1 - self.now }
    }

    /// Whether the first kernels are written next: each piece of them is heard at once, and there is nothing to switch to.
    pub fn set_first(&mut self, first: bool) {
        self.first = first;
    }

    /// Memory for the kernels that some routes need; [`Convolver::widen`] readies it.
    pub fn make_room(&mut self, routes: Routes) {
        for kernels in &mut self.kernels {
            for (to, from) in routes.kernels() {
                let kernel = &mut kernels.each[*to][*from];
                if kernel.heard.is_empty() {
                    let pieces = Spectra::reserved(self.piece + 1, self.count);
                    *kernel = Kernel { pieces, heard: vec![false; self.count] };
                }
            }
        }
    }

    /// Lets the first piece begin so many samples before its end.
    pub fn begin_at(&mut self, samples: usize) {
        self.start = samples.min(self.piece - 1);
        self.fill = self.start;
    }

    /// Writes the spectrum of a piece of a kernel to the kernels that come next, for whose route there is room.
    pub fn write_piece(&mut self, (to, from): (usize, usize), at: usize, kernel: &NewKernel) {
        let NewKernel { samples, skipped, energy, gain } = *kernel;
        let set = self.next();
        let next = &mut self.kernels[set].each[to][from];
        let Room { time, spectrum, scratch } = &mut self.room;
        let skipped = skipped.saturating_sub(at * self.piece).min(self.piece);
        let taps = &samples[at * self.piece..(at + 1) * self.piece][skipped..];
        next.heard[at] = taps.iter().map(|x| x * x).sum::<f64>() > SILENT * energy;
        if next.heard[at] {
            time.fill(F::zero());
            time[skipped..].iter_mut().zip(taps).for_each(|(y, x)| *y = F::of(gain * *x));
            let done = self.forward.process_with_scratch(time, spectrum, scratch);
            debug_assert!(done.is_ok(), "the lengths fit");
            next.pieces.put(at, spectrum);
        }
    }

    /// Says which of the kernels that come next are used.
    pub fn write_routes(&mut self, routes: Routes) {
        self.kernels[1 - self.now].routes = routes;
    }

    /// Takes the kernels that have been written, at once.
    pub fn switch(&mut self) {
        self.now = 1 - self.now;
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.window.iter_mut().chain(&mut self.out).for_each(|x| x.fill(F::zero()));
        self.past.iter_mut().for_each(Spectra::clear);
        self.fill = self.start;
        self.newest = 0;
        self.alike = self.count;
        self.begin_sums();
    }

    /// Convolves samples of one or two channels, at most up to the next seam. Where `fades`, the piece that ends there
    /// goes over from the present kernels to those that have been written.
    pub fn process(&mut self, io: &mut [&mut [f32]], fades: bool) {
        let n = io.first().map_or(0, |c| c.len());
        let (from, to) = (self.fill, self.fill + n);
        for (c, channel) in io.iter_mut().enumerate() {
            for (x, slot) in channel.iter().zip(&mut self.window[c][self.piece + from..self.piece + to]) {
                *slot = F::of_sample(*x);
            }
            for (x, y) in channel.iter_mut().zip(&self.out[c][from..to]) {
                *x = y.sample();
            }
        }
        self.fill = to;
        self.add_earlier(io.len(), fades);
        if self.fill == self.piece {
            self.next_piece(io.len(), fades);
            self.end_piece(io.len(), fades);
        }
    }

    fn end_piece(&mut self, channels: usize, fades: bool) {
        self.fill = 0;
        self.window.iter_mut().take(channels).for_each(|window| window.copy_within(self.piece.., 0));
        self.begin_sums();
        if fades {
            self.switch();
        }
    }

    /// The same without delay: what comes is convolved at once, also where the piece has not ended. That takes as long for a few
    /// samples as for a piece.
    pub fn process_at_once(&mut self, io: &mut [&mut [f32]], fades: bool) {
        let channels = io.len().min(2);
        let n = io.first().map_or(0, |c| c.len());
        let (from, to) = (self.fill, self.fill + n);
        for (channel, window) in io.iter().zip(&mut self.window) {
            for (x, slot) in channel.iter().zip(&mut window[self.piece + from..self.piece + to]) {
                *slot = F::of_sample(*x);
            }
            window[self.piece + to..].fill(F::zero());
        }
        self.begin_sums();
        // As if the piece had ended.
        self.fill = self.piece;
        self.add_earlier(channels, fades);
        let (newest, alike) = (self.newest, self.alike);
        self.next_piece(channels, fades);
        for (channel, out) in io.iter_mut().zip(&self.out) {
            channel.iter_mut().zip(&out[from..to]).for_each(|(x, y)| *x = y.sample());
        }
        if to == self.piece {
            self.end_piece(channels, fades);
        } else {
            (self.fill, self.newest, self.alike) = (to, newest, alike);
        }
    }

    fn begin_sums(&mut self) {
        self.sums.iter_mut().flatten().for_each(Spectra::clear);
        self.summed = 0;
    }

    /// The kernels that are computed: the present ones and, where they go over, the next ones.
    fn at_work(&self, fades: bool) -> impl Iterator<Item = usize> + use<F> {
        [self.now, 1 - self.now].into_iter().take(if fades { 2 } else { 1 })
    }

    /// Whether both channels have been the same for so many windows, and go through one kernel.
    fn is_one(&self, windows: usize) -> bool {
        self.alike >= windows && self.kernels.iter().all(|kernels| kernels.routes == Routes::Alike)
    }

    /// Adds what earlier windows give, as far as the piece has come: most of the work is spread over its samples, and at its
    /// end only the newest window is left.
    fn add_earlier(&mut self, channels: usize, fades: bool) {
        let due = (self.count - 1) * self.fill / self.piece;
        let channels = if self.is_one(self.count - 1) { 1 } else { channels };
        for earlier in self.summed..due {
            // The newest one is that of the piece before until this piece ends.
            let window = (self.newest + self.count - earlier) % self.count;
            self.at_work(fades).for_each(|which| self.add_window(which, window, earlier + 1, channels));
        }
        self.summed = due;
    }

    /// Adds a window through a piece of the kernels.
    fn add_window(&mut self, which: usize, window: usize, piece: usize, channels: usize) {
        let kernels = &self.kernels[which];
        for (to, sum) in self.sums[which].iter_mut().enumerate().take(channels) {
            for from in (0..channels).filter(|from| *from == to || kernels.routes == Routes::Crossed) {
                let Kernel { pieces, heard } = kernels.of(to, from);
                if heard[piece] {
                    sum.add_product(self.past[from].get(window), pieces.get(piece));
                }
            }
        }
    }

    /// What the windows give, with the newest one, which has just come.
    fn next_piece(&mut self, channels: usize, fades: bool) {
        self.newest = (self.newest + 1) % self.count;
        let same = channels == 2 && self.window[0] == self.window[1];
        // What has been summed of one channel is that of both.
        let were_one = self.is_one(self.count - 1);
        self.alike = if same { self.alike + 1 } else { 0 };
        for c in 0..channels {
            let Room { time, spectrum, scratch } = &mut self.room;
            // The spectrum of the first channel is there still.
            if !(c == 1 && same) {
                time.copy_from_slice(&self.window[c]);
                let done = self.forward.process_with_scratch(time, spectrum, scratch);
                debug_assert!(done.is_ok(), "the lengths fit");
            }
            self.past[c].put(self.newest, spectrum);
        }
        // Mono on two channels is convolved once.
        let as_one = channels == 2 && self.is_one(self.count);
        let heard = if as_one { 1 } else { channels };
        for which in self.at_work(fades) {
            if were_one && heard == 2 {
                let [first, second] = &mut self.sums[which];
                second.copy_from(first);
            }
            self.add_window(which, self.newest, 0, heard);
        }
        for to in 0..heard {
            self.bring_back(to, self.now);
            self.out[to].copy_from_slice(&self.room.time[self.piece..]);
            if fades {
                self.bring_back(to, 1 - self.now);
                let length = F::of(cast::real(self.piece));
                for (i, (y, new)) in self.out[to].iter_mut().zip(&self.room.time[self.piece..]).enumerate() {
                    let share = F::of(cast::real(i + 1)) / length;
                    *y = *y + share * (*new - *y);
                }
            }
        }
        if as_one {
            let [first, second] = &mut self.out;
            second.copy_from_slice(first);
        }
    }

    /// The sum of one channel in time, into the room.
    fn bring_back(&mut self, to: usize, which: usize) {
        let Room { time, spectrum, scratch } = &mut self.room;
        let sum = &self.sums[which][to];
        for (x, (re, im)) in spectrum.iter_mut().zip(sum.re.iter().zip(&sum.im)) {
            *x = Complex::new(*re, *im);
        }
        // The ends of the spectrum of a real signal are real.
        spectrum[0].im = F::zero();
        spectrum[self.piece].im = F::zero();
        let done = self.backward.process_with_scratch(spectrum, time, scratch);
        debug_assert!(done.is_ok(), "the lengths fit");
        let scale = F::of(1.0 / cast::real(2 * self.piece));
        time.iter_mut().for_each(|x| *x = *x * scale);
    }
}
