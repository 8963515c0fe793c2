//! How much of what is read off a room depends on where its movement is when the sound comes.

use serde::Serialize;

use super::record::{LONGEST_S, RoomResponse};
use super::view::Room;
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;

/// A cycle is looked at in so many places.
const PLACES: usize = 8;

/// The least and the most of a number over a cycle of the movement.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Spread {
    /// The least.
    pub least: f64,
    /// The most.
    pub most: f64,
}

/// What is read off a room whose delays move, with the impulse at eight places of a cycle. Numbers are missing where one of the
/// eight is.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct OverPhases {
    /// Early decay time, s.
    pub edt_s: Option<Spread>,
    /// T20, s.
    pub t20_s: Option<Spread>,
    /// T30, s.
    pub t30_s: Option<Spread>,
    /// The mean of T30 at 500 Hz and 1 kHz, s.
    pub middle_t30_s: Option<Spread>,
    /// Energy of the first 50 ms over that of the rest, dB.
    pub c50_db: Option<Spread>,
    /// The same for 80 ms, dB.
    pub c80_db: Option<Spread>,
    /// Middle of the energy over time, ms.
    pub centre_ms: Option<Spread>,
    /// The direct sound over what is reverberant, dB.
    pub direct_db: Option<Spread>,
    /// When the echo density first is that of noise, ms.
    pub dense_ms: Option<Spread>,
    /// Correlation of left and right.
    pub correlation: Option<Spread>,
    /// By how much single modes stand out, dB.
    pub ringing_db: Option<Spread>,
}

impl OverPhases {
    /// Measures a stage; none where nothing of it moves.
    #[must_use]
    pub fn of(stage: &Stage, rate_hz: u32) -> Option<Self> {
        let cycle_frames = f64::from(rate_hz) / stage.effect.moves_hz(&stage.values)?;
        let from = |place: usize| cast::count(cycle_frames * cast::real(place) / cast::real(PLACES));
        let record = |place| RoomResponse::of_stage_from(stage, rate_hz, LONGEST_S, from(place));
        let rooms: Vec<Room> = (0..PLACES).map(|place| Room::of(&record(place))).collect();
        let spread = |read: fn(&Room) -> Option<f64>| {
            let numbers: Option<Vec<f64>> = rooms.iter().map(read).collect();
            numbers.map(|numbers| Spread {
                least: numbers.iter().copied().fold(f64::INFINITY, f64::min),
                most: numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max),
            })
        };
        Some(Self {
            edt_s: spread(|room| Some(room.times.edt.as_ref()?.seconds)),
            t20_s: spread(|room| Some(room.times.t20.as_ref()?.seconds)),
            t30_s: spread(|room| Some(room.times.t30.as_ref()?.seconds)),
            middle_t30_s: spread(|room| room.middle_t30_s),
            c50_db: spread(|room| room.energies.c50_db),
            c80_db: spread(|room| room.energies.c80_db),
            centre_ms: spread(|room| room.energies.centre_ms),
            direct_db: spread(|room| room.energies.direct_db),
            dense_ms: spread(|room| room.dense_ms),
            correlation: spread(|room| room.correlation),
            ringing_db: spread(|room| room.ringing_db),
        })
    }
}
