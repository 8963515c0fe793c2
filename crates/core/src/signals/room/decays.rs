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

/// Decay times after Sabine (T = 0.161 V / A) and after C. F. Eyring ("Reverberation time in dead rooms", JASA 1, 1930:
/// T = 0.161 V / (-S ln(1 - a))), without what air takes.
#[must_use]
pub fn decays(room: &RoomMeasures) -> [RoomDecays; 6] {
    let (volume, walls) = (room.volume_m3(), room.walls_m2());
    let surface: f64 = walls.iter().sum();
    [0, 1, 2, 3, 4, 5].map(|band| {
        let taken: f64 = walls.iter().zip(&room.absorption).map(|(wall, by_band)| wall * by_band[band]).sum();
        let mean = taken / surface;
        let lasts = |loss: f64| (loss > 0.0).then(|| SABINE * volume / (surface * loss));
        RoomDecays {
            freq_hz: BANDS_HZ[band],
            mean_absorption: mean,
            sabine_s: lasts(mean),
            // The logarithm of nothing ends the sound at once.
            eyring_s: lasts(-(-mean).ln_1p()),
        }
    })
}
