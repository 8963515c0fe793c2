//! What all mirror images of a room together give over time, without a sound: how long a room rings by its images alone, and from which
//! order on the tail that stands for the others makes no difference.

use std::f64::consts::PI;

use super::decays::decays;
use super::measures::{BANDS_HZ, RoomMeasures, distance};
use super::mirrors::{along, images_between};
use clear_bend_catalogue::METRES_PER_S;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

/// Energies are summed over this long, s.
pub const STEP_S: f64 = 0.001;
/// At most so many images are summed: those that come first.
const MOST: f64 = 400_000.0;
/// The longest time, s.
const LONGEST_S: f64 = 10.0;
/// The octave of which orders are compared, that of 1 kHz.
const MIDDLE: usize = 3;

/// Energies over time from the moment on at which the sound leaves the source, the direct sound left out.
#[derive(Debug, Clone)]
pub struct ImageEnergies {
    /// Of all images, by octave, one for every [`STEP_S`].
    pub all: [Vec<f64>; 6],
    /// For every order from 0 on: the energy at 1 kHz of the images up to it, with the tail that stands for the others.
    pub by_order: Vec<Vec<f64>>,
}

impl ImageEnergies {
    /// Sums them, and orders up to one.
    #[must_use]
    pub fn of(room: &RoomMeasures, orders: usize) -> Self {
        let volume = room.volume_m3();
        // There is one image in every volume of the size of the room.
        let reach_m = (MOST * volume / (4.0 / 3.0 * PI)).cbrt().min(LONGEST_S * METRES_PER_S);
        let steps = cast::count(reach_m / METRES_PER_S / STEP_S).max(1);
        let mut all = [(); 6].map(|()| vec![0.0; steps]);
        let (mut energies, mut counts) =
            (vec![vec![0.0; steps]; orders + 1], vec![vec![0.0; steps]; orders + 1]);
        let axes = [0, 1, 2].map(|axis| {
            let most = cast::small(cast::count(reach_m / room.size_m[axis]) + 2) * 2;
            let left = |[first, last]: [u32; 2]| -> [f64; 6] {
                let kept = |wall: usize, band: usize| 1.0 - room.absorption[wall][band];
                std::array::from_fn(|band| {
                    let power = |hits: u32| i32::try_from(hits).unwrap_or(i32::MAX);
                    kept(2 * axis, band).powi(power(first)) * kept(2 * axis + 1, band).powi(power(last))
                })
            };
            let places = along(room.source_m[axis], room.size_m[axis], most);
            places
                .into_iter()
                .map(move |(place, hits)| (place, hits[0] + hits[1], left(hits)))
                .collect::<Vec<_>>()
        });
        for (x, of_x, kept_x) in &axes[0] {
            for (y, of_y, kept_y) in &axes[1] {
                for (z, of_z, kept_z) in &axes[2] {
                    let away_m = distance([*x, *y, *z], room.listener_m);
                    let step = cast::floor(away_m / METRES_PER_S / STEP_S);
                    let order = of_x + of_y + of_z;
                    if step >= steps || order == 0 {
                        continue;
                    }
                    let spread = 1.0 / (away_m * away_m);
                    for band in 0..6 {
                        all[band][step] += spread * kept_x[band] * kept_y[band] * kept_z[band];
                    }
                    let order = usize::try_from(order).unwrap_or(usize::MAX);
                    if order <= orders {
                        energies[order][step] += spread * kept_x[MIDDLE] * kept_y[MIDDLE] * kept_z[MIDDLE];
                        counts[order][step] += 1.0;
                    }
                }
            }
        }
        // What is up to an order holds what is up to the one before.
        for order in 1..=orders {
            for step in 0..steps {
                energies[order][step] += energies[order - 1][step];
                counts[order][step] += counts[order - 1][step];
            }
        }
        let air = |step: usize, band: usize| {
            let way_m = (cast::real(step) + 0.5) * STEP_S * METRES_PER_S;
            gain_from_db(-2.0 * way_m * room.air_db_per_m(BANDS_HZ[band]))
        };
        for (band, all) in all.iter_mut().enumerate() {
            all.iter_mut().enumerate().for_each(|(step, energy)| *energy *= air(step, band));
        }
        for energies in &mut energies {
            energies.iter_mut().enumerate().for_each(|(step, energy)| *energy *= air(step, MIDDLE));
        }
        let lasts_s = decays(room)[MIDDLE].eyring_s.unwrap_or(f64::INFINITY);
        for (energies, counts) in energies.iter_mut().zip(&counts) {
            for (step, (energy, count)) in energies.iter_mut().zip(counts).enumerate() {
                let (from, to) = (cast::real(step) * STEP_S, cast::real(step + 1) * STEP_S);
                let missing = (1.0 - count / images_between(from, to, volume)).clamp(0.0, 1.0);
                let fall = 6.0 * std::f64::consts::LN_10 / lasts_s;
                *energy += missing * 4.0 * PI * METRES_PER_S / volume * STEP_S * (-fall * from).exp();
            }
        }
        Self { all, by_order: energies }
    }
}
