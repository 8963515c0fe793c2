//! Sibilants: the s and the sh of a voice, what is taken off them, and whether too much.

use serde::Serialize;

use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, StateVariable};

/// The sibilant band, Hz (common practice).
const BAND_HZ: (f64, f64) = (4000.0, 10_000.0);
/// Levels are read over stretches of this length, s.
const HOP_S: f64 = 0.005;
/// A stretch is sibilant where the band has at least half the energy of everything under it...
const OVER_REST_DB: f64 = -3.0;
/// ...and is at most this far under the loudest stretch of the band, dB.
const UNDER_LOUDEST_DB: f64 = 30.0;
/// Shorter ones are clicks, s.
const SHORTEST_S: f64 = 0.015;
/// Gaps shorter than this do not end one, s.
const GAP_S: f64 = 0.02;
/// What is around a sibilant reaches so far to both sides, s.
const AROUND_S: f64 = 0.25;

/// One sibilant before and after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Sibilant {
    /// Where it begins, s.
    pub from_s: f64,
    /// Where it ends, s.
    pub to_s: f64,
    /// Level of the sibilant band before, dBFS (RMS).
    pub before_dbfs: f64,
    /// The same after.
    pub after_dbfs: f64,
    /// Level of all sound under 4 kHz around it, after, dBFS: the vowels beside it.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub vowels_dbfs: f64,
    /// Level of the sibilant band in those vowels, after, dBFS.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub band_in_vowels_dbfs: f64,
}

/// An s that has lost this much against the rest is as weak as a th, which is what a lisp makes of it: of the powers of
/// speech sounds in Fletcher, "Speech and Hearing in Communication" (1953, table of phonetic powers; from memory), s has
/// 16 and th 1.
const LISP_DB: f64 = 12.0;

impl Sibilant {
    /// Whether so much has been taken that it lisps: the band is no stronger in the sibilant than in the vowels around
    /// it, or it has lost as much against everything else as an s is stronger than a th.
    #[must_use]
    pub fn lisps(&self, rest_change_db: f64) -> bool {
        let change_db = self.after_dbfs - self.before_dbfs;
        let under_vowels = change_db < -1.0 && self.after_dbfs < self.band_in_vowels_dbfs;
        under_vowels || change_db - rest_change_db <= -LISP_DB
    }
}

/// The sibilants of a passage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Sibilants {
    /// All of them, in order.
    pub all: Vec<Sibilant>,
    /// Change of everything that is no sibilant, dB (RMS); none where nothing is left.
    pub rest_change_db: Option<f64>,
    /// How many lisp.
    pub lisping: usize,
}

/// Energies of a passage in short stretches: in the sibilant band, and under it.
struct Stretches {
    band: Vec<f64>,
    under: Vec<f64>,
    all: Vec<f64>,
    hop: usize,
}

impl Stretches {
    fn of(passage: &Buffer) -> Self {
        let rate = f64::from(passage.rate_hz());
        let hop = cast::frames(HOP_S, passage.rate_hz()).max(1);
        let count = passage.frames() / hop;
        let mut found = Self { band: vec![0.0; count], under: vec![0.0; count], all: vec![0.0; count], hop };
        let (low, high) = (Corner::butterworth(BAND_HZ.0, rate), Corner::butterworth(BAND_HZ.1, rate));
        for channel in passage.channels() {
            let mut filters = [StateVariable::default(); 3];
            for (i, x) in channel.iter().take(count * hop).enumerate() {
                let [first, second, top] = &mut filters;
                let x = f64::from(*x);
                let parts = first.step(&low, x);
                let band = top.step(&high, second.step(&low, parts.high).high).low;
                found.band[i / hop] += band * band;
                found.under[i / hop] += parts.low * parts.low;
                found.all[i / hop] += x * x;
            }
        }
        let frames = cast::real(hop * passage.channels().len());
        for energies in [&mut found.band, &mut found.under, &mut found.all] {
            energies.iter_mut().for_each(|energy| *energy /= frames);
        }
        found
    }

    /// Mean level of a row of energies over some stretches, dB.
    fn level(energies: &[f64], places: impl Iterator<Item = usize>) -> f64 {
        let (sum, count) =
            places.filter_map(|k| energies.get(k)).fold((0.0, 0usize), |(sum, n), e| (sum + e, n + 1));
        10.0 * (sum / cast::real(count.max(1))).log10()
    }
}

impl Sibilants {
    /// Finds the sibilants of a passage and reads them before and after; none where it has none.
    #[must_use]
    pub fn between(before: &Buffer, after: &Buffer) -> Option<Self> {
        let was = Stretches::of(before);
        let places = find(&was, before.rate_hz());
        if places.is_empty() {
            return None;
        }
        let is = Stretches::of(after);
        let second = |k: usize| cast::real(k * was.hop) / f64::from(before.rate_hz());
        let around = cast::count(AROUND_S / HOP_S);
        let inside = |k: usize| places.iter().any(|(from, to)| (*from..*to).contains(&k));
        let all: Vec<Sibilant> = places
            .iter()
            .map(|&(from, to)| {
                let beside = || (from.saturating_sub(around)..to + around).filter(|k| !inside(*k));
                Sibilant {
                    from_s: second(from),
                    to_s: second(to),
                    before_dbfs: Stretches::level(&was.band, from..to),
                    after_dbfs: Stretches::level(&is.band, from..to),
                    vowels_dbfs: Stretches::level(&is.under, beside()),
                    band_in_vowels_dbfs: Stretches::level(&is.band, beside()),
                }
            })
            .collect();
        let rest = |stretches: &Stretches| {
            Stretches::level(&stretches.all, (0..was.all.len()).filter(|k| !inside(*k)))
        };
        let rest_change_db = Some(rest(&is) - rest(&was)).filter(|change| change.is_finite());
        Some(Self {
            lisping: all.iter().filter(|sibilant| sibilant.lisps(rest_change_db.unwrap_or(0.0))).count(),
            all,
            rest_change_db,
        })
    }
}

/// First and one past the last stretch of every sibilant.
fn find(stretches: &Stretches, rate_hz: u32) -> Vec<(usize, usize)> {
    let loudest = stretches.band.iter().copied().fold(0.0, f64::max);
    let quietest = loudest * 10f64.powf(-UNDER_LOUDEST_DB / 10.0);
    let ratio = 10f64.powf(OVER_REST_DB / 10.0);
    let sibilant = |k: usize| {
        stretches.band[k] > quietest
            && stretches.band[k] > 1e-9
            && stretches.band[k] >= ratio * stretches.under[k]
    };
    let stretch = |seconds: f64| cast::frames(seconds, rate_hz) / stretches.hop;
    let mut found: Vec<(usize, usize)> = Vec::new();
    for k in (0..stretches.band.len()).filter(|k| sibilant(*k)) {
        match found.last_mut() {
            Some((_, end)) if k <= *end + stretch(GAP_S) => *end = k + 1,
            _ => found.push((k, k + 1)),
        }
    }
    found.retain(|(from, to)| to - from >= stretch(SHORTEST_S));
    found
}
