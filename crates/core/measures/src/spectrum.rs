//! Spectra whose levels are true: a tone reads its peak level wherever it lies.
//!
//! The window is the flat top of five terms (ISO 18431-2, coefficients from memory): 0.01 dB of scallop loss, for a
//! noise bandwidth of 3.77 bins, which is stated wherever a spectrum is shown. Bands are summed from a Hann window
//! (Harris, Proc. IEEE 66(1), 1978), whose leakage is the smaller.

use std::borrow::Cow;
use std::f64::consts::TAU;
use std::sync::Arc;

use realfft::RealToComplex;
use rustfft::num_complex::Complex64;
use serde::{Deserialize, Serialize};

use clear_bend_sound::Buffer;
use clear_bend_sound::audio::frames_alike;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;
use clear_bend_sound::scope::Scope;

/// How finely a spectrum tells frequencies apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Resolution {
    /// Quick: 2048 samples at 48 kHz.
    Coarse,
    /// 8192 samples.
    #[default]
    Medium,
    /// Slow: 32768 samples.
    Fine,
}

impl Resolution {
    /// The length of the window at a rate, samples.
    #[must_use]
    pub fn frames(self, rate_hz: u32) -> usize {
        let at_48k = match self {
            Self::Coarse => 2048,
            Self::Medium => 8192,
            Self::Fine => 32_768,
        };
        frames_alike(at_48k, rate_hz)
    }

    /// The bandwidth of noise that one reading takes in, Hz.
    #[must_use]
    pub fn bandwidth_hz(self, rate_hz: u32) -> f64 {
        FLAT_TOP_BINS * f64::from(rate_hz) / cast::real(self.frames(rate_hz))
    }
}

/// Coefficients of the flat top.
const FLAT_TOP: [f64; 5] = [0.215_578_95, 0.416_631_58, 0.277_263_158, 0.083_578_947, 0.006_947_368];
/// Its noise bandwidth, bins: sum of squares over square of sum, of the coefficients as cosines.
const FLAT_TOP_BINS: f64 = 3.770_3;
const HANN: [f64; 2] = [0.5, 0.5];

/// Which window a spectrum is taken with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Window {
    /// Levels of tones are true to 0.01 dB.
    FlatTop,
    /// Powers of bands are true.
    Hann,
}

impl Window {
    fn samples(self, frames: usize) -> Vec<f64> {
        let terms: &[f64] = match self {
            Self::FlatTop => &FLAT_TOP,
            Self::Hann => &HANN,
        };
        let at = |i: usize| {
            let place = TAU * cast::real(i) / cast::real(frames);
            let term =
                |(k, a): (usize, &f64)| if k % 2 == 0 { *a } else { -a } * (cast::real(k) * place).cos();
            terms.iter().enumerate().map(term).sum()
        };
        (0..frames).map(at).collect()
    }
}

/// Takes the powers of stretches of sound.
pub struct Transform {
    forward: Arc<dyn RealToComplex<f64>>,
    window: Vec<f64>,
    /// One over half the sum of the window: amplitudes of tones come out true.
    amplitude: f64,
    /// One over the root of its power: powers of noise come out true, per bin.
    power: f64,
    time: Vec<f64>,
    spectrum: Vec<Complex64>,
    scratch: Vec<Complex64>,
}

impl Transform {
    /// For stretches of so many frames.
    #[must_use]
    pub fn new(window: Window, frames: usize) -> Self {
        Self::padded(window, frames, frames)
    }

    /// For stretches of so many frames, with silence behind them up to so many points: bins between those of the stretch itself.
    #[must_use]
    pub fn padded(window: Window, frames: usize, points: usize) -> Self {
        let forward = plans::forward(points);
        let window = window.samples(frames);
        let sum: f64 = window.iter().sum();
        let squares: f64 = window.iter().map(|w| w * w).sum();
        Self {
            amplitude: 2.0 / sum,
            power: (2.0 / (squares * cast::real(frames))).sqrt(),
            time: vec![0.0; points],
            spectrum: forward.make_output_vec(),
            scratch: forward.make_scratch_vec(),
            window,
            forward,
        }
    }

    /// What a power is multiplied by to give the squared amplitude of a tone.
    #[must_use]
    pub fn square_of_tone(&self) -> f64 {
        self.amplitude.powi(2)
    }

    /// What a power is multiplied by to give the mean square of what lies in a bin.
    #[must_use]
    pub fn square_of_noise(&self) -> f64 {
        self.power.powi(2)
    }

    /// Frames of a stretch.
    #[must_use]
    pub fn frames(&self) -> usize {
        self.window.len()
    }

    /// How many powers a stretch has: from 0 Hz to half the rate, ends included.
    #[must_use]
    pub fn bins(&self) -> usize {
        self.spectrum.len()
    }

    /// Adds the powers of a stretch, from its first sample on, times a weight; what is missing at its end is silent.
    pub fn add_powers(&mut self, mut samples: impl Iterator<Item = f64>, weight: f64, powers: &mut [f64]) {
        for (x, w) in self.time.iter_mut().zip(&self.window) {
            *x = samples.next().map_or(0.0, |sample| sample * w);
        }
        // The last transform has left something there.
        self.time[self.window.len()..].fill(0.0);
        let done = self.forward.process_with_scratch(&mut self.time, &mut self.spectrum, &mut self.scratch);
        debug_assert!(done.is_ok(), "the lengths fit");
        powers.iter_mut().zip(&self.spectrum).for_each(|(power, x)| *power += weight * x.norm_sqr());
    }
}

/// The samples of a scope of a sound from a frame on.
pub fn channel_samples(sound: &Buffer, scope: Scope, from: usize) -> impl Iterator<Item = f64> + '_ {
    let (left, right) = match sound.channels() {
        [left, right] => (left, right),
        [mono, ..] => (mono, mono),
        [] => unreachable!("a buffer has a channel"),
    };
    // Mono has nothing on the right.
    let silent = sound.channels().len() == 1 && scope == Scope::Right;
    // Cut first: a zip that skips would walk all the way to there.
    let from = from.min(left.len());
    left[from..].iter().zip(&right[from..]).map(move |(l, r)| if silent { 0.0 } else { scope.of(*l, *r) })
}

/// The channels of a sound whose powers are averaged; of two that are the same, one is enough.
pub(super) fn parts(sound: &Buffer, scope: Scope) -> &'static [Scope] {
    let alike = || matches!(sound.channels(), [left, right] if left == right);
    let mono = scope == Scope::Stereo && (sound.channels().len() == 1 || alike());
    if mono { Scope::Left.parts() } else { scope.parts() }
}

/// The mean spectrum of a passage.
#[derive(Debug, Clone, PartialEq)]
pub struct Spectrum {
    /// Sample rate, Hz.
    pub rate_hz: u32,
    /// Squared amplitude of a tone at every bin, full scale 1; bins lie evenly from 0 Hz to half the rate.
    pub squares: Vec<f64>,
    /// The bandwidth of noise that a bin takes in, Hz.
    pub bandwidth_hz: f64,
}

impl Spectrum {
    /// The mean over a whole passage, in windows that overlap by three quarters.
    #[must_use]
    pub fn of(sound: &Buffer, scope: Scope, resolution: Resolution) -> Self {
        let frames = resolution.frames(sound.rate_hz());
        let mut transform = Transform::new(Window::FlatTop, frames);
        let scale = transform.square_of_tone();
        let squares = mean_power(sound, parts(sound, scope), &mut transform, 4);
        Self {
            rate_hz: sound.rate_hz(),
            squares: squares.into_iter().map(|power| power * scale).collect(),
            bandwidth_hz: resolution.bandwidth_hz(sound.rate_hz()),
        }
    }

    /// The level in columns that lie at equal ratios between two frequencies, dBFS: the largest bin of each, or the
    /// level between bins where a column is narrower than one. Not under the floor.
    #[must_use]
    pub fn columns_dbfs(&self, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        columns_dbfs(&self.squares, self.rate_hz, from_hz, to_hz, columns)
    }

    /// The same with powers averaged over so much of an octave around every frequency, 0 to 1.
    #[must_use]
    pub fn smoothed(self, octaves: f64) -> Self {
        Self { squares: smoothed(&self.squares, octaves).into_owned(), ..self }
    }

    /// The level at some frequencies at equal ratios, dBFS: the largest that lies nearer to each of them than to the next
    /// one, so that no tone falls between two.
    #[must_use]
    pub fn points_dbfs(&self, freqs_hz: &[f64]) -> Vec<f64> {
        let [first, .., last] = freqs_hz else { return Vec::new() };
        let half = (last / first).powf(0.5 / cast::real(freqs_hz.len() - 1));
        let columns = self.columns_dbfs(first / half, last * half, freqs_hz.len());
        columns.into_iter().map(f64::from).collect()
    }
}

/// Levels under this are silence, dBFS.
pub const FLOOR_DBFS: f64 = -160.0;

pub(super) fn decibels(square: f64) -> f64 {
    (10.0 * square.log10()).max(FLOOR_DBFS)
}

/// Between bins, levels lie on a straight line in dB.
fn between(squares: &[f64], rate_hz: u32, freq_hz: f64) -> f64 {
    let last = squares.len() - 1;
    let bin = 2.0 * freq_hz / f64::from(rate_hz) * cast::real(last);
    let low = cast::floor(bin).min(last);
    let share = (bin - cast::real(low)).clamp(0.0, 1.0);
    let [a, b] = [low, (low + 1).min(last)].map(|i| squares[i].max(1e-32).ln());
    (a + share * (b - a)).exp()
}

/// Squares that are averaged over so much of an octave (0 to 1) around every bin; bins that reach further than that stay.
pub(super) fn smoothed(squares: &[f64], octaves: f64) -> Cow<'_, [f64]> {
    let half = (0.5 * octaves.clamp(0.0, 1.0)).exp2();
    if half == 1.0 {
        return Cow::Borrowed(squares);
    }
    // What lies under an edge: bins reach half a bin to both sides of their middle.
    let mut under = Vec::with_capacity(squares.len() + 1);
    under.push(0.0);
    under.extend(squares.iter().scan(0.0, |sum, square| {
        *sum += square;
        Some(*sum)
    }));
    let top = cast::real(squares.len());
    let up_to = |edge: f64| {
        let whole = cast::floor(edge);
        under[whole] + (edge - cast::real(whole)) * squares.get(whole).copied().unwrap_or(0.0)
    };
    let mean = |bin: usize| {
        let middle = cast::real(bin);
        let (low, high) = (middle / half + 0.5, (middle * half + 0.5).min(top));
        if high - low <= 1.0 { squares[bin] } else { (up_to(high) - up_to(low)) / (high - low) }
    };
    Cow::Owned((0..squares.len()).map(mean).collect())
}

/// The columns of some squared amplitudes; see [`Spectrum::columns_dbfs`].
#[must_use]
pub fn columns_dbfs(squares: &[f64], rate_hz: u32, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
    let last = squares.len() - 1;
    let per_hz = 2.0 * cast::real(last) / f64::from(rate_hz);
    let edge = |i: usize| from_hz * (to_hz / from_hz).powf(cast::real(i) / cast::real(columns));
    (0..columns)
        .map(|i| {
            let (low, high) = (edge(i), edge(i + 1));
            let middle = between(squares, rate_hz, (low * high).sqrt());
            let first = cast::floor((low * per_hz).ceil()).min(last);
            let end = (cast::floor(high * per_hz) + 1).min(last + 1);
            let largest = squares[first.min(end)..end].iter().fold(middle, |a, b| a.max(*b));
            cast::sample(decibels(largest))
        })
        .collect()
}

/// The mean power of all windows of a passage, averaged over channels, by bin.
fn mean_power(sound: &Buffer, channels: &[Scope], transform: &mut Transform, overlap: usize) -> Vec<f64> {
    let frames = transform.frames();
    let mut sum = vec![0.0; transform.bins()];
    let mut count = 0;
    for start in starts(sound.frames(), frames, frames / overlap) {
        for scope in channels {
            transform.add_powers(channel_samples(sound, *scope, start), 1.0, &mut sum);
            count += 1;
        }
    }
    let scale = 1.0 / cast::real(count.max(1));
    sum.iter_mut().for_each(|x| *x *= scale);
    sum
}

/// Where windows begin: one from the start at least, and no further one that is not whole.
pub(super) fn starts(sound: usize, frames: usize, hop: usize) -> impl Iterator<Item = usize> {
    (0..).step_by(hop.max(1)).take_while(move |start| *start == 0 || start + frames <= sound)
}

/// The mean power of a sound over frequency, of both channels, at medium resolution: what several measures read off it.
#[derive(Debug, Clone, PartialEq)]
pub struct MeanPower {
    rate_hz: u32,
    /// The mean square of what lies in every bin; bins lie evenly from 0 Hz to half the rate.
    squares: Vec<f64>,
    frames: usize,
}

impl MeanPower {
    /// The mean over a whole sound.
    #[must_use]
    pub fn of(sound: &Buffer) -> Self {
        let mut transform = Transform::new(Window::Hann, Resolution::Medium.frames(sound.rate_hz()));
        let squares = mean_power(sound, parts(sound, Scope::Stereo), &mut transform, 2);
        let scale = transform.square_of_noise();
        let squares = squares.into_iter().map(|power| power * scale).collect();
        Self { rate_hz: sound.rate_hz(), squares, frames: transform.frames() }
    }

    /// The middle of the energy on a logarithmic axis between 20 Hz and 20 kHz, Hz; none in silence.
    #[must_use]
    pub fn centroid_hz(&self) -> Option<f64> {
        let width_hz = f64::from(self.rate_hz) / cast::real(self.frames);
        let heard = self.squares.iter().enumerate().map(|(i, p)| (cast::real(i) * width_hz, p));
        let heard = heard.filter(|(freq, _)| (20.0..=20_000.0).contains(freq));
        let (sum, weighted) = heard.fold((0.0, 0.0), |(sum, all), (freq, p)| (sum + p, all + p * freq.ln()));
        (sum > SILENT).then(|| (weighted / sum).exp())
    }
}

/// Mean squares under this have no middle: -240 dB.
const SILENT: f64 = 1e-24;
