//! The settings of an equaliser: what holds for all of it, then those of its 24 bands.

use super::design::{Build, Kind, MOST_COPIES, Series, Shape};
use super::words::{
    ALONE, BAND_FREQ, BAND_GAIN, BAND_KIND, BAND_ON, BAND_Q, BAND_SCOPE, BAND_SLOPE, COPIES, FORMULA, HEAR,
    INPUT, INTERVAL, PHASE, Q_RULE, SERIES,
};
use crate::OUTPUT;
use clear_bend_catalogue::{ActsWith, Param, Picture};
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

pub use super::words::MOST_BANDS;

/// Settings that hold for all bands.
pub const WHOLE: usize = 7;
/// Settings of each band.
pub const OF_BAND: usize = 10;

macro_rules! params {
    ($($n:literal)+) => {
        /// The catalogue entries: those that hold for all bands, then those of each band.
        pub const PARAMS: &[Param] = &[
            PHASE,
            FORMULA,
            Q_RULE,
            HEAR,
            ALONE,
            INPUT,
            Param { id: "output_db", group: "All bands", picture: Some(Picture::Curve), ..OUTPUT },
            $(
                Param { id: concat!("kind_", $n), group: concat!("Band ", $n), ..BAND_KIND },
                Param { acts_with: exists(concat!("kind_", $n)), id: concat!("on_", $n), group: concat!("Band ", $n), ..BAND_ON },
                Param { acts_with: exists(concat!("kind_", $n)), id: concat!("freq_", $n, "_hz"), group: concat!("Band ", $n), ..BAND_FREQ },
                Param { acts_with: Some(ActsWith::at_least(concat!("kind_", $n), Kind::Bell.choice())), id: concat!("gain_", $n, "_db"), group: concat!("Band ", $n), ..BAND_GAIN },
                Param { acts_with: Some(ActsWith::at_least(concat!("kind_", $n), Kind::AllPass.choice())), id: concat!("q_", $n), group: concat!("Band ", $n), ..BAND_Q },
                Param { acts_with: Some(ActsWith { param: concat!("kind_", $n), from: Kind::LowCut.choice(), to: Kind::HighCut.choice() }), id: concat!("slope_", $n), group: concat!("Band ", $n), ..BAND_SLOPE },
                Param { acts_with: exists(concat!("kind_", $n)), id: concat!("scope_", $n), group: concat!("Band ", $n), ..BAND_SCOPE },
                Param { acts_with: Some(ActsWith { param: concat!("kind_", $n), from: Kind::Notch.choice(), to: Kind::FlatBell.choice() }), id: concat!("series_", $n), group: concat!("Band ", $n), ..SERIES },
                Param { acts_with: Some(ActsWith::at_least(concat!("series_", $n), 1.0)), id: concat!("copies_", $n), group: concat!("Band ", $n), ..COPIES },
                Param { acts_with: Some(ActsWith::at_least(concat!("series_", $n), 2.0)), id: concat!("interval_", $n, "_st"), group: concat!("Band ", $n), ..INTERVAL },
            )+
        ];

        /// Identifiers of the settings of all bands.
        pub const BAND_IDS: &[&str] = &[
            $(
                concat!("kind_", $n),
                concat!("on_", $n),
                concat!("freq_", $n, "_hz"),
                concat!("gain_", $n, "_db"),
                concat!("q_", $n),
                concat!("slope_", $n),
                concat!("scope_", $n),
                concat!("series_", $n),
                concat!("copies_", $n),
                concat!("interval_", $n, "_st"),
            )+
        ];
    };
}

params!(1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 24);

const fn exists(kind: &'static str) -> Option<ActsWith> {
    Some(ActsWith::at_least(kind, 1.0))
}

/// Phase of the whole equaliser.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Phase {
    /// That which comes with the curve; no delay.
    #[default]
    Minimum,
    /// None; the sound comes late, and rings before as long as after.
    Linear,
    /// Half of the minimum phase.
    Balanced,
}

/// What is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Hear {
    /// The equalised sound.
    #[default]
    All,
    /// Only the range of one band.
    Only,
    /// Everything but the range of one band.
    Without,
    /// Everything, with a narrow boost at one band, for sweeping by hand.
    Sweep,
}

/// The boost for sweeping, dB; everything is lowered by as much, so that no resonance hurts.
const SWEEP_DB: f64 = 12.0;
/// It is at least as narrow as this.
const SWEEP_Q: f64 = 8.0;

/// The settings of one band.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Band {
    /// What cannot move.
    pub build: Build,
    /// The channels it works on.
    pub scope: Scope,
    /// Whether it is there and switched on.
    pub on: bool,
    /// What moves; Q as it acts.
    pub shape: Shape,
    /// Whether what it takes is heard instead of what it leaves: 1 - H in place of H.
    pub taken: bool,
}

/// The settings of an equaliser.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Settings {
    /// Phase of the whole.
    pub phase: Phase,
    /// What is heard.
    pub hear: Hear,
    /// The band that is heard alone or left out, from 0.
    pub heard: usize,
    /// Gain before all bands, dB; lowered while a boost is swept.
    pub input_db: f64,
    /// The bands.
    pub bands: [Band; MOST_BANDS],
}

/// Gain at which a band is as sharp as its Q says where gentle ones are wider, dB.
const FULL_Q_DB: f64 = 12.0;
/// Share of the Q that is left to the gentlest.
const GENTLEST: f64 = 0.25;

impl Settings {
    /// Settings from values in catalogue order; a value that is not there takes its default.
    #[must_use]
    pub fn from_values(values: &[f64]) -> Self {
        let value = |i: usize| values.get(i).copied().unwrap_or(PARAMS[i].default);
        let choice = |i: usize| cast::count(value(i));
        let plain = choice(1) == 1;
        let follows = choice(2) == 1;
        let band = |n: usize| {
            let from = WHOLE + n * OF_BAND;
            let kind = Kind::ALL[choice(from).min(Kind::ALL.len() - 1)];
            let gain_db = value(from + 3);
            let gentle = follows && matches!(kind, Kind::Bell | Kind::FlatBell);
            let share =
                if gentle { GENTLEST + (1.0 - GENTLEST) * (gain_db.abs() / FULL_Q_DB).min(1.0) } else { 1.0 };
            let series = match choice(from + 7) {
                0 => Series::Single,
                1 => Series::Multiples,
                _ => Series::Intervals,
            };
            Band {
                build: Build {
                    kind,
                    order: cast::count(value(from + 5) / 6.0),
                    series: if kind.repeats() { series } else { Series::Single },
                    copies: choice(from + 8).min(MOST_COPIES),
                    interval_st: value(from + 9),
                    plain,
                },
                scope: Scope::ALL.get(choice(from + 6)).copied().unwrap_or_default(),
                on: kind != Kind::None && choice(from + 1) == 1,
                shape: Shape { freq_hz: value(from + 2), gain_db, q: value(from + 4) * share },
                taken: false,
            }
        };
        Self {
            phase: match choice(0) {
                0 => Phase::Minimum,
                1 => Phase::Linear,
                _ => Phase::Balanced,
            },
            hear: match choice(3) {
                0 => Hear::All,
                1 => Hear::Only,
                2 => Hear::Without,
                _ => Hear::Sweep,
            },
            heard: choice(4).clamp(1, MOST_BANDS) - 1,
            input_db: value(5) - if choice(3) == 3 { SWEEP_DB } else { 0.0 },
            bands: std::array::from_fn(band),
        }
    }

    /// The filter through which one band is heard alone or left out; none while everything is heard.
    #[must_use]
    pub fn audition(&self) -> Option<Band> {
        let band = &self.bands[self.heard];
        let only = match self.hear {
            Hear::All => return None,
            Hear::Only => true,
            Hear::Without => false,
            Hear::Sweep if band.build.kind == Kind::None => return None,
            Hear::Sweep => {
                let shape = Shape { gain_db: SWEEP_DB, q: band.shape.q.max(SWEEP_Q), ..band.shape };
                let build = Build { kind: Kind::Bell, series: Series::Single, ..band.build };
                return Some(Band { build, scope: Scope::Stereo, on: true, shape, taken: false });
            }
        };
        let (kind, order) = match (band.build.kind, only) {
            (Kind::None, _) => return None,
            // What a cut takes is as steep as the cut.
            (Kind::LowCut, true) => (Kind::HighCut, band.build.order),
            (Kind::HighCut, true) => (Kind::LowCut, band.build.order),
            (Kind::LowShelf, true) | (Kind::HighCut | Kind::HighShelf, false) => (Kind::HighCut, 4),
            (Kind::LowCut | Kind::LowShelf, false) | (Kind::HighShelf, true) => (Kind::LowCut, 4),
            // What notches take is the range, and that of all copies of a series.
            _ => (Kind::Notch, 2),
        };
        Some(Band {
            build: Build { kind, order, ..band.build },
            scope: Scope::Stereo,
            on: true,
            shape: band.shape,
            taken: only && kind == Kind::Notch,
        })
    }

    /// Every band in its place, none where it is not at work: what is heard of a range is the range before its band acts.
    pub fn at_work(&self) -> impl Iterator<Item = Option<Band>> + '_ {
        let heard = |i: usize| self.hear == Hear::Only && i == self.heard;
        self.bands.iter().enumerate().map(move |(i, band)| (band.on && !heard(i)).then_some(*band))
    }

    /// The bands that are at work, then the filter for hearing one of them.
    pub fn working(&self) -> impl Iterator<Item = Band> + '_ {
        self.at_work().flatten().chain(self.audition())
    }
}
