//! Linear and balanced phase: the curve as one long kernel.
//!
//! The kernel is sampled in frequency: the magnitude of the curve with no phase, or with half of its own, brought back
//! into time and faded at both ends. Its middle is its peak, so the sound comes half its length late, and one piece.
//! Narrow bands ring for long and get a kernel four times as long. What is narrower still is held in part: [`held`] says
//! how much.

use std::f64::consts::PI;
use std::sync::Arc;

use realfft::{ComplexToReal, RealFftPlanner};
use rustfft::num_complex::Complex64;

use super::design::MOST_SECTIONS;
use super::section::Section;
use super::settings::{Band, MOST_BANDS, Phase, Settings};
use crate::audio::{frames_alike, stretch};
use crate::cast;
use crate::dsp::{Convolver, Routes};
use crate::effects::{Around, Processor, Setup};
use crate::level::gain_from_db;
use crate::scope::Scope;

/// Length of the usual kernel at 48 kHz, samples: 341 ms.
const LENGTH: usize = 16_384;
/// So many times as long is the one for narrow bands.
const LONGER: usize = 4;
/// Pieces of the usual kernel; that for narrow bands has more of the same length.
const PIECES: usize = 16;
/// A kernel holds what falls by this within half its length: to a thousandth.
const HELD: f64 = 7.0;
/// The share of the kernel that fades at each end.
const FADED: f64 = 1.0 / 16.0;

/// The kernel of some settings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Length {
    /// Samples in all.
    frames: usize,
    /// Pieces in which it is convolved.
    pieces: usize,
}

impl Length {
    /// The kernel that these settings need at a rate.
    #[must_use]
    pub fn of(settings: &Settings, rate_hz: u32) -> Self {
        let usual = Self { frames: frames_alike(LENGTH, rate_hz), pieces: PIECES };
        let narrow = settings.working().any(|band| !usual.holds(&band, f64::from(rate_hz)));
        if narrow { Self { frames: LONGER * usual.frames, pieces: LONGER * PIECES } } else { usual }
    }

    /// Whether it is the one for narrow bands.
    #[must_use]
    pub fn is_long(self) -> bool {
        self.pieces > PIECES
    }

    /// Frames by which it is late: half of it, and one piece.
    #[must_use]
    pub fn latency(self) -> usize {
        self.frames / 2 + self.frames / self.pieces
    }

    /// Distance of its bins, Hz.
    #[must_use]
    pub fn bin_hz(self, rate_hz: f64) -> f64 {
        rate_hz / cast::real(self.frames)
    }

    /// How far around a frequency its ends are felt, Hz.
    #[must_use]
    pub fn felt_hz(self, rate_hz: f64) -> f64 {
        cast::real(FELT) * self.bin_hz(rate_hz)
    }

    /// Whether all of a band has died away at its ends.
    #[must_use]
    pub fn holds(self, band: &Band, rate_hz: f64) -> bool {
        let half_s = 0.5 * cast::real(self.frames) / rate_hz;
        // A resonance of a width in Hz falls as exp(-pi width t).
        band.build.narrowest_hz(&band.shape) * PI * half_s > HELD
    }
}

/// How far around a frequency the ends of a kernel are felt, in bins.
const FELT: usize = 128;

/// What a kernel holds of a curve at a frequency: the curve is sampled at its bins, and its fade at both ends smears those
/// by its own spectrum. `at_bin` gives the curve at a bin; under 0 Hz lies its mirror image.
#[must_use]
pub fn held(
    length: Length,
    rate_hz: f64,
    freq_hz: f64,
    mut at_bin: impl FnMut(usize) -> Complex64,
) -> Complex64 {
    let place = freq_hz * cast::real(length.frames) / rate_hz;
    let nearest = cast::whole(place.round());
    let felt = cast::whole(cast::real(FELT));
    // The spectrum of a window with raised-cosine edges, distances in bins.
    let smear = |bins: f64| {
        let (flat, edge) = (PI * bins * (1.0 - FADED), bins * FADED);
        let sinc = if flat == 0.0 { 1.0 } else { flat.sin() / flat };
        let under = 1.0 - (2.0 * edge).powi(2);
        // At a distance of half an edge, both vanish; their ratio is pi/4.
        let rounded = if under.abs() < 1e-9 { 0.25 * PI } else { (PI * edge).cos() / under };
        (1.0 - FADED) * sinc * rounded
    };
    let mut sum = Complex64::default();
    for bin in nearest - felt..=nearest + felt {
        let bin = cast::signed(bin);
        let found = at_bin(cast::count(bin.abs()));
        let found = if bin < 0.0 { found.conj() } else { found };
        sum += found * smear(place - bin);
    }
    sum
}

/// The equaliser in linear or balanced phase.
pub struct Linear {
    rate_hz: f64,
    phase: Phase,
    latency: usize,
    convolver: Convolver,
    designer: Designer,
    wanted: Settings,
    designed: Settings,
    /// Whether the piece that runs goes over to another kernel.
    fades: bool,
}

impl Linear {
    /// At rest at some settings; the phase stays.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings, phase: Phase) -> Self {
        let Length { frames, pieces } = Length::of(settings, setup.rate_hz);
        let mut linear = Self {
            rate_hz: f64::from(setup.rate_hz),
            phase,
            latency: Length { frames, pieces }.latency(),
            convolver: Convolver::new(frames / pieces, pieces),
            designer: Designer::new(frames),
            wanted: *settings,
            designed: *settings,
            fades: false,
        };
        linear.design();
        linear.convolver.switch();
        linear
    }

    /// Makes the kernels of what is wanted.
    fn design(&mut self) {
        self.designer.design(&self.wanted, self.rate_hz, self.phase, &mut self.convolver);
        self.designed = self.wanted;
    }
}

impl Processor for Linear {
    fn set(&mut self, values: &[f64]) {
        self.wanted = Settings { phase: self.phase, ..Settings::from_values(values) };
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        let mut done = 0;
        while done < n {
            if self.convolver.at_seam() && self.wanted != self.designed {
                self.design();
                self.fades = true;
            }
            let end = n.min(done + self.convolver.until_seam());
            stretch(io, done..end, |io| self.convolver.process(io, self.fades));
            self.fades &= !self.convolver.at_seam();
            done = end;
        }
    }

    fn reset(&mut self) {
        self.convolver.reset();
        if self.wanted != self.designed {
            self.design();
            self.fades = true;
        }
        if std::mem::take(&mut self.fades) {
            self.convolver.switch();
        }
    }

    fn latency(&self) -> usize {
        self.latency
    }
}

/// Makes kernels without allocating.
struct Designer {
    backward: Arc<dyn ComplexToReal<f64>>,
    /// tan(pi f / rate) at every bin.
    tangents: Vec<f64>,
    /// The responses of the bands that are in use, each with the band that it belongs to.
    known: Vec<(Option<Band>, Vec<Complex64>)>,
    spectrum: Vec<Complex64>,
    kernel: Vec<f64>,
    scratch: Vec<Complex64>,
    window: Vec<f64>,
    sections: Vec<Section>,
}

impl Designer {
    fn new(length: usize) -> Self {
        let backward = RealFftPlanner::new().plan_fft_inverse(length);
        let bins = length / 2 + 1;
        let faded = FADED * cast::real(length);
        let edge = |i: usize| {
            let from_end = cast::real(i.min(length - i)) / faded;
            if from_end < 1.0 { 0.5 - 0.5 * (PI * from_end).cos() } else { 1.0 }
        };
        Self {
            tangents: (0..bins).map(|i| (PI * cast::real(i) / cast::real(length)).tan()).collect(),
            known: (0..=MOST_BANDS).map(|_| (None, vec![Complex64::default(); bins])).collect(),
            spectrum: vec![Complex64::default(); bins],
            kernel: vec![0.0; length],
            scratch: vec![Complex64::default(); backward.get_scratch_len()],
            window: (0..length).map(edge).collect(),
            sections: vec![Section::THROUGH; MOST_SECTIONS],
            backward,
        }
    }

    fn design(&mut self, settings: &Settings, rate_hz: f64, phase: Phase, convolver: &mut Convolver) {
        let mut count = 0;
        for band in settings.working() {
            self.learn(count, &band, rate_hz, phase);
            count += 1;
        }
        let scopes = || settings.working().map(|band| band.scope);
        let crosses = scopes().any(Scope::is_sum);
        let apart = scopes().any(|scope| scope != Scope::Stereo);
        let (routes, kernels): (Routes, &[(usize, usize)]) = match (crosses, apart) {
            (true, _) => (Routes::Crossed, &[(0, 0), (1, 1), (0, 1), (1, 0)]),
            (false, true) => (Routes::Apart, &[(0, 0), (1, 1)]),
            (false, false) => (Routes::Alike, &[(0, 0)]),
        };
        let gain = gain_from_db(settings.input_db);
        convolver.write_routes(routes);
        for (to, from) in kernels {
            self.make(count, gain, (*to, *from));
            convolver.write(*to, *from, &self.kernel);
        }
    }

    /// Works out the response of a band unless it is known.
    fn learn(&mut self, place: usize, band: &Band, rate_hz: f64, phase: Phase) {
        let (known, response) = &mut self.known[place];
        if known.as_ref() == Some(band) {
            return;
        }
        *known = Some(*band);
        let sections = &mut self.sections;
        band.build.each_section(&band.shape, rate_hz, |i, section| sections[i] = section);
        let sections = &self.sections[..band.build.sections()];
        for (response, tangent) in response.iter_mut().zip(&self.tangents) {
            let (mut magnitude, mut turn) = (1.0, 0.0);
            for section in sections {
                magnitude *= section.magnitude_at(*tangent);
                if phase == Phase::Balanced {
                    turn += section.phase_at(*tangent);
                }
            }
            let h = if phase == Phase::Balanced {
                Complex64::from_polar(magnitude, 0.5 * turn)
            } else {
                Complex64::new(magnitude, 0.0)
            };
            *response = if band.taken { 1.0 - h } else { h };
        }
    }

    /// Makes the kernel from one channel to another out of the first `count` responses.
    fn make(&mut self, count: usize, gain: f64, (to, from): (usize, usize)) {
        let last = self.spectrum.len() - 1;
        for bin in 0..=last {
            let (mut entering, mut mid, mut side) =
                (Complex64::new(gain, 0.0), Complex64::ONE, Complex64::ONE);
            for (band, response) in &self.known[..count] {
                let h = response[bin];
                match band.map(|band| band.scope) {
                    Some(Scope::Mid) => mid *= h,
                    Some(Scope::Side) => side *= h,
                    Some(scope) if scope.shares()[from] > 0.0 => entering *= h,
                    _ => {}
                }
            }
            let sum = if to == from { mid + side } else { mid - side };
            // The middle of the kernel is its peak: every other bin changes its sign.
            let sign = if bin % 2 == 0 { 0.5 } else { -0.5 };
            self.spectrum[bin] = entering * sum * sign;
        }
        self.spectrum[0].im = 0.0;
        self.spectrum[last].im = 0.0;
        let done =
            self.backward.process_with_scratch(&mut self.spectrum, &mut self.kernel, &mut self.scratch);
        debug_assert!(done.is_ok(), "the lengths fit");
        let scale = 1.0 / cast::real(self.kernel.len());
        for (x, window) in self.kernel.iter_mut().zip(&self.window) {
            *x *= window * scale;
        }
    }
}
