//! Decay curves by backward integration (Schroeder, "New method of measuring reverberation time", JASA 37, 1965), and the times
//! that are read off them (ISO 3382-1).

use serde::Serialize;

use clear_bend_catalogue::Unit;
use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_power;

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

/// What a record holds where nothing falls any more.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ground {
    /// Noise, as in any recording: it is taken out.
    Noise,
    /// Sound: the record was computed, and what stays in it never falls.
    Sound,
}

/// What ends the range over which a decay is followed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum End {
    /// Silence.
    Silence,
    /// Noise.
    Noise,
    /// The record, while the sound still falls.
    Record,
    /// It falls no further.
    Steady,
}

/// A decay curve.
#[derive(Debug, Clone)]
pub struct Decay {
    /// Energy that is left at every frame, as a share of all.
    left: Vec<f64>,
    rate_hz: f64,
    range_db: f64,
    end: End,
}

/// Levels are averaged over this long to find the noise, s: a four hundredth of the record, within these.
const WINDOWS: f64 = 400.0;
const WINDOW_S: (f64, f64) = (0.001, 0.02);
/// The share of a record, at its end, that is taken for noise at first.
const LAST: f64 = 0.1;
/// A line is fitted down to so far over the noise, dB.
const OVER_NOISE_DB: f64 = 8.0;
/// What falls over the last two tenths of a record by less than this share of what its line falls has met the noise.
const MET: f64 = 0.5;
/// What falls by less than this, dB, over the second half of a computed record stays.
const STAYS_DB: f64 = 1.0;
/// A range is followed down to so far over the noise, or over what the record ends with, dB (ISO 3382-1 asks for 10 dB under the
/// end of a fit).
const MARGIN_DB: f64 = 10.0;
/// What falls by so much is whole, dB.
const WHOLE_DB: f64 = 110.0;
/// A fit is a line where 1000 (1 - r^2) is at most this (ISO 3382-2, Annex B: over ten, a decay is far from a straight line).
const MOST_NONLINEAR: f64 = 10.0;

impl Decay {
    /// Integrates energies (one per frame) backwards. Where they end in noise, the curve is cut where the decay meets it, and
    /// what the decay would still have is added (Lundeby and others, Acustica 81, 1995); so it is where the record ends first.
    #[must_use]
    pub fn of(energies: &[f64], rate_hz: f64, ground: Ground) -> Self {
        let all: f64 = energies.iter().sum();
        let length = (cast::real(energies.len()) / WINDOWS).clamp(WINDOW_S.0 * rate_hz, WINDOW_S.1 * rate_hz);
        let window = cast::count(length).clamp(1, energies.len().max(1));
        // The last window may be short, and tells less.
        let levels: Vec<f64> = energies.chunks_exact(window).map(mean).collect();
        let ending = Ending::find(&levels, cast::real(window) / rate_hz, ground);
        let ends = ending.at_s.map_or(energies.len(), |at_s| cast::count(at_s * rate_hz).min(energies.len()));
        if ending.end == End::Steady {
            // All of what never ends is always still to come.
            return Self { left: vec![1.0; energies.len()], rate_hz, range_db: 0.0, end: End::Steady };
        }
        let mut left: Vec<f64> = energies[..ends].to_vec();
        let mut sum = ending.beyond * rate_hz;
        for energy in left.iter_mut().rev() {
            // The noise itself is taken out.
            sum = (sum + *energy - ending.noise).max(0.0);
            *energy = sum;
        }
        let whole = left.first().copied().filter(|whole| *whole > 0.0 && all > 0.0);
        let Some(whole) = whole else {
            return Self { left: Vec::new(), rate_hz, range_db: 0.0, end: End::Silence };
        };
        left.iter_mut().for_each(|energy| *energy /= whole);
        // The level at which the decay meets the noise, or the end of the record, on the curve.
        let last_db =
            left.iter().rev().find(|energy| **energy > 0.0).map_or(0.0, |energy| -10.0 * energy.log10());
        let range_db = match ending.end {
            End::Silence => last_db,
            _ => (last_db - MARGIN_DB).max(0.0),
        };
        Self { left, rate_hz, range_db, end: ending.end }
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

    /// Whether it stays at a level for ever, as far as the record shows.
    #[must_use]
    pub fn stays(&self) -> bool {
        self.end == End::Steady
    }

    /// Its length, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        cast::real(self.left.len()) / self.rate_hz
    }

    /// The line through the curve between two levels (dB, negative), by least squares; none where it is not followed so far, and
    /// where it is no line (ISO 3382-2).
    #[must_use]
    pub fn fit(&self, from_db: f64, to_db: f64) -> Option<DecayFit> {
        if self.range_db < -to_db {
            return None;
        }
        let line = Line::through(&self.points(from_db, to_db, None))?;
        (line.nonlinear() <= MOST_NONLINEAR).then(|| line.fit())
    }

    /// Times (s) and levels (dB) of the curve between two levels, once another slope that falls beside it has been taken off; then as
    /// long as what is left is more than that.
    fn points(&self, from_db: f64, to_db: f64, other: Option<&Line>) -> Vec<(f64, f64)> {
        let taken =
            |seconds: f64| other.map_or(0.0, |line| 10f64.powf(0.1 * (line.start + line.slope * seconds)));
        let place = |level_db: f64| self.left.partition_point(|left| *left > 10f64.powf(level_db / 10.0));
        let (from, to) = (if from_db == 0.0 { 0 } else { place(from_db) }, place(to_db));
        let part = self.left.get(from..to).unwrap_or_default();
        // Many thousand frames tell no more than some hundred of them.
        let step = part.len().div_ceil(FITTED).max(1);
        let at = |i: usize| cast::real(from + i) / self.rate_hz;
        let points = part.iter().enumerate().step_by(step);
        let points = points.map(|(i, energy)| (at(i), energy - taken(at(i))));
        points
            .filter(|(at_s, energy)| *energy > taken(*at_s))
            .map(|(at_s, energy)| (at_s, 10.0 * energy.log10()))
            .collect()
    }

    /// Two slopes, where it falls in two: that of the beginning and that of the end. A fall that is only a little bent is one.
    #[must_use]
    pub fn slopes(&self) -> Option<TwoSlopes> {
        let (t20, t30) = (self.fit(-5.0, -25.0), self.fit(-5.0, -35.0));
        if t20.zip(t30).is_some_and(|(t20, t30)| (t30.seconds / t20.seconds - 1.0).abs() < MOST_CURVED) {
            return None;
        }
        let end_db = -self.range_db.min(DEEPEST_DB);
        if end_db > -SLOPES_DB {
            return None;
        }
        let later = Line::through(&self.points(end_db + LATER_DB, end_db, None))?;
        // The first one, as long as it is the louder one.
        let first = Line::through(&self.points(0.0, FIRST_DB, Some(&later)))?;
        let are_lines = first.nonlinear().max(later.nonlinear()) <= MOST_NONLINEAR;
        let share = later.slope / first.slope;
        let falls_db = (first.start - later.start) / (1.0 - share);
        (are_lines && share < 1.0 / APART && falls_db > HEARD_DB).then_some(TwoSlopes {
            first_s: first.fit().seconds,
            then_s: later.fit().seconds,
            then_db: later.start,
        })
    }

    /// All times.
    #[must_use]
    pub fn times(&self) -> DecayTimes {
        let (edt, t20, t30) = (self.fit(0.0, -10.0), self.fit(-5.0, -25.0), self.fit(-5.0, -35.0));
        let missing = [(t30, "T30", -5.0, 35.0), (t20, "T20", -5.0, 25.0), (edt, "EDT", 0.0, 10.0)]
            .into_iter()
            .find(|(fit, ..)| fit.is_none());
        let why = missing.map(|(_, name, from, needed)| self.why_not(name, from, needed));
        DecayTimes { edt, t20, t30, range_db: self.range_db, why }
    }

    /// Why there is no number of a name, which is read between two levels.
    fn why_not(&self, name: &str, from_db: f64, needed: f64) -> String {
        let db = |db: f64| Unit::Db.text(db);
        if self.left.is_empty() {
            return format!("No {name}, because there is nothing to hear.");
        }
        if self.end == End::Steady {
            return format!("No {name}, because the sound does not fall: it stays at one level.");
        }
        if self.range_db >= needed {
            let (from, to) = (db(from_db), db(-needed));
            return format!("No {name}, because the decay is no straight line from {from} to {to}.");
        }
        match self.end {
            End::Noise => {
                let (found, needed) = (db(self.range_db + MARGIN_DB), db(needed + MARGIN_DB));
                format!("No {name}, because the decay meets the noise after {found}; {needed} are needed.")
            }
            End::Record => {
                let (found, needed) = (db(self.range_db + MARGIN_DB), db(needed + MARGIN_DB));
                format!(
                    "No {name}, because the record ends while it still falls, after {found}; {needed} are needed."
                )
            }
            _ => {
                let (found, needed) = (db(self.range_db), db(needed));
                format!("No {name}, because the decay breaks off after {found}; {needed} are needed.")
            }
        }
    }
}

/// So many points of a curve are used for a fit.
const FITTED: usize = 2000;
/// Two slopes are looked for where so much can be followed, and in no more than this, dB.
const SLOPES_DB: f64 = 40.0;
const DEEPEST_DB: f64 = 80.0;
/// The first slope is that of the first so many dB, the later one that of the last, dB.
const FIRST_DB: f64 = -15.0;
const LATER_DB: f64 = 15.0;
/// A decay whose T30 and T20 differ by less than this share is one (ISO 3382-2, Annex B: 10 % of curvature).
const MOST_CURVED: f64 = 0.1;
/// The later one takes at least so many times as long, and the first one falls by so much before they are equally loud, dB.
const APART: f64 = 1.4;
const HEARD_DB: f64 = 10.0;

/// A decay that falls in two slopes: two exponentials beside each other.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct TwoSlopes {
    /// Time of the first one to fall by 60 dB, s.
    pub first_s: f64,
    /// That of the later one, s.
    pub then_s: f64,
    /// Level of the later one at the beginning, dB against all.
    pub then_db: f64,
}

fn mean(part: &[f64]) -> f64 {
    part.iter().sum::<f64>() / cast::real(part.len().max(1))
}

/// How a record ends.
#[derive(Debug, Clone, Copy)]
struct Ending {
    end: End,
    /// Where the curve is cut, s; none at the end of the record.
    at_s: Option<f64>,
    /// Energy per frame of the noise.
    noise: f64,
    /// Energy per frame that the decay has there, times the time over which an exponential still has it, s.
    beyond: f64,
}

impl Ending {
    const SILENCE: Self = Self { end: End::Silence, at_s: None, noise: 0.0, beyond: 0.0 };
    const STEADY: Self = Self { end: End::Steady, ..Self::SILENCE };

    /// Finds it in the mean energies of windows of so many seconds.
    fn find(levels: &[f64], window_s: f64, ground: Ground) -> Self {
        let count = levels.len();
        let tail = cast::count(cast::real(count) * LAST).max(1);
        let Some(peak) = (0..count).max_by(|a, b| levels[*a].total_cmp(&levels[*b])) else {
            return Self::SILENCE;
        };
        let last = mean(&levels[count - tail..]);
        if last <= 0.0 || db_from_power(levels[peak] / last) > WHOLE_DB {
            return Self::SILENCE;
        }
        let half = mean(&levels[count / 2..(count / 2 + tail).min(count)]);
        if ground == Ground::Sound && db_from_power(half / last) < STAYS_DB {
            return Self::STEADY;
        }
        let Some(line) = Line::over(levels, peak, last) else { return Self::STEADY };
        let before = mean(&levels[count.saturating_sub(2 * tail)..count - tail]);
        let meets =
            ground == Ground::Noise && db_from_power(before / last) < MET * -line.slope * cast::real(tail);
        let met = if meets { Self::in_noise(levels, window_s, peak, last) } else { None };
        met.or_else(|| Self::in_record(levels, window_s, peak)).unwrap_or(Self::STEADY)
    }

    /// Where the decay meets the noise, which is taken from well behind that place; at least the last tenth.
    fn in_noise(levels: &[f64], window_s: f64, peak: usize, last: f64) -> Option<Self> {
        let count = levels.len();
        let tail = cast::count(cast::real(count) * LAST).max(1);
        let (mut noise, mut meets) = (last, cast::real(count));
        let mut line = Line::over(levels, peak, noise)?;
        for _ in 0..5 {
            meets = ((db_from_power(noise) - line.start) / line.slope)
                .clamp(cast::real(peak), cast::real(count - 1));
            let from = cast::count(meets + -5.0 / line.slope).min(count - tail);
            noise = mean(&levels[from..]);
            line = Line::over(levels, peak, noise)?;
        }
        let energy = 10f64.powf(0.1 * (line.start + line.slope * meets));
        let beyond = energy * lasts_s(line.slope, window_s);
        Some(Self { end: End::Noise, at_s: Some((meets + 0.5) * window_s), noise, beyond })
    }

    /// A record that is cut while the sound still falls goes on with the last half of the fall.
    fn in_record(levels: &[f64], window_s: f64, peak: usize) -> Option<Self> {
        let count = levels.len();
        let from = peak + (count - peak) / 2;
        let line = Line::through_levels(from, &levels[from..])?;
        let energy = 10f64.powf(0.1 * (line.start + line.slope * (cast::real(count) - 0.5)));
        Some(Self { end: End::Record, beyond: energy * lasts_s(line.slope, window_s), ..Self::SILENCE })
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

    /// Down from the loudest window until it is near a level of noise; none where that is at once, or where it does not fall.
    fn over(levels: &[f64], peak: usize, noise: f64) -> Option<Self> {
        let end = (peak..levels.len()).find(|i| db_from_power(levels[*i] / noise) <= OVER_NOISE_DB)?;
        Self::through_levels(peak, &levels[peak..end])
    }

    /// How far it is from a straight line: 1000 (1 - r^2) (ISO 3382-2, Annex B).
    fn nonlinear(&self) -> f64 {
        1000.0 * (1.0 - self.correlation.powi(2))
    }

    /// As what is read off it.
    fn fit(&self) -> DecayFit {
        DecayFit { seconds: -60.0 / self.slope, from_db: self.start, correlation: self.correlation }
    }

    /// Through the levels (dB) of mean energies of windows, counted from a place on.
    fn through_levels(from: usize, energies: &[f64]) -> Option<Self> {
        let heard = energies.iter().enumerate().filter(|(_, energy)| **energy > 0.0);
        let points: Vec<_> = heard.map(|(i, energy)| (cast::real(from + i), 10.0 * energy.log10())).collect();
        Self::through(&points)
    }
}
