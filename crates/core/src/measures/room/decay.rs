//! Decay curves by backward integration (Schroeder, "New method of measuring reverberation time", JASA 37, 1965), and the times
//! that are read off them (ISO 3382-1).

use serde::Serialize;

use crate::cast;
use crate::catalogue::Unit;

/// A line fitted to a decay curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DecayFit {
    /// Time to fall by 60 dB along it, s.
    pub seconds: f64,
    /// Its level at the time of the impulse, dB.
    pub from_db: f64,
    /// How well it fits: the correlation of level and time, as a positive number; 1 is a straight line.
    pub correlation: f64,
}

/// The times read off a decay curve; none where its range is too small.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DecayTimes {
    /// From 0 to -10 dB.
    pub edt: Option<DecayFit>,
    /// From -5 to -25 dB.
    pub t20: Option<DecayFit>,
    /// From -5 to -35 dB.
    pub t30: Option<DecayFit>,
    /// How far the curve can be followed, dB.
    pub range_db: f64,
    /// Why a number is missing.
    pub why: Option<String>,
}

/// A decay curve.
#[derive(Debug, Clone)]
pub struct Decay {
    /// Energy that is left at every frame, as a share of all.
    left: Vec<f64>,
    rate_hz: f64,
    range_db: f64,
    /// Whether the range ends at a floor of noise, and not with the record.
    noisy: bool,
}

/// Levels are averaged over this long to find the noise, s.
const WINDOW_S: f64 = 0.02;
/// The share of a record, at its end, that is taken for noise at first.
const LAST: f64 = 0.1;
/// A line is fitted down to so far over the noise, dB.
const OVER_NOISE_DB: f64 = 8.0;
/// What is still falling by more than this over the last quarter of a record is no noise, dB.
const STILL_FALLS_DB: f64 = 3.0;
/// A range is followed down to so far over the noise, dB (ISO 3382-1 asks for 10 dB under the end of a fit).
const MARGIN_DB: f64 = 10.0;

impl Decay {
    /// Integrates energies (one per frame) backwards. Where they end in noise, the curve is cut where the decay meets it, and
    /// what the decay would still have is added (Lundeby and others, Acustica 81, 1995).
    #[must_use]
    pub fn of(energies: &[f64], rate_hz: f64) -> Self {
        let all: f64 = energies.iter().sum();
        let window = cast::count(WINDOW_S * rate_hz).clamp(1, energies.len().max(1));
        let levels: Vec<f64> = energies.chunks(window).map(mean).collect();
        let window_s = cast::real(window) / rate_hz;
        let floor = Floor::find(&levels, window_s);
        let cut = if floor.is_none() { Cut::find(&levels, window_s) } else { None };
        let (end, beyond, noise) = match (floor, cut) {
            (Some(floor), _) => (
                cast::count(floor.meets_s * rate_hz).min(energies.len()),
                floor.beyond * rate_hz,
                floor.noise,
            ),
            (None, Some(cut)) => (energies.len(), cut.beyond * rate_hz, 0.0),
            (None, None) => (energies.len(), 0.0, 0.0),
        };
        let mut left: Vec<f64> = energies[..end].to_vec();
        let mut sum = beyond;
        for energy in left.iter_mut().rev() {
            // The noise itself is taken out.
            sum = (sum + *energy - noise).max(0.0);
            *energy = sum;
        }
        let whole = left.first().copied().filter(|whole| *whole > 0.0 && all > 0.0);
        let Some(whole) = whole else {
            return Self { left: Vec::new(), rate_hz, range_db: 0.0, noisy: false };
        };
        left.iter_mut().for_each(|energy| *energy /= whole);
        // The level at which the decay meets the noise, or the end of the record, on the curve.
        let last_db =
            left.iter().rev().find(|energy| **energy > 0.0).map_or(0.0, |energy| -10.0 * energy.log10());
        let margin_db = if floor.is_some() { MARGIN_DB } else { 0.0 };
        let range_db = (last_db - margin_db).max(0.0);
        Self { left, rate_hz, range_db, noisy: floor.is_some() }
    }

    /// The level at a time, dB under the beginning; none beyond the end.
    #[must_use]
    pub fn level_db(&self, seconds: f64) -> Option<f64> {
        let energy = self.left.get(cast::count(seconds * self.rate_hz))?;
        (*energy > 0.0).then(|| 10.0 * energy.log10())
    }

    /// How far it can be followed, dB.
    #[must_use]
    pub fn range_db(&self) -> f64 {
        self.range_db
    }

    /// Its length, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        cast::real(self.left.len()) / self.rate_hz
    }

    /// The line through the curve between two levels (dB, negative), by least squares; none where it is not followed so far, or
    /// never falls.
    #[must_use]
    pub fn fit(&self, from_db: f64, to_db: f64) -> Option<DecayFit> {
        if self.range_db < -to_db {
            return None;
        }
        let place = |level_db: f64| self.left.partition_point(|left| *left > 10f64.powf(level_db / 10.0));
        let (from, to) = (if from_db == 0.0 { 0 } else { place(from_db) }, place(to_db));
        let part = self.left.get(from..to)?;
        if part.len() < 3 {
            return None;
        }
        // Many thousand frames tell no more than some hundred of them.
        let step = part.len().div_ceil(FITTED);
        let points = part.iter().enumerate().step_by(step).filter(|(_, energy)| **energy > 0.0);
        let points: Vec<(f64, f64)> =
            points.map(|(i, energy)| (cast::real(from + i) / self.rate_hz, 10.0 * energy.log10())).collect();
        let line = Line::through(&points)?;
        Some(DecayFit { seconds: -60.0 / line.slope, from_db: line.start, correlation: line.correlation })
    }

    /// All times.
    #[must_use]
    pub fn times(&self) -> DecayTimes {
        let (edt, t20, t30) = (self.fit(0.0, -10.0), self.fit(-5.0, -25.0), self.fit(-5.0, -35.0));
        let missing = [(edt, "EDT", 10.0), (t20, "T20", 25.0), (t30, "T30", 35.0)]
            .into_iter()
            .find(|(fit, ..)| fit.is_none());
        let why = missing.map(|(_, name, needed)| {
            if self.left.is_empty() {
                format!("No {name}, because there is nothing to hear.")
            } else if self.range_db < needed {
                let (found, needed) = (Unit::Db.text(self.range_db), Unit::Db.text(needed));
                let end = if self.noisy { "meets the noise" } else { "ends" };
                format!("No {name}, because the decay {end} after {found}; {needed} are needed.")
            } else {
                format!("No {name}, because the decay breaks off there at once.")
            }
        });
        DecayTimes { edt, t20, t30, range_db: self.range_db, why }
    }
}

/// So many points of a curve are used for a fit.
const FITTED: usize = 2000;

fn mean(part: &[f64]) -> f64 {
    part.iter().sum::<f64>() / cast::real(part.len().max(1))
}

/// The noise in which a decay ends.
#[derive(Debug, Clone, Copy)]
struct Floor {
    /// When the decay meets it, s.
    meets_s: f64,
    /// Its energy per frame.
    noise: f64,
    /// Energy per frame that the decay has where it meets the noise, times the time over which an exponential still has it, s.
    beyond: f64,
}

impl Floor {
    /// Finds it in the mean energies of windows of so many seconds; none where the sound falls to the end of the record.
    fn find(levels: &[f64], window_s: f64) -> Option<Self> {
        let count = levels.len();
        if count < 12 {
            return None;
        }
        let tail = cast::count(cast::real(count) * LAST).max(3);
        let (before, last) =
            (mean(&levels[count - 3 * tail..count - 2 * tail]), mean(&levels[count - tail..]));
        if last <= 0.0 || before <= 0.0 || 10.0 * (before / last).log10() > STILL_FALLS_DB {
            return None;
        }
        let peak = (0..count).max_by(|a, b| levels[*a].total_cmp(&levels[*b]))?;
        let mut noise = last;
        let mut meets = cast::real(count - tail);
        let mut line = Line { start: 0.0, slope: 0.0, correlation: 0.0 };
        for _ in 0..5 {
            let over = |level: f64| 10.0 * (level / noise).log10() > OVER_NOISE_DB;
            let end = (peak..count).find(|i| !over(levels[*i]))?;
            line = Line::through_levels(peak, &levels[peak..end])?;
            let noise_db = 10.0 * noise.log10();
            meets = ((noise_db - line.start) / line.slope).clamp(cast::real(peak), cast::real(count - 1));
            // The noise is taken from well behind that place, at least the last tenth.
            let from = cast::count(meets + -5.0 / line.slope).min(count - tail);
            noise = mean(&levels[from..]);
        }
        let energy = 10f64.powf(0.1 * (line.start + line.slope * meets));
        Some(Self {
            meets_s: (meets + 0.5) * window_s,
            noise,
            beyond: energy * lasts_s(line.slope, window_s),
        })
    }
}

/// A record that is cut while the sound still falls.
#[derive(Debug, Clone, Copy)]
struct Cut {
    /// As [`Floor::beyond`], at the end of the record.
    beyond: f64,
}

/// A record that goes down by so much is whole, dB.
const WHOLE_DB: f64 = 80.0;

impl Cut {
    /// Goes on with the last half of the fall; none where the record goes down far enough, or ends in silence.
    fn find(levels: &[f64], window_s: f64) -> Option<Self> {
        let count = levels.len();
        let peak = (0..count).max_by(|a, b| levels[*a].total_cmp(&levels[*b]))?;
        let last = *levels.last()?;
        if last <= 0.0 || 10.0 * (levels[peak] / last).log10() > WHOLE_DB {
            return None;
        }
        // The last window may be short, and tells less.
        let from = peak + (count - peak) / 2;
        let line = Line::through_levels(from, &levels[from..count - 1])?;
        let energy = 10f64.powf(0.1 * (line.start + line.slope * (cast::real(count) - 0.5)));
        Some(Self { beyond: energy * lasts_s(line.slope, window_s) })
    }
}

/// An exponential that falls by so many dB per window has its present energy times this still before it, s.
fn lasts_s(slope: f64, window_s: f64) -> f64 {
    window_s * 10.0 / (std::f64::consts::LN_10 * -slope)
}

/// A falling line through points, by least squares.
#[derive(Debug, Clone, Copy)]
struct Line {
    /// Its value at 0.
    start: f64,
    /// How it rises, negative.
    slope: f64,
    /// How well it fits, 0 to 1.
    correlation: f64,
}

impl Line {
    /// None where there are too few points, or they do not fall.
    fn through(points: &[(f64, f64)]) -> Option<Self> {
        if points.len() < 3 {
            return None;
        }
        let count = cast::real(points.len());
        let (mx, my) = points.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + x / count, b + y / count));
        let (mut xx, mut yy, mut xy) = (0.0, 0.0, 0.0);
        for (x, y) in points {
            xx += (x - mx).powi(2);
            yy += (y - my).powi(2);
            xy += (x - mx) * (y - my);
        }
        let slope = xy / xx;
        let correlation = (-xy / (xx * yy).sqrt()).min(1.0);
        (slope < 0.0).then_some(Self { start: my - slope * mx, slope, correlation })
    }

    /// Through the levels (dB) of mean energies of windows, counted from a place on.
    fn through_levels(from: usize, energies: &[f64]) -> Option<Self> {
        let heard = energies.iter().enumerate().filter(|(_, energy)| **energy > 0.0);
        let points: Vec<_> = heard.map(|(i, energy)| (cast::real(from + i), 10.0 * energy.log10())).collect();
        Self::through(&points)
    }
}
