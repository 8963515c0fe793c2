//! A response as it is drawn.

use serde::Serialize;

use super::density::DensityPoint;
use super::energy::{CorrelationPoint, correlation_over_time};
use super::falling::Falling;
use super::record::{LONGEST_S, RoomResponse};
use super::view::{Room, decay_of};
use crate::cast;
use crate::dsp::peak;
use crate::effects::PartKind;
use crate::level::db_from_gain;
use crate::path::Stage;

/// Points of a decay curve.
const CURVE_POINTS: usize = 400;
/// Levels are drawn down to this, dB.
pub(super) const FLOOR_DB: f64 = -120.0;
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

/// Everything that pictures of a room show.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomView {
    /// What is read off it.
    pub room: Room,
    /// The decay curve of the reverberant sound.
    pub curve: Vec<LevelPoint>,
    /// The decay time that is set in every octave of `room`, s; none where there is none or it never ends.
    pub set_s: Vec<Option<f64>>,
    /// The time that the columns of `parts` span, s.
    pub columns_s: f64,
    /// The response by parts.
    pub parts: Vec<PartColumns>,
    /// Echo density over time.
    pub density: Vec<DensityPoint>,
    /// Correlation of left and right over time.
    pub correlations: Vec<CorrelationPoint>,
    /// The falling spectrum, a line every so many milliseconds.
    pub falling: Falling,
}

impl RoomView {
    /// Measures a stage; its parts are drawn over so many columns of so many seconds, or of the whole response.
    #[must_use]
    pub fn of_stage(stage: &Stage, rate_hz: u32, columns: usize, seconds: Option<f64>) -> Self {
        let response = RoomResponse::of_stage(stage, rate_hz, LONGEST_S);
        let (room, density) = Room::with_density(&response);
        let set = |freq_hz: f64| stage.effect.decay_s(&stage.values, freq_hz).filter(|set| set.is_finite());
        let set_s = room.octaves.iter().map(|octave| set(octave.freq_hz)).collect();
        let shown_s = seconds.unwrap_or(room.seconds);
        let per_column = shown_s * f64::from(rate_hz) / cast::real(columns.max(1));
        let wet = response.heard[1];
        let mut parts = vec![columns_of(None, &direct_of(&response), per_column, columns, 1.0)];
        for part in stage.effect.parts() {
            let Some(values) = (part.alone)(&stage.values) else { continue };
            let alone = Stage { values, mix: 1.0, ..stage.clone() };
            let response = RoomResponse::of_stage(&alone, rate_hz, shown_s);
            parts.push(columns_of(Some(part.kind), &response.reverberant(), per_column, columns, wet));
        }
        let sides = response.reverberant();
        Self {
            curve: curve(&sides, rate_hz),
            set_s,
            columns_s: shown_s,
            parts,
            density: density.points,
            correlations: correlation_over_time(&sides, rate_hz),
            falling: Falling::of(&response, room.times.t30.map(|t30| t30.seconds), LINES),
            room,
        }
    }
}

/// The direct sound alone.
fn direct_of(response: &RoomResponse) -> [Vec<f32>; 2] {
    response.sides.clone().map(|mut side| {
        side.truncate(response.direct_frames);
        side
    })
}

fn curve(sides: &[Vec<f32>; 2], rate_hz: u32) -> Vec<LevelPoint> {
    let decay = decay_of(sides, rate_hz);
    let begins_s = cast::real(super::sides::first_heard(sides)) / f64::from(rate_hz);
    let at = |k: usize| decay.seconds() * cast::real(k) / cast::real(CURVE_POINTS);
    let point = |at_s: f64| Some(LevelPoint { at_s: begins_s + at_s, level_db: decay.level_db(at_s)? });
    (0..CURVE_POINTS).map(at).filter_map(point).filter(|point| point.level_db >= FLOOR_DB).collect()
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
