//! What effects say of themselves by their formulas, without a sound: curves over frequency, and the step that shows their
//! times.

use serde::Serialize;

use clear_bend_sound::scope::Scope;

/// The predicted curve of one band.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct BandCurve {
    /// Its number, from 1.
    pub number: usize,
    /// Its gain at every frequency, dB.
    pub gains_db: Vec<f64>,
}

/// The predicted curve of all bands on one scope.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ScopeCurve {
    /// The scope.
    pub scope: Scope,
    /// The gain at every frequency, dB.
    pub gains_db: Vec<f64>,
    /// The phase at every frequency, degrees, without jumps from 0 Hz on.
    pub phases_deg: Vec<f64>,
}

/// The curves of a filter by its formulas.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Curves {
    /// Every band that is switched on.
    pub bands: Vec<BandCurve>,
    /// All bands together, for every scope that has a curve of its own.
    pub sums: Vec<ScopeCurve>,
    /// The centres of all bands and of their copies, and the edges beside them, Hz: a narrow band is nothing at all between two points of a
    /// drawing.
    #[serde(skip)]
    pub places_hz: Vec<f64>,
}

/// No curve is drawn deeper than this, dB: a notch goes down for ever, a drawing does not.
const DEEPEST_DB: f64 = -120.0;

/// Frequencies at which a curve is drawn, with places between them that must not be missed.
#[derive(Debug)]
pub struct DrawnAt {
    /// All of them, rising, Hz.
    all_hz: Vec<f64>,
    /// Where each point that is drawn lies among them, and which of them belong to it.
    points: Vec<(usize, std::ops::Range<usize>)>,
}

impl DrawnAt {
    /// Rising frequencies (Hz), with places of no order.
    #[must_use]
    pub fn new(freqs_hz: &[f64], places_hz: &[f64]) -> Self {
        let (first, last) = (freqs_hz.first().copied(), freqs_hz.last().copied());
        let within = |hz: &f64| first.is_some_and(|first| *hz > first) && last.is_some_and(|last| *hz < last);
        let mut all_hz: Vec<f64> = freqs_hz.to_vec();
        all_hz.extend(places_hz.iter().copied().filter(within));
        all_hz.sort_by(f64::total_cmp);
        let edge = |a: f64, b: f64| (a * b).sqrt();
        let place = |hz: f64| all_hz.partition_point(|other| *other < hz);
        let points = (0..freqs_hz.len()).map(|k| {
            let low = k.checked_sub(1).map_or(0.0, |before| edge(freqs_hz[before], freqs_hz[k]));
            let high = freqs_hz.get(k + 1).map_or(f64::INFINITY, |next| edge(freqs_hz[k], *next));
            (place(freqs_hz[k]), place(low)..place(high))
        });
        let points = points.collect();
        Self { all_hz, points }
    }

    /// Where a curve has to be known, Hz, rising.
    #[must_use]
    pub fn all_hz(&self) -> &[f64] {
        &self.all_hz
    }

    /// Of values at all of them those that are drawn: at every point the one that is furthest from what is at the points beside it.
    #[must_use]
    pub fn drawn(&self, values: &[f64]) -> Vec<f64> {
        let own = |k: usize| self.points.get(k).map(|(own, _)| values[*own].max(DEEPEST_DB));
        let furthest = |k: usize| {
            let here = own(k).unwrap_or_default();
            let before = k.checked_sub(1).and_then(own).unwrap_or(here);
            let beside = 0.5 * (before + own(k + 1).unwrap_or(here));
            let around = values.get(self.points[k].1.clone()).unwrap_or_default().iter();
            let all = around.map(|x| x.max(DEEPEST_DB));
            all.max_by(|a, b| (a - beside).abs().total_cmp(&(b - beside).abs())).unwrap_or(here)
        };
        (0..self.points.len()).map(furthest).collect()
    }

    /// Of values at all of them those at the points themselves.
    #[must_use]
    pub fn at_points(&self, values: &[f64]) -> Vec<f64> {
        self.points.iter().map(|(own, _)| values[*own]).collect()
    }
}

/// The tone steps from quiet to loud and back, dBFS (peak levels).
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelStep {
    /// Level before and after, dBFS.
    pub quiet_dbfs: f64,
    /// Level between, dBFS.
    pub loud_dbfs: f64,
}

impl LevelStep {
    /// The step of IEC 60118-2 and ANSI S3.22 (from memory), 25 dB, placed at -35 and -10 dBFS.
    pub const USUAL: Self = Self { quiet_dbfs: -35.0, loud_dbfs: -10.0 };
}
