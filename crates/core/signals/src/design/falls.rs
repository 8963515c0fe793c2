//! How level and decay of every octave fall over time, as they are drawn.

use std::f64::consts::LN_10;

use super::Design;
use super::curves::OCTAVES_HZ;
use super::pulses::GRID;
use clear_bend_sound::cast;

/// Octaves.
pub const COUNT: usize = OCTAVES_HZ.len();
/// Energies are summed over so many points of the grid.
pub const SUMMED: usize = 4;
/// What a decibel is on a natural scale.
const NEPERS_PER_DB: f64 = LN_10 / 20.0;
/// A decay time is read between these levels, dB (T30 of ISO 3382-1).
const READ_DB: (f64, f64) = (-5.0, -35.0);
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
    #[must_use]
    pub fn is_one(&self) -> bool {
        self.fallen_db.iter().all(|fallen| *fallen == self.fallen_db[0])
    }

    /// The gain of an octave at a point, linear, with its fall as many times as fast.
    fn gain(&self, octave: usize, point: usize, faster: f64) -> f64 {
        let point = point.min(self.level_db.len() - 1);
        // A power of e, which is worked out more quickly than one of ten.
        (NEPERS_PER_DB * (self.level_db[point] - faster * self.fallen_db[octave][point])).exp()
    }

    /// The same at all points, and once more after the last.
    #[must_use]
    pub fn gains_at_all(&self, octave: usize, faster: f64) -> Vec<f64> {
        (0..=self.level_db.len()).map(|point| self.gain(octave, point, faster)).collect()
    }

    /// The same in the middle of every sum of [`SUMMED`] points.
    #[must_use]
    pub fn gains(&self, octave: usize, faster: f64) -> Vec<f64> {
        (0..self.sums()).map(|k| self.gain(octave, SUMMED * k + SUMMED / 2, faster)).collect()
    }

    /// How many sums there are.
    #[must_use]
    pub fn sums(&self) -> usize {
        self.level_db.len().div_ceil(SUMMED)
    }

    /// How many of them there are in a second.
    #[must_use]
    pub fn sums_per_s(&self) -> f64 {
        1.0 / (cast::real(SUMMED) * self.grid_s)
    }

    /// The time to fall by 60 dB, s, of power in sums. What is cut off at the end goes on as the octave fell last.
    #[must_use]
    pub fn t30_s(&self, octave: usize, power: &[f64]) -> Option<f64> {
        let step_s = 1.0 / self.sums_per_s();
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
    let falls_to = |db: f64| {
        let least = all * 10f64.powf(db / 10.0);
        Some(left.partition_point(|left| *left > least)).filter(|k| *k < left.len())
    };
    let (from, to) = (falls_to(READ_DB.0)?, falls_to(READ_DB.1)?);
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
