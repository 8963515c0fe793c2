//! How octaves fall, each in its own time.

use std::f64::consts::{FRAC_PI_2, LN_10};

use rustfft::num_complex::Complex32;

use super::Design;
use super::curves::OCTAVES_HZ;
use super::pulses::GRID;
use crate::cast;
use crate::dsp::plans::{self, Precision as _};
use crate::dsp::{InOctaves, Octave, exact_middle};
use crate::level::gain_from_db;

/// Octaves.
const COUNT: usize = OCTAVES_HZ.len();
/// Neighbours go over into each other within so much of an octave.
const OVER: f64 = 0.25;
/// Silence behind the sound, so that what rings before its beginning does not come round to its end, samples.
const APART: usize = 8192;
/// Energies are summed over so many points of the grid.
const SUMMED: usize = 4;
/// A decay time is read between these levels, dB (T30 of ISO 3382-1).
const READ_DB: (f64, f64) = (-5.0, -35.0);
/// So few reflections say nothing about a decay.
const FEW: usize = 100;
/// One octave of random reflections falls a little faster or slower than its curve says by chance, and through a filter of an octave
/// its neighbours are heard as well. It is brought back by at most this factor, in so many rounds.
const MOST_OFF: f64 = 1.4;
const ROUNDS: usize = 8;
/// What is cut off at the end begins with the mean power of so many sums.
const LAST: usize = 8;

/// Level and fall over time, read on a grid of [`GRID`] samples.
pub struct Falls {
    level_db: Vec<f64>,
    /// By how much every octave has fallen, dB.
    fallen_db: [Vec<f64>; COUNT],
    /// How long the power that an octave has at the end would last after it, s.
    left_s: [f64; COUNT],
    grid_s: f64,
    /// The first point at which anything is thrown.
    from: usize,
}

impl Falls {
    /// Those that are drawn.
    #[must_use]
    pub fn of(design: &Design, rate_hz: u32) -> Self {
        let (settings, curves) = (design.settings(), &design.curves);
        let points = cast::frames(settings.length_s, rate_hz) / GRID + 2;
        let grid_s = cast::real(GRID) / f64::from(rate_hz);
        let time = |point: usize| cast::real(point) * grid_s;
        let fallen_db = std::array::from_fn(|octave| {
            let (mut sum, mut before) = (0.0, 60.0 / curves.decay_s(octave, 0.0));
            let fallen = (0..points).map(|point| {
                let now = 60.0 / curves.decay_s(octave, time(point));
                sum += if point > 0 { 0.5 * (before + now) * grid_s } else { 0.0 };
                before = now;
                sum
            });
            fallen.collect()
        });
        Self {
            level_db: (0..points).map(|point| curves.level_db(time(point))).collect(),
            fallen_db,
            left_s: std::array::from_fn(|octave| curves.decay_s(octave, settings.length_s) / (6.0 * LN_10)),
            grid_s,
            from: cast::floor(settings.from_ms / 1000.0 / grid_s),
        }
    }

    /// Whether all octaves fall alike.
    fn is_one(&self) -> bool {
        self.fallen_db.iter().all(|fallen| *fallen == self.fallen_db[0])
    }

    /// The gain of an octave at a point, linear, with its fall as many times as fast.
    fn gain(&self, octave: usize, point: usize, faster: f64) -> f64 {
        let point = point.min(self.level_db.len() - 1);
        gain_from_db(self.level_db[point] - faster * self.fallen_db[octave][point])
    }

    /// The same at all points, and once more after the last.
    fn gains_at_all(&self, octave: usize, faster: f64) -> Vec<f64> {
        (0..=self.level_db.len()).map(|point| self.gain(octave, point, faster)).collect()
    }

    /// The same in the middle of every sum of [`SUMMED`] points.
    fn gains(&self, octave: usize, faster: f64) -> Vec<f64> {
        (0..self.sums()).map(|k| self.gain(octave, SUMMED * k + SUMMED / 2, faster)).collect()
    }

    fn sums(&self) -> usize {
        self.level_db.len().div_ceil(SUMMED)
    }

    /// The time to fall by 60 dB, s, of power in sums. What is cut off at the end goes on as the octave fell last.
    fn t30_s(&self, octave: usize, power: &[f64]) -> Option<f64> {
        let step_s = cast::real(SUMMED) * self.grid_s;
        let last = power.len() - power.len().min(LAST);
        let mean = power[last..].iter().sum::<f64>() / cast::real(power.len() - last);
        let mut sum = mean * self.left_s[octave] / step_s;
        let backward = power.iter().rev().map(|power| {
            sum += power;
            sum
        });
        let mut left: Vec<f64> = backward.collect();
        left.reverse();
        slope_s(&left, step_s)
    }

    /// The decay times by octave that follow from the curves, s (T30); none where an octave has not fallen far enough when the response
    /// ends.
    pub fn drawn_t30s(&self) -> [Option<f64>; COUNT] {
        std::array::from_fn(|octave| self.drawn_s(octave))
    }

    fn drawn_s(&self, octave: usize) -> Option<f64> {
        let gains = self.gains(octave, 1.0);
        let begun = |k: usize| if SUMMED * (k + 1) > self.from { 1.0 } else { 0.0 };
        let power: Vec<f64> = gains.iter().enumerate().map(|(k, gain)| begun(k) * gain * gain).collect();
        self.t30_s(octave, &power)
    }
}

/// The time to fall by 60 dB, s, of the energy that is left at steps of so many seconds, by the line through its level.
fn slope_s(left: &[f64], step_s: f64) -> Option<f64> {
    let all = left.first().copied().filter(|all| *all > 0.0)?;
    let level = |k: usize| 10.0 * (left[k] / all).log10();
    let from = (0..left.len()).find(|k| level(*k) <= READ_DB.0)?;
    let to = (from..left.len()).find(|k| level(*k) <= READ_DB.1)?;
    let count = cast::real(to - from + 1);
    let (mut x, mut y, mut xx, mut xy) = (0.0, 0.0, 0.0, 0.0);
    for k in from..=to {
        let (t, db) = (cast::real(k) * step_s, level(k));
        x += t;
        y += db;
        xx += t * t;
        xy += t * db;
    }
    let slope = (count * xy - x * y) / (count * xx - x * x);
    (slope < 0.0).then(|| -60.0 / slope)
}

/// What is thrown, taken apart into octaves when that is needed first: as long as only the way it falls is changed, it need not be again.
pub struct Thrown {
    channels: Vec<Vec<f32>>,
    /// How many reflections there are.
    count: usize,
    rate_hz: u32,
    parts: Option<Parts>,
}

/// What is thrown on each channel in octaves, whose sum it is, and what is heard of it through the filter of each.
struct Parts {
    channels: Vec<Vec<Vec<f32>>>,
    heard: Option<[Heard; COUNT]>,
}

impl Thrown {
    /// So many reflections on some channels.
    #[must_use]
    pub fn new(channels: &[Vec<f64>], count: usize, rate_hz: u32) -> Self {
        Self { channels: channels.iter().map(|x| samples(x)).collect(), count, rate_hz, parts: None }
    }

    /// The channels as they fall, octave by octave, each so that it is measured with the decay time that is drawn, s.
    pub fn fallen(&mut self, falls: &Falls, drawn: &[Option<f64>; COUNT]) -> Vec<Vec<f64>> {
        let mut fallen: Vec<Vec<f64>> =
            self.channels.iter().map(|channel| vec![0.0; channel.len()]).collect();
        let few = self.count < FEW;
        if few && falls.is_one() {
            let gains = falls.gains_at_all(0, 1.0);
            for (channel, out) in self.channels.iter().zip(&mut fallen) {
                add(&gains, channel, out);
            }
            return fallen;
        }
        let parts = self.parts.get_or_insert_with(|| Parts {
            channels: self.channels.iter().map(|channel| split(channel, f64::from(self.rate_hz))).collect(),
            heard: (!few).then(|| heard(&self.channels, falls, self.rate_hz)),
        });
        let faster = parts.heard.as_ref().map_or([1.0; COUNT], |heard| brought_back(falls, drawn, heard));
        for (octave, faster) in faster.into_iter().enumerate() {
            let gains = falls.gains_at_all(octave, faster);
            for (channel, out) in parts.channels.iter().zip(&mut fallen) {
                add(&gains, &channel[octave], out);
            }
        }
        fallen
    }
}

/// Adds a part with its gains at all points.
fn add(gains: &[f64], part: &[f32], out: &mut [f64]) {
    let pairs = gains.iter().zip(gains.iter().skip(1));
    for ((gain, next), (part, out)) in pairs.zip(part.chunks(GRID).zip(out.chunks_mut(GRID))) {
        let step = (next - gain) / cast::real(GRID);
        for (k, (x, y)) in part.iter().zip(out).enumerate() {
            *y += f64::from(*x) * (gain + step * cast::real(k));
        }
    }
}

/// What is heard through the filter of every octave.
fn heard(channels: &[Vec<f32>], falls: &Falls, rate_hz: u32) -> [Heard; COUNT] {
    let side = |k: usize| channels.get(k).map_or(vec![0.0; channels[0].len()], Clone::clone);
    let whole = InOctaves::of(&[side(0), side(1)], rate_hz);
    std::array::from_fn(|octave| Heard::of(&whole, octave, falls))
}

/// How many times as fast every octave must fall so that, through the filter of an octave, its decay time is that of its curve.
fn brought_back(falls: &Falls, drawn: &[Option<f64>; COUNT], heard: &[Heard; COUNT]) -> [f64; COUNT] {
    let mut faster = [1.0; COUNT];
    for _ in 0..ROUNDS {
        let gains: [Vec<f64>; COUNT] = std::array::from_fn(|octave| falls.gains(octave, faster[octave]));
        for (octave, heard) in heard.iter().enumerate() {
            let power = heard.power(&gains);
            if let Some((drawn, now)) = drawn[octave].zip(falls.t30_s(octave, &power)) {
                faster[octave] = (faster[octave] * now / drawn).clamp(1.0 / MOST_OFF, MOST_OFF);
            }
        }
    }
    faster
}

fn samples(sound: &[f64]) -> Vec<f32> {
    sound.iter().map(|x| cast::sample(*x)).collect()
}

/// What is heard through the filter of an octave before anything falls: the power of the octave itself and of its neighbours, and what
/// each has in common with the next one, in sums of [`SUMMED`] points.
struct Heard {
    lowest: usize,
    own: Vec<Vec<f64>>,
    common: Vec<Vec<f64>>,
}

impl Heard {
    fn of(whole: &InOctaves<f32>, octave: usize, falls: &Falls) -> Self {
        let lowest = octave.saturating_sub(1);
        let parts: Vec<Octave<f32>> = (lowest..=(octave + 1).min(COUNT - 1))
            .map(|from| {
                let part = Part::of(from);
                whole.octave(OCTAVES_HZ[octave], |freq_hz| part.share(freq_hz))
            })
            .collect();
        let own = parts.iter().map(|part| power_of(part, part, falls)).collect();
        let common = parts.windows(2).map(|pair| power_of(&pair[0], &pair[1], falls)).collect();
        Self { lowest, own, common }
    }

    /// Its power as all octaves fall with their gains.
    fn power(&self, gains: &[Vec<f64>; COUNT]) -> Vec<f64> {
        let gain = |k: usize, n: usize| gains[self.lowest + k][n];
        let at = |n: usize| {
            let own = self.own.iter().enumerate().map(|(k, power)| power[n] * gain(k, n).powi(2));
            let common = self.common.iter().enumerate();
            let common = common.map(|(k, power)| 2.0 * power[n] * gain(k, n) * gain(k + 1, n));
            own.chain(common).sum::<f64>().max(0.0)
        };
        (0..self.own[0].len()).map(at).collect()
    }
}

/// What two parts of an octave have in common, in sums of [`SUMMED`] points.
fn power_of(one: &Octave<f32>, other: &Octave<f32>, falls: &Falls) -> Vec<f64> {
    let mut power = vec![0.0; falls.sums()];
    let sums_per_sample = 1.0 / (one.rate_hz * cast::real(SUMMED) * falls.grid_s);
    let mut k = 0;
    for (n, (x, y)) in one.samples.iter().zip(&other.samples).enumerate() {
        // Between the middles of two sums: the lowest octaves have fewer samples than there are sums.
        let place = (cast::real(n) * sums_per_sample - 0.5).max(0.0);
        while place >= cast::real(k + 1) {
            k += 1;
        }
        let part = place - cast::real(k);
        let common = f64::from(x.re * y.re + x.im * y.im);
        for (k, share) in [(k, 1.0 - part), (k + 1, part)] {
            if let Some(sum) = power.get_mut(k) {
                *sum += share * common;
            }
        }
    }
    power
}

/// Octaves of a sound without a phase: their sum is the sound.
fn split(sound: &[f32], rate: f64) -> Vec<Vec<f32>> {
    let length = plans::quick_length(sound.len() + APART);
    // Of 32 bits, so that it follows a hand.
    let (forward, backward) = f32::plans(length);
    let mut time = sound.to_vec();
    time.resize(length, 0.0);
    let mut spectrum = forward.make_output_vec();
    let done = forward.process(&mut time, &mut spectrum);
    debug_assert!(done.is_ok(), "the lengths fit");
    let mut part = spectrum.clone();
    let mut octave = |octave: usize| {
        let own = Part::of(octave);
        for (bin, (y, x)) in part.iter_mut().zip(&spectrum).enumerate() {
            let share = own.share(cast::real(bin) * rate / cast::real(length)) / cast::real(length);
            *y = if share > 0.0 { x * cast::sample(share) } else { Complex32::default() };
        }
        // The ends of the spectrum of a real sound are real.
        part[0].im = 0.0;
        if let Some(last) = part.last_mut() {
            last.im = 0.0;
        }
        let done = backward.process(&mut part, &mut time);
        debug_assert!(done.is_ok(), "the lengths fit");
        time[..sound.len()].to_vec()
    };
    (0..COUNT).map(&mut octave).collect()
}

/// The part of the spectrum that an octave has; the lowest and the highest have all that lies beyond.
struct Part {
    /// Where it begins to be heard, where all of it is, where less is, and where nothing is left, Hz.
    edges_hz: [f64; 4],
}

impl Part {
    fn of(octave: usize) -> Self {
        let middle = exact_middle(OCTAVES_HZ[octave]);
        let edge = |octaves: f64| middle * 10f64.powf(0.3 * octaves);
        let lows = if octave == 0 { [-1.0; 2] } else { [edge(-0.5 - 0.5 * OVER), edge(-0.5 + 0.5 * OVER)] };
        let highs = if octave + 1 == COUNT {
            [f64::INFINITY; 2]
        } else {
            [edge(0.5 - 0.5 * OVER), edge(0.5 + 0.5 * OVER)]
        };
        Self { edges_hz: [lows[0], lows[1], highs[0], highs[1]] }
    }

    /// Its share of a frequency.
    fn share(&self, freq_hz: f64) -> f64 {
        let [from, whole, less, to] = self.edges_hz;
        // From 0 to 1 over an edge, as its logarithm grows.
        let over =
            |low: f64, high: f64| (FRAC_PI_2 * ((freq_hz / low).ln() / (high / low).ln())).sin().powi(2);
        if freq_hz <= from || freq_hz >= to {
            0.0
        } else if freq_hz < whole {
            over(from, whole)
        } else if freq_hz > less {
            1.0 - over(less, to)
        } else {
            1.0
        }
    }
}
