//! Where reflections come from: mirror images of the source behind the walls of a box (J. B. Allen and D. A. Berkley, "Image method
//! for efficiently simulating small-room acoustics", JASA 65, 1979).

use std::f64::consts::PI;

use super::measures::{RoomMeasures, distance};
use clear_bend_catalogue::METRES_PER_S;
use clear_bend_sound::cast;

/// The source in the mirror of some walls.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MirrorImage {
    /// Where it is, m.
    pub place_m: [f64; 3],
    /// How often its sound meets every wall.
    pub hits: [u32; 6],
}

impl MirrorImage {
    /// How many walls its sound meets.
    #[must_use]
    pub fn order(&self) -> u32 {
        self.hits.iter().sum()
    }

    /// What is left of a sound pressure in every octave after all walls, before air takes its part.
    #[must_use]
    pub fn gains(&self, room: &RoomMeasures) -> [f64; 6] {
        let mut gains = [1.0; 6];
        for (hits, absorption) in self.hits.iter().zip(&room.absorption) {
            for (gain, taken) in gains.iter_mut().zip(absorption) {
                // Energy is what is taken, pressure is its root.
                *gain *= (1.0 - taken).sqrt().powi(i32::try_from(*hits).unwrap_or(i32::MAX));
            }
        }
        gains
    }
}

/// Mirrors of a place along one axis: where they are, and how often their sound meets the wall at its beginning and that at its end.
pub(super) fn along(place: f64, size: f64, order: u32) -> Vec<(f64, [u32; 2])> {
    let most = i64::from(order / 2 + 1);
    let mirrored = (-most..=most).flat_map(|n| {
        let far = 2.0 * cast::signed(n) * size;
        let hits = |n: i64| u32::try_from(n.unsigned_abs()).unwrap_or(u32::MAX);
        [(far + place, [hits(n), hits(n)]), (far - place, [hits(n - 1), hits(n)])]
    });
    mirrored.filter(|(_, [first, last])| first + last <= order).collect()
}

/// From how many images sound comes between two moments (s): there is one in every volume of the size of the room.
pub(super) fn images_between(from_s: f64, to_s: f64, volume_m3: f64) -> f64 {
    4.0 / 3.0 * PI * METRES_PER_S.powi(3) * (to_s.powi(3) - from_s.powi(3)) / volume_m3
}

/// All images up to an order, the source itself first among them, in no other order.
#[must_use]
pub fn images(room: &RoomMeasures, order: u32) -> Vec<MirrorImage> {
    let axes = [0, 1, 2].map(|axis| along(room.source_m[axis], room.size_m[axis], order));
    let mut all = Vec::new();
    for (x, [front, back]) in &axes[0] {
        for (y, [left, right]) in &axes[1] {
            for (z, [floor, ceiling]) in &axes[2] {
                let image = MirrorImage {
                    place_m: [*x, *y, *z],
                    hits: [*front, *back, *left, *right, *floor, *ceiling],
                };
                if image.order() <= order {
                    all.push(image);
                }
            }
        }
    }
    all.sort_by_key(|image| image.order() > 0);
    all
}

/// Up to which distance (m) all images are among those up to an order: the first one that is not is so far away.
#[must_use]
pub fn complete_m(room: &RoomMeasures, order: u32) -> f64 {
    images(room, order + 1)
        .iter()
        .filter(|image| image.order() > order)
        .map(|image| distance(image.place_m, room.listener_m))
        .fold(f64::INFINITY, f64::min)
}

/// The way of an image's sound: from the source over the walls, one place for each, to a listener; m.
#[must_use]
pub fn way(room: &RoomMeasures, image: &MirrorImage, listener_m: [f64; 3]) -> Vec<[f64; 3]> {
    // The straight line from the image to the listener crosses the mirrors of walls; folded back, it is the way in the room.
    let at = |share: f64| {
        [0, 1, 2].map(|axis| image.place_m[axis] + share * (listener_m[axis] - image.place_m[axis]))
    };
    let mut crossed: Vec<f64> = (0..3)
        .flat_map(|axis| {
            let (from, to, size) = (image.place_m[axis], listener_m[axis], room.size_m[axis]);
            let (low, high) = (from.min(to) / size, from.max(to) / size);
            let (first, last) = (cast::whole(low.ceil()), cast::whole(high.floor()));
            (first..=last).map(move |k| (cast::signed(k) * size - from) / (to - from))
        })
        .filter(|share| share.is_finite())
        .collect();
    crossed.sort_by(f64::total_cmp);
    let folded = |place: [f64; 3]| {
        [0, 1, 2].map(|axis| {
            let size = room.size_m[axis];
            let round = place[axis].rem_euclid(2.0 * size);
            if round > size { 2.0 * size - round } else { round }
        })
    };
    let between = crossed.into_iter().map(|share| folded(at(share)));
    [room.source_m].into_iter().chain(between).chain([listener_m]).collect()
}
