//! Linear and balanced phase: the curve as one long kernel.
//!
//! The kernel is sampled in frequency: the magnitude of the curve with no phase, or with half of its own, brought back
//! into time and faded at both ends. Its middle is its peak, so the sound comes half its length late, and one piece.
//! Narrow bands ring for long and get a kernel four times as long. What is narrower still is held in part: [`held`] says
//! how much.

use std::f64::consts::PI;

use rustfft::num_complex::Complex64;

use super::kernel::{Designer, FADED, routes};
use super::settings::{Band, Phase, Settings};
use crate::{Around, Processor, Setup};
use clear_bend_sound::audio::{frames_alike, stretch};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Convolver;

/// Length of the usual kernel at 48 kHz, samples: 341 ms.
const LENGTH: usize = 16_384;
/// So many times as long is the one for narrow bands.
const LONGER: usize = 4;
/// Pieces of the usual kernel; that for narrow bands has more of the same length.
const PIECES: usize = 16;
/// A kernel holds what falls by this within half its length: to a thousandth.
const HELD: f64 = 7.0;
/// So many steps of making a kernel are done at a time: about as much as convolving a block.
const STEPS: usize = 4;

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
    phase: Phase,
    latency: usize,
    convolver: Convolver,
    designer: Designer,
    wanted: Settings,
    /// The settings of the kernels that are there; none before the first ones are.
    designed: Option<Settings>,
    /// Whether kernels are made between blocks, by `prepare`, rather than where they are needed.
    in_turns: bool,
    /// Whether other kernels wait in the convolver for the next piece.
    waits: bool,
    /// Whether the piece that runs goes over to them.
    fades: bool,
}

impl Linear {
    /// At rest at some settings; the phase stays.
    #[must_use]
    pub fn new(setup: Setup, turn: Option<usize>, settings: &Settings, phase: Phase) -> Self {
        let Length { frames, pieces } = Length::of(settings, setup.rate_hz);
        let mut convolver = Convolver::new(frames / pieces, pieces);
        convolver.make_room(routes(settings));
        // Each of those that run side by side computes its pieces at a time of its own.
        convolver.begin_at(turn.map_or(0, |turn| turn * setup.max_block % (frames / pieces)));
        let mut linear = Self {
            phase,
            latency: Length { frames, pieces }.latency(),
            convolver,
            designer: Designer::new(frames, f64::from(setup.rate_hz), phase, settings),
            wanted: *settings,
            designed: None,
            in_turns: turn.is_some(),
            waits: false,
            fades: false,
        };
        if !linear.in_turns {
            linear.design_at_once();
            linear.take();
        }
        linear
    }

    /// Makes the kernels of what is wanted, so that they wait in the convolver.
    fn design_at_once(&mut self) {
        while !self.convolver.widen() {}
        self.designer.begin(&self.wanted);
        while self.designer.making().is_some() {
            self.designer.step(&mut self.convolver);
        }
        self.designed = Some(self.wanted);
        self.waits = true;
    }

    /// Takes the kernels that wait, at once.
    fn take(&mut self) {
        if std::mem::take(&mut self.waits) | std::mem::take(&mut self.fades) {
            self.convolver.switch();
        }
    }
}

impl Processor for Linear {
    fn set(&mut self, values: &[f64]) {
        self.wanted = Settings { phase: self.phase, ..Settings::from_values(values) };
        let routes = routes(&self.wanted);
        self.convolver.make_room(routes);
        self.designer.make_room(routes);
        if !self.in_turns {
            while !self.convolver.widen() {}
        }
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        if !self.ready() {
            io.iter_mut().for_each(|channel| channel.fill(0.0));
            return;
        }
        let n = io.first().map_or(0, |c| c.len());
        let mut done = 0;
        while done < n {
            if self.convolver.at_seam() {
                if !self.in_turns && self.designed.as_ref() != Some(&self.wanted) {
                    self.design_at_once();
                }
                self.fades = std::mem::take(&mut self.waits);
            }
            let end = n.min(done + self.convolver.until_seam());
            stretch(io, done..end, |io| self.convolver.process(io, self.fades));
            self.fades &= !self.convolver.at_seam();
            done = end;
        }
    }

    fn reset(&mut self) {
        self.convolver.reset();
        if !self.in_turns && self.designed.as_ref() != Some(&self.wanted) {
            self.design_at_once();
        }
        self.take();
    }

    fn latency(&self) -> usize {
        self.latency
    }

    fn prepare(&mut self) -> bool {
        if !self.in_turns || self.waits || self.fades {
            return false;
        }
        if self.designer.making().is_none() {
            if self.designed.as_ref() == Some(&self.wanted) {
                return false;
            }
            if !self.convolver.widen() {
                return true;
            }
            self.designer.begin(&self.wanted);
        }
        for _ in 0..STEPS {
            self.designer.step(&mut self.convolver);
        }
        if self.designer.making().is_none() {
            let first = self.designed.replace(*self.designer.made()).is_none();
            self.waits = true;
            if first {
                self.take();
            }
        }
        true
    }

    fn ready(&self) -> bool {
        self.designed.is_some()
    }
}
