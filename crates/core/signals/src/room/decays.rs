//! How long a room rings by the formulas.

use serde::Serialize;

use super::measures::{BANDS_HZ, RoomMeasures};

/// What the formulas say of one octave.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomDecays {
    /// Middle of the octave, Hz.
    pub freq_hz: f64,
    /// The share that is taken, over all walls by their surface.
    pub mean_absorption: f64,
    /// Decay time after Sabine, s; none where nothing is taken.
    pub sabine_s: Option<f64>,
    /// Decay time after Eyring, s; none where nothing is taken; 0 where everything is.
    pub eyring_s: Option<f64>,
}

/// 24 ln 10 over the speed of sound, s/m: what both formulas begin with.
const SABINE: f64 = 0.161;

/// Decay times after Sabine (T = 0.161 V / (A + 4 m V)) and after C. F. Eyring ("Reverberation time in dead rooms", JASA 1, 1930:
/// T = 0.161 V / (-S ln(1 - a) + 4 m V)), with what air takes of the power on every metre, m.
#[must_use]
pub fn decays(room: &RoomMeasures) -> [RoomDecays; 6] {
    [0, 1, 2, 3, 4, 5].map(|band| decay(room, band, room.air_db_per_m(BANDS_HZ[band])))
}

/// After Eyring, by the walls alone, s; without an end where they take nothing.
pub(super) fn by_walls_s(room: &RoomMeasures) -> [f64; 6] {
    [0, 1, 2, 3, 4, 5].map(|band| decay(room, band, 0.0).eyring_s.unwrap_or(f64::INFINITY))
}

fn decay(room: &RoomMeasures, band: usize, air_db_per_m: f64) -> RoomDecays {
    let (volume, walls) = (room.volume_m3(), room.walls_m2());
    let surface: f64 = walls.iter().sum();
    let taken: f64 = walls.iter().zip(&room.absorption).map(|(wall, by_band)| wall * by_band[band]).sum();
    let mean = taken / surface;
    let of_air = 4.0 * volume * air_db_per_m / (10.0 * std::f64::consts::LOG10_E);
    let lasts = |loss: f64| {
        let area = surface * loss + of_air;
        (area > 0.0).then(|| SABINE * volume / area)
    };
    RoomDecays {
        freq_hz: BANDS_HZ[band],
        mean_absorption: mean,
        sabine_s: lasts(mean),
        // The logarithm of nothing ends the sound at once.
        eyring_s: lasts(-(-mean).ln_1p()),
    }
}
