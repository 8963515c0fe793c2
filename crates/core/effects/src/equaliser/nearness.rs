//! Which of the two digital forms of a band is nearer to the analogue one.
//!
//! Matched section by section, a true shape can go astray near half the rate: between the places where it is matched, or
//! where poles lie over half the rate. So both forms are looked at where they may differ, and the band goes over to the
//! plain formula: by degrees, so that a band that is moved does not jump, and at once where no mixture is good or the true shape is far
//! astray: bells over 0.44 of the rate, flat ones over 0.37 of it.

use std::f64::consts::PI;

use super::section::{HIGHEST_SHARE, Prototype, Section};
use super::shape::{Kind, Shape};
use clear_bend_sound::level::db_from_gain;

/// Shelves and tilts whose frequency, times their Q, lies under this share of the rate are the same in both forms.
const LOW_SHARE: f64 = 0.02;
/// Under this share of the rate, the true shape of all other bands is the nearer one: of 60,000 of each kind, none went
/// over to the plain formula under 0.219.
const SAFE_SHARE: f64 = 0.2;
/// Up to this share of the rate shapes are compared: 20 kHz at 44.1 kHz.
const HEARD_SHARE: f64 = 20.001 / 44.1;
/// Over this and up to half the rate, a shape only must not rise over what is set.
const TOP_SHARES: [f64; 9] = [0.458, 0.463, 0.468, 0.473, 0.478, 0.484, 0.49, 0.495, 0.4999];
/// Places around every resonance that is looked at, in its widths, and how many of those there are: poles and zeros of
/// three sections.
const AROUND: [f64; 7] = [-1.5, -0.7, -0.3, 0.0, 0.3, 0.7, 1.5];
const RESONANCES: usize = 6;
/// Places further away, as shares of the way from the centre down, or up to what is heard.
const AWAY: [f64; 4] = [0.25, 0.5, 0.75, 1.0];
/// What is further down is not compared, dB.
const COMPARED_DB: f64 = -42.0;
/// A shape goes beyond the highest and the lowest that is set by at most this, dB.
const MOST_OVER_DB: f64 = 0.2;
/// The true shape is taken whole where its error is under this share of that of the plain formula.
const SURE: f64 = 0.75;
/// A true shape that misses by this much somewhere is not to be trusted anywhere, dB.
const ASTRAY_DB: f64 = 6.0;
/// Errors closer than this are alike, dB.
const ALIKE_DB: f64 = 0.005;

/// A mixture is taken where its error is under this share of that of the plain formula: between the places, it may be a
/// little larger.
const CLEARLY: f64 = 0.92;
/// At most so many times less of the true shape is tried.
const TRIES: usize = 12;
/// Each time, so much of it is left.
const LEFT: f64 = 0.7;

/// Leaves the true sections as they are, or lets them go over to the plain ones where those are nearer.
pub(super) fn choose(
    kind: Kind,
    shape: &Shape,
    rate_hz: f64,
    prototypes: &[Prototype],
    trues: &mut [Section],
    plains: &[Section],
) {
    let shelving = matches!(kind, Kind::LowShelf | Kind::HighShelf | Kind::Tilt);
    let alike = shape.freq_hz * shape.q.max(1.0) < LOW_SHARE * rate_hz;
    if alike || (!shelving && shape.freq_hz < SAFE_SHARE * rate_hz) {
        return;
    }
    let mut room = [Place::default(); PLACES];
    let places = wanted(shape, rate_hz, prototypes, [trues, plains], &mut room);
    // What is set bounds a shape to both sides; a cut that goes down for ever has no lower bound.
    let bound = |start: f64, further: fn(f64, f64) -> f64| {
        places.iter().map(|place| place.wanted_db).fold(start, further)
    };
    let lowest = bound(0.0, f64::min);
    let limits = (
        if lowest > COMPARED_DB { lowest - MOST_OVER_DB } else { f64::NEG_INFINITY },
        bound(0.0, f64::max) + MOST_OVER_DB,
    );
    let seen = || places.iter().copied();
    let plain = miss(seen(), limits, |place| magnitude_db(plains, place.tangent));
    let whole = miss(seen(), limits, |place| magnitude_db(trues, place.tangent));
    if whole.over <= 0.0 && whole.error <= (SURE * plain.error + ALIKE_DB).min(ASTRAY_DB) {
        return;
    }
    if whole.error > ASTRAY_DB {
        trues.copy_from_slice(plains);
        return;
    }
    let nearer = (plain.error + ALIKE_DB - whole.error) / ((1.0 - SURE) * plain.error + ALIKE_DB);
    let mut share = nearer.clamp(0.0, 1.0);
    for _ in 0..TRIES {
        let mixed = || trues.iter().zip(plains).map(|(one, other)| one.toward(other, share));
        let mixed_db = |place: &Place| db_from_gain(mixed().map(|s| s.magnitude_at(place.tangent)).product());
        let enough = |tried: Miss| tried.over <= 0.0 && tried.error <= CLEARLY * plain.error + ALIKE_DB;
        // It resonates at places of its own.
        let own =
            mixed().flat_map(|s| s.sharp_places()).map(|tangent| Place::at(tangent, rate_hz, prototypes));
        if enough(miss(seen(), limits, mixed_db)) && enough(miss(own, limits, mixed_db)) {
            break;
        }
        share *= LEFT;
    }
    // What is left after so many tries is next to nothing, and may still be wrong.
    let share = if share < LEFT.powi(10) { 0.0 } else { share };
    trues.iter_mut().zip(plains).for_each(|(section, plain)| *section = section.toward(plain, share));
}

/// A place at which shapes are compared.
#[derive(Debug, Clone, Copy, Default)]
struct Place {
    tangent: f64,
    /// The analogue magnitude, dB.
    wanted_db: f64,
    /// Whether it is compared with that, or only kept under what is set.
    compared: bool,
}

impl Place {
    fn at(tangent: f64, rate_hz: f64, prototypes: &[Prototype]) -> Self {
        let hz = tangent.atan() * rate_hz / PI;
        let wanted_db = db_from_gain(prototypes.iter().map(|p| p.magnitude(hz)).product());
        let compared = (20.0..=HEARD_SHARE * rate_hz).contains(&hz) && wanted_db > COMPARED_DB;
        Self { tangent, wanted_db, compared }
    }
}

const PLACES: usize = RESONANCES * (AROUND.len() + 2) + 2 * AWAY.len() + TOP_SHARES.len();

/// The places for a band.
fn wanted<'a>(
    shape: &Shape,
    rate_hz: f64,
    prototypes: &[Prototype],
    digital: [&[Section]; 2],
    room: &'a mut [Place; PLACES],
) -> &'a [Place] {
    let heard_hz = HEARD_SHARE * rate_hz;
    let at_hz = shape.freq_hz.min(HIGHEST_SHARE * rate_hz);
    let last = prototypes.len() - 1;
    let looked_at = || [0, last / 2, last].into_iter().enumerate().filter(|(k, i)| *k == 0 || *i > 0);
    let resonances = looked_at().flat_map(|(_, i)| prototypes[i].resonances());
    let shifted = looked_at().flat_map(|(_, i)| digital.map(|sections| sections[i]));
    let shifted = shifted.flat_map(|section| section.resonances_hz(rate_hz));
    let around = resonances.flat_map(|(hz, width)| AROUND.map(|widths| hz + widths * width));
    let below = AWAY.iter().map(|share| at_hz * (1.0 - 0.9 * share));
    let above = AWAY.iter().map(|share| at_hz + share * (heard_hz - at_hz));
    let top = TOP_SHARES.iter().map(|share| share * rate_hz);
    let places = around.chain(shifted).chain(below).chain(above).chain(top);
    let mut count = 0;
    for hz in places.filter(|hz| (20.0..0.499_95 * rate_hz).contains(hz)) {
        room[count] = Place::at((PI * hz / rate_hz).tan(), rate_hz, prototypes);
        count += 1;
    }
    &room[..count]
}

fn magnitude_db(sections: &[Section], tangent: f64) -> f64 {
    db_from_gain(sections.iter().map(|section| section.magnitude_at(tangent)).product())
}

/// What is wrong with a shape, dB.
struct Miss {
    /// The largest distance from the analogue shape.
    error: f64,
    /// How far it goes beyond what it may, up or down; under 0 where it does not.
    over: f64,
}

fn miss(
    places: impl Iterator<Item = Place>,
    (low, high): (f64, f64),
    found_db: impl Fn(&Place) -> f64,
) -> Miss {
    let start = Miss { error: 0.0, over: f64::MIN };
    places.fold(start, |miss, place| {
        let found = found_db(&place);
        let error = if place.compared { (found - place.wanted_db).abs() } else { 0.0 };
        Miss { error: miss.error.max(error), over: miss.over.max(found - high).max(low - found) }
    })
}
