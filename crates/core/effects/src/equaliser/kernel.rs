//! The making of kernels for linear and balanced phase, step by step: while sound runs, every block has time for some of them.
//!
//! A kernel of N samples is brought back into time in C parts. Part v is the transform of every C-th bin from v on; it
//! repeats after N/C samples, and turned by exp(2 pi i v n / N) all parts sum to the kernel (J. W. Cooley and J. W. Tukey,
//! Mathematics of Computation 19, 1965, with decimation in frequency). Parts v and C - v are conjugate, so that half of them are enough.

use std::f64::consts::TAU;
use std::ops::Range;
use std::sync::Arc;

use rustfft::Fft;
use rustfft::num_complex::Complex64;

use super::design::MOST_SECTIONS;
use super::section::Section;
use super::settings::{Band, MOST_BANDS, Phase, Settings};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Convolver, NewKernel, Routes, plans};
use clear_bend_sound::level::gain_from_db;
use clear_bend_sound::scope::Scope;

/// The share of the kernel that fades at each end.
pub const FADED: f64 = 1.0 / 16.0;
/// In so many parts a kernel is brought back into time.
const PARTS: usize = 16;
/// So many sections are read at a bin in one step, and so many samples of a kernel are summed in one.
const READINGS: usize = 2048;
const SAMPLES: usize = 4096;

/// What is to be done next.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Task {
    /// The sections of a band.
    Sections { band: usize },
    /// The curves of all scopes, from a bin on.
    Curves { bin: usize },
    /// A part of a kernel back into time.
    Part { kernel: usize, part: usize },
    /// Its samples added to the others', from one on.
    Sum { kernel: usize, part: usize, from: usize },
    /// A piece of a kernel to its spectrum.
    Piece { kernel: usize, piece: usize },
}

/// Makes the kernels of some settings, without allocating.
pub struct Designer {
    length: usize,
    rate_hz: f64,
    phase: Phase,
    settings: Settings,
    task: Option<Task>,
    /// The bands at work, each with its sections.
    bands: Vec<(Band, Range<usize>)>,
    sections: Vec<Section>,
    routes: Routes,
    /// The products of the bands on left, right, mid and side, at every bin.
    products: [Vec<Complex64>; 4],
    kernel: Vec<f64>,
    energy: f64,
    backward: Arc<dyn Fft<f64>>,
    part: Vec<Complex64>,
    scratch: Vec<Complex64>,
}

/// How many of left, right, mid and side have a curve of their own.
fn scopes(routes: Routes) -> usize {
    match routes {
        Routes::Alike => 1,
        Routes::Apart => 2,
        Routes::Crossed => 4,
    }
}

/// The routes that these settings need.
pub fn routes(settings: &Settings) -> Routes {
    let scopes = || settings.working().map(|band| band.scope);
    if scopes().any(Scope::is_sum) {
        Routes::Crossed
    } else if scopes().any(|scope| scope != Scope::Stereo) {
        Routes::Apart
    } else {
        Routes::Alike
    }
}

impl Designer {
    /// For kernels of a length.
    #[must_use]
    pub fn new(length: usize, rate_hz: f64, phase: Phase, settings: &Settings) -> Self {
        let backward = plans::complex_backward(length / PARTS);
        let mut designer = Self {
            length,
            rate_hz,
            phase,
            settings: *settings,
            task: None,
            bands: Vec::with_capacity(MOST_BANDS + 1),
            sections: Vec::with_capacity((MOST_BANDS + 1) * MOST_SECTIONS),
            routes: Routes::Alike,
            products: Default::default(),
            kernel: Vec::with_capacity(length),
            energy: 0.0,
            part: vec![Complex64::default(); length / PARTS],
            scratch: vec![Complex64::default(); backward.get_inplace_scratch_len()],
            backward,
        };
        designer.make_room(routes(settings));
        designer
    }

    /// Room for the curves that some routes need.
    pub fn make_room(&mut self, routes: Routes) {
        let bins = self.length / 2 + 1;
        for product in self.products.iter_mut().take(scopes(routes)) {
            product.reserve_exact(bins - product.len());
        }
    }

    /// Begins with the kernels of some settings, for whose routes there is room.
    pub fn begin(&mut self, settings: &Settings) {
        self.settings = *settings;
        self.routes = routes(settings);
        self.bands.clear();
        self.sections.clear();
        self.products.iter_mut().for_each(Vec::clear);
        self.task = Some(Task::Sections { band: 0 });
    }

    /// The settings whose kernels are being made; none while nothing is.
    #[must_use]
    pub fn making(&self) -> Option<&Settings> {
        self.task.is_some().then_some(&self.settings)
    }

    /// The settings whose kernels have been made last.
    #[must_use]
    pub fn made(&self) -> &Settings {
        &self.settings
    }

    /// Does the next step. The last one leaves the kernels in the convolver, to be switched to.
    pub fn step(&mut self, convolver: &mut Convolver) {
        let Some(task) = self.task else { return };
        self.task = match task {
            Task::Sections { band } => self.read_band(band),
            Task::Curves { bin } => self.multiply(bin),
            Task::Part { kernel, part } => {
                self.bring_back(kernel, part);
                Some(Task::Sum { kernel, part, from: 0 })
            }
            Task::Sum { kernel, part, from } => self.add_part(kernel, part, from),
            Task::Piece { kernel, piece } => self.write_piece(kernel, piece, convolver),
        };
        if self.task.is_none() {
            convolver.write_routes(self.routes);
        }
    }

    fn read_band(&mut self, place: usize) -> Option<Task> {
        let Some(band) = self.settings.working().nth(place) else { return Some(Task::Curves { bin: 0 }) };
        let from = self.sections.len();
        let sections = &mut self.sections;
        band.build.each_section(&band.shape, self.rate_hz, |_, section| sections.push(section));
        self.bands.push((band, from..sections.len()));
        Some(Task::Sections { band: place + 1 })
    }

    /// The products of all bands, by scope, over some bins.
    fn multiply(&mut self, from: usize) -> Option<Task> {
        let bins = self.length / 2 + 1;
        let to = bins.min(from + (READINGS / (self.sections.len() + 1)).max(1));
        let Self { products, bands, sections, phase, length, routes, .. } = self;
        products.iter_mut().take(scopes(*routes)).for_each(|product| product.resize(to, Complex64::ONE));
        for bin in from..to {
            let tangent = (0.5 * TAU * cast::real(bin) / cast::real(*length)).tan();
            for (band, range) in &*bands {
                let (mut magnitude, mut turn) = (1.0, 0.0);
                for section in &sections[range.clone()] {
                    magnitude *= section.magnitude_at(tangent);
                    if *phase == Phase::Balanced {
                        turn += section.phase_at(tangent);
                    }
                }
                let h = if *phase == Phase::Balanced {
                    Complex64::from_polar(magnitude, 0.5 * turn)
                } else {
                    Complex64::new(magnitude, 0.0)
                };
                let h = if band.taken { 1.0 - h } else { h };
                let first = if band.scope.is_sum() { 2 } else { 0 };
                for (product, share) in products[first..].iter_mut().zip(band.scope.shares()) {
                    if share > 0.0 && !product.is_empty() {
                        product[bin] *= h;
                    }
                }
            }
        }
        Some(if to < bins { Task::Curves { bin: to } } else { Task::Part { kernel: 0, part: 0 } })
    }

    /// The curve of a kernel at a bin up to half the rate.
    fn curve(&self, (to, from): (usize, usize), bin: usize) -> Complex64 {
        let one = Complex64::ONE;
        let [left, right, mid, side] = &self.products;
        let (mid, side) = match self.routes {
            Routes::Crossed => (mid[bin], side[bin]),
            _ => (one, one),
        };
        let entering = if from == 0 { left[bin] } else { right[bin] };
        let sum = if to == from { mid + side } else { mid - side };
        // The middle of the kernel is its peak: every other bin changes its sign.
        let sign = if bin.is_multiple_of(2) { 0.5 } else { -0.5 };
        let h = entering * sum * sign;
        if bin == 0 || bin == self.length / 2 { Complex64::new(h.re, 0.0) } else { h }
    }

    /// The transform of every so-many-th bin.
    fn bring_back(&mut self, kernel: usize, part: usize) {
        let route = self.routes.kernels()[kernel];
        for at in 0..self.part.len() {
            let bin = PARTS * at + part;
            self.part[at] = if bin <= self.length / 2 {
                self.curve(route, bin)
            } else {
                self.curve(route, self.length - bin).conj()
            };
        }
        self.backward.process_with_scratch(&mut self.part, &mut self.scratch);
        if part == 0 {
            self.kernel.clear();
            self.energy = 0.0;
        }
    }

    /// Adds a part, turned, to some samples of the kernel; the last part is faded at the ends and scaled.
    fn add_part(&mut self, kernel: usize, part: usize, from: usize) -> Option<Task> {
        let to = self.length.min(from + SAMPLES);
        let angle = |n: usize| TAU * cast::real(part * n % self.length) / cast::real(self.length);
        let weight = if part == 0 || part == PARTS / 2 { 1.0 } else { 2.0 };
        let (mut turned, by) = (weight * Complex64::cis(angle(from)), Complex64::cis(angle(1)));
        let repeated = self.part.iter().cycle().skip(from % self.part.len());
        if part == 0 {
            self.kernel.resize(to, 0.0);
        }
        for (x, y) in self.kernel[from..to].iter_mut().zip(repeated) {
            *x += turned.re * y.re - turned.im * y.im;
            turned *= by;
        }
        let last = part == PARTS / 2;
        if last {
            let scale = gain_from_db(self.settings.input_db) / cast::real(self.length);
            for n in from..to {
                self.kernel[n] *= scale * self.window(n);
                self.energy += self.kernel[n] * self.kernel[n];
            }
        }
        Some(match (to < self.length, last) {
            (true, _) => Task::Sum { kernel, part, from: to },
            (false, false) => Task::Part { kernel, part: part + 1 },
            (false, true) => Task::Piece { kernel, piece: 0 },
        })
    }

    /// The fade of both ends.
    fn window(&self, n: usize) -> f64 {
        let from_end = cast::real(n.min(self.length - n)) / (FADED * cast::real(self.length));
        if from_end < 1.0 { 0.5 - 0.5 * (0.5 * TAU * from_end).cos() } else { 1.0 }
    }

    fn write_piece(&mut self, kernel: usize, piece: usize, convolver: &mut Convolver) -> Option<Task> {
        let route = self.routes.kernels()[kernel];
        let next = NewKernel { samples: &self.kernel, skipped: 0, energy: self.energy, gain: 1.0 };
        convolver.write_piece(route, piece, &next);
        if piece + 1 < convolver.pieces() {
            Some(Task::Piece { kernel, piece: piece + 1 })
        } else if kernel + 1 < self.routes.kernels().len() {
            Some(Task::Part { kernel: kernel + 1, part: 0 })
        } else {
            None
        }
    }
}
