//! A response as it is drawn.

use serde::Serialize;

use super::decay::DecayTimes;
use super::density::{Density, DensityPoint};
use super::energy::{CorrelationPoint, correlation, correlation_over_time};
use super::falling::FLOOR_DB;
use super::falling::Falling;
use super::record::{LONGEST_S, RoomResponse};
use super::reflections::Reflection;
use super::sides::{first_heard, first_heard_ms};
use super::view::{DENSITY_S, LISTED_S, OctaveDecay, octave_decays, reflections_of};
use clear_bend_catalogue::{Picture, way_m};
use clear_bend_effects::PartKind;
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::peak;
use clear_bend_sound::level::db_from_gain;

/// Points of a decay curve.
const CURVE_POINTS: usize = 400;
/// What the picture of the first reflections shows, s.
const FIRST_S: f64 = 0.2;
/// Lines of the falling spectrum.
const LINES: usize = 12;

/// A level at a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct LevelPoint {
    /// Time after the impulse, s.
    pub at_s: f64,
    /// Level, dB.
    pub level_db: f64,
}

/// A part of the response, column by column.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PartColumns {
    /// Which part it is; none for the dry sound.
    pub kind: Option<PartKind>,
    /// The highest level of both sides in every column against the dry impulse, dB; none under -120 dB.
    pub levels_db: Vec<Option<f64>>,
    /// The lowest and the highest sample of the left side in every column, against the dry impulse.
    pub wave: Vec<[f32; 2]>,
}

/// The falling of a response.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DecayView {
    /// The times over all frequencies, of the reverberant sound.
    pub times: DecayTimes,
    /// The decay curve of the reverberant sound.
    pub curve: Vec<LevelPoint>,
}

/// The falling of every octave.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct OctavesView {
    /// What is read in every octave.
    pub octaves: Vec<OctaveDecay>,
}

/// A response by its parts.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PartsView {
    /// When the first reverberant sound comes, ms after the direct one; none where there is none.
    pub gap_ms: Option<f64>,
    /// The way of sound in that time, m.
    pub gap_m: Option<f64>,
    /// Reflections within the first 300 ms.
    pub reflections: Vec<Reflection>,
    /// The time that the columns of `parts` span, s.
    pub columns_s: f64,
    /// The response by parts.
    pub parts: Vec<PartColumns>,
}

/// Echo density over time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DensityView {
    /// When it first is that of noise, ms after the first echo; none where it never is.
    pub dense_ms: Option<f64>,
    /// The density over time.
    pub density: Vec<DensityPoint>,
}

/// Correlation of left and right.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct CorrelationView {
    /// How long the record is, s.
    pub seconds: f64,
    /// Of the whole.
    pub correlation: Option<f64>,
    /// What is read in every octave.
    pub octaves: Vec<OctaveDecay>,
    /// Over time.
    pub correlations: Vec<CorrelationPoint>,
}

/// What a picture of a room shows: each measures what it needs, so that it follows the hand.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(untagged)]
pub enum RoomView {
    /// Of the decay curve.
    Decay(DecayView),
    /// Of the decay by octave.
    Octaves(OctavesView),
    /// Of the response, whole or its beginning.
    Parts(PartsView),
    /// Of the falling spectrum, a line every so many milliseconds.
    Falling(Falling),
    /// Of the echo density.
    Density(DensityView),
    /// Of the correlation.
    Correlation(CorrelationView),
}

impl RoomView {
    /// Measures a stage for a picture, a response by its parts over so many columns; none for pictures that show something else.
    #[must_use]
    pub fn of_stage(stage: &Stage, rate_hz: u32, picture: Picture, columns: usize) -> Option<Self> {
        let recorded = || RoomResponse::of_stage(stage, rate_hz, LONGEST_S);
        Some(match picture {
            Picture::Decay => Self::Decay(decay_view(&recorded())),
            Picture::DecayByOctave => {
                let response = recorded();
                let octaves = octave_decays(&response.reverberant(), rate_hz, response.ground);
                Self::Octaves(OctavesView { octaves })
            }
            Picture::Impulse => Self::Parts(parts_view(stage, rate_hz, None, columns)),
            Picture::FirstReflections => Self::Parts(parts_view(stage, rate_hz, Some(FIRST_S), columns)),
            Picture::Falling => {
                let response = recorded();
                let t30 = response.decay().fit(-5.0, -35.0);
                Self::Falling(Falling::of(&response, t30.map(|t30| t30.seconds), LINES))
            }
            Picture::Density => {
                let density = Density::of(&recorded().reverberant(), rate_hz, DENSITY_S);
                Self::Density(DensityView { dense_ms: density.reaches_noise_ms, density: density.points })
            }
            Picture::Correlation => {
                let response = recorded();
                let sides = response.reverberant();
                Self::Correlation(CorrelationView {
                    seconds: cast::real(response.frames()) / f64::from(rate_hz),
                    correlation: correlation(&sides),
                    octaves: octave_decays(&sides, rate_hz, response.ground),
                    correlations: correlation_over_time(&sides, rate_hz),
                })
            }
            _ => return None,
        })
    }
}

fn decay_view(response: &RoomResponse) -> DecayView {
    let sides = response.reverberant();
    let decay = response.decay();
    let begins_s = cast::real(first_heard(&sides)) / f64::from(response.rate_hz);
    let at = |k: usize| decay.seconds() * cast::real(k) / cast::real(CURVE_POINTS);
    let point = |at_s: f64| Some(LevelPoint { at_s: begins_s + at_s, level_db: decay.level_db(at_s)? });
    let points = (0..CURVE_POINTS).map(at).filter_map(point);
    DecayView { curve: points.filter(|point| point.level_db >= FLOOR_DB).collect(), times: decay.times() }
}

fn parts_view(stage: &Stage, rate_hz: u32, seconds: Option<f64>, columns: usize) -> PartsView {
    // What is listed is a little more than what is drawn of the beginning.
    let response = RoomResponse::of_stage(stage, rate_hz, seconds.map_or(LONGEST_S, |_| LISTED_S));
    let shown_s = seconds.unwrap_or(cast::real(response.frames()) / f64::from(rate_hz));
    let per_column = shown_s * f64::from(rate_hz) / cast::real(columns.max(1));
    let wet = response.heard[1];
    let mut parts = vec![columns_of(None, &direct_of(&response), per_column, columns, 1.0)];
    for part in stage.effect.parts() {
        let Some(values) = (part.alone)(&stage.values) else { continue };
        let alone = Stage { values, mix: 1.0, ..stage.clone() };
        let response = RoomResponse::of_stage(&alone, rate_hz, shown_s);
        parts.push(columns_of(Some(part.kind), &response.reverberant(), per_column, columns, wet));
    }
    let gap_ms = first_heard_ms(&response.reverberant(), rate_hz);
    PartsView {
        gap_ms,
        gap_m: gap_ms.map(way_m),
        reflections: reflections_of(&response),
        columns_s: shown_s,
        parts,
    }
}

/// The direct sound alone.
fn direct_of(response: &RoomResponse) -> [Vec<f32>; 2] {
    response.sides.clone().map(|mut side| {
        side.truncate(response.direct_frames);
        side
    })
}

fn columns_of(
    kind: Option<PartKind>,
    sides: &[Vec<f32>; 2],
    per_column: f64,
    columns: usize,
    gain: f64,
) -> PartColumns {
    let place = |column: usize| cast::floor(cast::real(column) * per_column);
    let highest = |column: usize| {
        let (from, to) = (place(column), place(column + 1).max(place(column) + 1));
        let of_side = |side: &Vec<f32>| peak(side.get(from..to.min(side.len())).unwrap_or_default());
        let level_db =
            db_from_gain(gain * sides.iter().map(|side| f64::from(of_side(side))).fold(0.0, f64::max));
        Some(level_db).filter(|level_db| *level_db > FLOOR_DB)
    };
    let extremes = |column: usize| {
        let (from, to) = (place(column), place(column + 1).max(place(column) + 1));
        let part = sides[0].get(from..to.min(sides[0].len())).unwrap_or_default();
        let (low, high) =
            part.iter().fold((0.0, 0.0), |(low, high): (f32, f32), x| (low.min(*x), high.max(*x)));
        [cast::sample(gain * f64::from(low)), cast::sample(gain * f64::from(high))]
    };
    PartColumns {
        kind,
        levels_db: (0..columns).map(highest).collect(),
        wave: (0..columns).map(extremes).collect(),
    }
}
