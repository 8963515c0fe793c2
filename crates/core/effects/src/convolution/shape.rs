//! The response as it is convolved with: stretched, turned around, faded, cut, and made as loud as the dry sound.

use std::f64::consts::{FRAC_PI_2, PI};
use std::ops::Range;
use std::sync::Arc;

use super::loudness::Weighing;
use super::settings::{LONGEST_S, Settings, UNCUT_S};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Kaiser, NewKernels};

/// So many samples are shaped in one step: as they are, in grains, or each between those of the response. All take about as long.
const STEP: usize = 2048;
const STEP_OF_GRAINS: usize = 512;
const STEP_BETWEEN: usize = 128;
/// Samples of the response to each side of a place between two of them, where it is not made shorter.
const SIDE: f64 = 16.0;
const STOP_DB: f64 = 90.0;
/// The weighing is followed for so long after the end of the response, s: its lows ring.
const AFTER_S: f64 = 0.1;
/// Where the pitch stays, grains of so long follow each other, s; each lasts twice as long. The beginning, with the direct sound, is
/// taken as it is: a grain that reaches back to it would double it.
const GRAIN_S: f64 = 0.012;
const HEAD_S: f64 = 0.5 * GRAIN_S + 0.003;
/// Steps of the table of the window between its middle and its end.
const TABLE: usize = 512;

/// What of the settings the shape depends on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shape {
    stretch: f64,
    pitch_stays: bool,
    as_recorded: bool,
    reverse: bool,
    rise_ms: f64,
    cut_s: f64,
    fall_ms: f64,
}

impl Shape {
    /// That of some settings.
    #[must_use]
    pub fn of(settings: &Settings) -> Self {
        Self {
            stretch: settings.stretch,
            pitch_stays: settings.pitch > 0.5,
            as_recorded: settings.level > 0.5,
            reverse: settings.reverse > 0.5,
            rise_ms: settings.rise_ms,
            cut_s: settings.cut_s,
            fall_ms: settings.fall_ms,
        }
    }

    /// The longest shape for which there is room where this one has it: a response that is made longer gets a form of its own.
    #[must_use]
    pub fn with_room(&self) -> Self {
        Self { stretch: if self.stretch > 1.0 { 2.0 } else { 1.0 }, cut_s: UNCUT_S, ..*self }
    }

    /// How long a response of so many samples is in this shape, samples.
    #[must_use]
    pub fn frames(&self, response: usize, rate_hz: u32) -> usize {
        let long = cast::count(cast::real(response) * self.stretch);
        let cut = if self.cut_s >= UNCUT_S { LONGEST_S } else { self.cut_s };
        long.min(cast::frames(cut, rate_hz)).max(1)
    }
}

/// Shapes a response step by step.
pub struct Shaper {
    response: Arc<Buffer>,
    window: Vec<f64>,
    weighing: Vec<Weighing>,
    of_dry: f64,
    shape: Shape,
    /// How far it has come, and how far it goes: the response, then what the weighing still gives.
    at: usize,
    frames: usize,
    squares: [f64; 4],
    /// The kernels, with silence after their end, in the order of the channels of the response.
    kernels: Vec<Vec<f64>>,
    /// The energy of each of them.
    energies: Vec<f64>,
}

impl Shaper {
    /// For a response, and kernels of so many samples.
    #[must_use]
    pub fn new(response: Arc<Buffer>, taps: usize, shape: Shape) -> Self {
        let rate_hz = f64::from(response.rate_hz());
        let weighing = Weighing::new(rate_hz);
        let kaiser = Kaiser::new(STOP_DB);
        let channels = response.channels().len();
        Self {
            of_dry: weighing.of_impulse(rate_hz),
            window: (0..=TABLE).map(|i| kaiser.at(cast::real(i) / cast::real(TABLE))).collect(),
            weighing: vec![weighing; channels.div_ceil(2)],
            shape,
            at: 0,
            frames: 0,
            squares: [0.0; 4],
            kernels: vec![vec![0.0; taps]; channels],
            energies: vec![0.0; channels],
            response,
        }
    }

    /// Begins to make another shape.
    pub fn begin(&mut self, shape: Shape) {
        self.shape = shape;
        self.at = 0;
        self.frames =
            shape.frames(self.response.frames(), self.response.rate_hz()).min(self.kernels[0].len());
        self.weighing.iter_mut().for_each(Weighing::reset);
        self.squares = [0.0; 4];
        self.energies.fill(0.0);
    }

    /// Makes the next part; says whether anything is left to be made.
    pub fn step(&mut self) -> bool {
        let taps = self.kernels[0].len();
        // What the weighing still gives behind the end counts as well.
        let weighed = if self.shape.as_recorded {
            0
        } else {
            self.frames + cast::frames(AFTER_S, self.response.rate_hz())
        };
        let step = match self.shape {
            Shape { stretch: 1.0, .. } => STEP,
            Shape { pitch_stays: true, .. } => STEP_OF_GRAINS,
            _ => STEP_BETWEEN,
        };
        let all = taps.max(weighed);
        let end = (self.at + step).min(all);
        for channel in 0..self.kernels.len() {
            self.fill(channel, self.at..end.min(taps));
        }
        self.weigh(self.at..end.min(weighed));
        self.at = end;
        end < all
    }

    /// Makes a part of a kernel.
    fn fill(&mut self, channel: usize, part: Range<usize>) {
        let Some(mut kernel) = self.kernels.get_mut(channel).map(std::mem::take) else { return };
        let sounding = part.start.min(self.frames)..part.end.min(self.frames);
        if let Some(taps) = kernel.get_mut(part.start..part.end) {
            let (taps, silent) = taps.split_at_mut(sounding.len());
            silent.fill(0.0);
            self.fill_sounding(channel, sounding, taps);
            self.energies[channel] += taps.iter().map(|x| x * x).sum::<f64>();
        }
        self.kernels[channel] = kernel;
    }

    /// The same of what is not over yet.
    fn fill_sounding(&self, channel: usize, part: Range<usize>, taps: &mut [f64]) {
        let Some(samples) = self.response.channels().get(channel) else { return };
        let rate_hz = f64::from(self.response.rate_hz());
        if self.shape.stretch == 1.0 && !self.shape.reverse {
            let there = samples.iter().skip(part.start).map(|x| f64::from(*x)).chain(std::iter::repeat(0.0));
            taps.iter_mut().zip(there).for_each(|(tap, x)| *tap = x);
        } else {
            for (i, tap) in part.clone().zip(taps.iter_mut()) {
                // What is left after the cut is turned around.
                *tap = self.stretched(samples, if self.shape.reverse { self.frames - 1 - i } else { i });
            }
        }
        let on_the_way = |gone: usize, all: f64| (FRAC_PI_2 * cast::real(gone) / all).sin().powi(2);
        let (rise, fall) = (0.001 * self.shape.rise_ms * rate_hz, 0.001 * self.shape.fall_ms * rate_hz);
        for (i, tap) in part.clone().zip(taps.iter_mut()).take_while(|(i, _)| cast::real(*i) < rise) {
            *tap *= on_the_way(i, rise);
        }
        let falling = part.zip(taps).rev();
        for (left, tap) in
            falling.map(|(i, tap)| (self.frames - i, tap)).take_while(|(left, _)| cast::real(*left) < fall)
        {
            *tap *= on_the_way(left, fall);
        }
    }

    /// Weighs a part of what has been made.
    fn weigh(&mut self, part: Range<usize>) {
        for i in part {
            let tap = |channel: usize| {
                self.kernels.get(channel).and_then(|taps| taps.get(i)).copied().unwrap_or(0.0)
            };
            let pairs = [[tap(0), tap(1)], [tap(2), tap(3)]];
            for ((weighing, pair), sums) in
                self.weighing.iter_mut().zip(pairs).zip(self.squares.chunks_exact_mut(2))
            {
                let squares = weighing.squares(pair);
                sums.iter_mut().zip(squares).for_each(|(sum, square)| *sum += square);
            }
        }
    }

    /// How many kernels there are.
    #[must_use]
    pub fn kernels(&self) -> usize {
        self.kernels.len()
    }

    /// The kernels of the shape, once nothing is left to be made.
    #[must_use]
    pub fn made(&self) -> NewKernels<'_> {
        NewKernels { samples: &self.kernels, energies: &self.energies, gain: self.gain() }
    }

    /// The gain with which pink noise, another one on each side, comes out as loud as it goes in.
    fn gain(&self) -> f64 {
        // One kernel is that of both sides.
        let times = if self.kernels.len() == 1 { 2.0 } else { 1.0 };
        let heard = times * self.squares.iter().sum::<f64>();
        if self.shape.as_recorded || heard <= 0.0 { 1.0 } else { (2.0 * self.of_dry / heard).sqrt() }
    }

    /// A sample at a place of the stretched response.
    fn stretched(&self, samples: &[f32], place: usize) -> f64 {
        let stretch = self.shape.stretch;
        if stretch == 1.0 {
            samples.get(place).map_or(0.0, |x| f64::from(*x))
        } else if self.shape.pitch_stays {
            self.grains(samples, place)
        } else {
            // As much energy as before.
            self.between(samples, cast::real(place) / stretch) / stretch.sqrt()
        }
    }

    /// The response in grains, each where the stretch puts it, a little later by chance: grains that follow each other evenly would comb.
    /// Neighbours are parts of noise, so that their powers add up.
    fn grains(&self, samples: &[f32], place: usize) -> f64 {
        let rate_hz = self.response.rate_hz();
        let (grain, head) = (cast::frames(GRAIN_S, rate_hz), cast::frames(HEAD_S, rate_hz));
        let read = |at: usize| samples.get(at).map_or(0.0, |x| f64::from(*x));
        let Some(behind) = place.checked_sub(head) else { return read(place) };
        let (first, part) = (behind / grain, cast::real(behind % grain) / cast::real(grain));
        let of = |k: usize| {
            let from = cast::real(k * grain) / self.shape.stretch + 0.5 * cast::real(grain) * chance(k);
            read((place + cast::count(from)).saturating_sub(k * grain))
        };
        let (sin, cos) = (FRAC_PI_2 * part).sin_cos();
        cos * of(first) + sin * of(first + 1)
    }

    /// The response between two of its samples, without what would lie over half the rate once it is shorter.
    fn between(&self, samples: &[f32], place: f64) -> f64 {
        let cutoff = self.shape.stretch.min(1.0);
        let reach = SIDE / cutoff;
        let (first, last) = (cast::whole((place - reach).ceil()), cast::whole((place + reach).floor()));
        let mut sum = 0.0;
        for k in first..=last {
            let Some(x) = usize::try_from(k).ok().and_then(|k| samples.get(k)) else { continue };
            let away = cast::signed(k) - place;
            let turn = PI * cutoff * away;
            let sinc = if turn == 0.0 { 1.0 } else { turn.sin() / turn };
            sum += f64::from(*x) * cutoff * sinc * self.windowed((away / reach).abs());
        }
        sum
    }

    /// The window at a share of the way from its middle to its end.
    fn windowed(&self, share: f64) -> f64 {
        let at = share * cast::real(TABLE);
        let i = cast::floor(at).min(TABLE - 1);
        self.window[i] + (at - cast::real(i)) * (self.window[i + 1] - self.window[i])
    }
}

/// A number from 0 to 1 for every grain, the same one every time; 0 for the first.
fn chance(grain: usize) -> f64 {
    if grain == 0 { 0.0 } else { 0.5 + 0.5 * SplitMix64::new(cast::seed(cast::real(grain)), 80).bipolar() }
}
