//! The response as it is convolved with: stretched, turned around, faded, cut, and made as loud as the dry sound.

use std::f64::consts::{FRAC_PI_2, PI};
use std::sync::Arc;

use super::loudness::Weighing;
use super::settings::{LONGEST_S, Settings, UNCUT_S};
use crate::Buffer;
use crate::cast;
use crate::dsp::Kaiser;
use crate::signals::SplitMix64;

/// So many samples are shaped in one step: as they are, in grains, or each between those of the response. All take about as long.
const STEP: usize = 8192;
const STEP_OF_GRAINS: usize = 2048;
const STEP_BETWEEN: usize = 512;
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
    weighing: [Weighing; 2],
    of_dry: f64,
    shape: Shape,
    /// How far it has come, and how far it goes: the response, then what the weighing still gives.
    at: usize,
    frames: usize,
    squares: [f64; 2],
    /// How many samples have the gain that their squares ask for.
    levelled: usize,
    /// The kernels, with silence after their end, and the energy of each.
    pub kernels: [Vec<f64>; 2],
    /// The energy of each of them.
    pub energies: [f64; 2],
}

impl Shaper {
    /// For a response, and kernels of so many samples.
    #[must_use]
    pub fn new(response: Arc<Buffer>, taps: usize, shape: Shape) -> Self {
        let rate_hz = f64::from(response.rate_hz());
        let weighing = Weighing::new(rate_hz);
        let kaiser = Kaiser::new(STOP_DB);
        let of_dry = weighing.of_impulse(rate_hz);
        Self {
            response,
            window: (0..=TABLE).map(|i| kaiser.at(cast::real(i) / cast::real(TABLE))).collect(),
            weighing: [weighing.clone(), weighing],
            of_dry,
            shape,
            at: 0,
            frames: 0,
            squares: [0.0; 2],
            levelled: 0,
            kernels: [vec![0.0; taps], vec![0.0; taps]],
            energies: [0.0; 2],
        }
    }

    /// Begins to make another shape.
    pub fn begin(&mut self, shape: Shape) {
        self.shape = shape;
        (self.at, self.levelled) = (0, 0);
        self.frames =
            shape.frames(self.response.frames(), self.response.rate_hz()).min(self.kernels[0].len());
        self.weighing.iter_mut().for_each(Weighing::reset);
        (self.squares, self.energies) = ([0.0; 2], [0.0; 2]);
    }

    /// Makes the next part; says whether anything is left to be made.
    pub fn step(&mut self) -> bool {
        let taps = self.kernels[0].len();
        let all = taps.max(self.frames + cast::frames(AFTER_S, self.response.rate_hz()));
        let weighed = if self.shape.as_recorded { taps } else { all };
        if self.at == weighed {
            return self.level();
        }
        let step = match self.shape {
            Shape { stretch: 1.0, .. } => STEP,
            Shape { pitch_stays: true, .. } => STEP_OF_GRAINS,
            _ => STEP_BETWEEN,
        };
        let end = (self.at + step).min(weighed);
        for channel in 0..2 {
            for i in self.at..end {
                let x = if i < self.frames { self.sample(channel, i) } else { 0.0 };
                if let Some(tap) = self.kernels[channel].get_mut(i) {
                    *tap = x;
                }
                if !self.shape.as_recorded {
                    self.squares[channel] += self.weighing[channel].square(x);
                }
            }
        }
        self.at = end;
        true
    }

    /// Gives some of the samples their gain; says whether any are left.
    fn level(&mut self) -> bool {
        let heard = self.squares.iter().sum::<f64>();
        let gain =
            if self.shape.as_recorded || heard <= 0.0 { 1.0 } else { (2.0 * self.of_dry / heard).sqrt() };
        let end = (self.levelled + STEP).min(self.frames);
        for (kernel, energy) in self.kernels.iter_mut().zip(&mut self.energies) {
            for tap in &mut kernel[self.levelled..end] {
                *tap *= gain;
                *energy += *tap * *tap;
            }
        }
        self.levelled = end;
        end < self.frames
    }

    /// A sample of the shape.
    fn sample(&self, channel: usize, i: usize) -> f64 {
        let rate_hz = f64::from(self.response.rate_hz());
        let channels = self.response.channels();
        let Some(samples) = channels.get(channel.min(channels.len().saturating_sub(1))) else { return 0.0 };
        // What is left after the cut is turned around.
        let place = if self.shape.reverse { self.frames - 1 - i } else { i };
        let x = if self.shape.stretch == 1.0 {
            samples.get(place).map_or(0.0, |x| f64::from(*x))
        } else if self.shape.pitch_stays {
            self.grains(samples, place)
        } else {
            // As much energy as before.
            self.between(samples, cast::real(place) / self.shape.stretch) / self.shape.stretch.sqrt()
        };
        let seconds = cast::real(i) / rate_hz;
        let rise = 1000.0 * seconds / self.shape.rise_ms;
        let rising = if rise < 1.0 { (FRAC_PI_2 * rise).sin().powi(2) } else { 1.0 };
        let left = 1000.0 * (cast::real(self.frames) / rate_hz - seconds) / self.shape.fall_ms;
        let falling = if left < 1.0 { (FRAC_PI_2 * left).sin().powi(2) } else { 1.0 };
        x * rising * falling
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
