//! The first reflections of a response.

use serde::Serialize;

use clear_bend_sound::cast;
use clear_bend_sound::level::db_from_gain;

/// A reflection that can be told apart.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Reflection {
    /// When it comes, ms after the sound.
    pub at_ms: f64,
    /// Its level against the direct sound, dB.
    pub level_db: f64,
    /// Left over right, dB; at most 60 to either side.
    pub left_over_right_db: f64,
}

/// How far apart reflections must be to be told apart, s: the highest within that stands for all.
const APART_S: f64 = 0.0005;
/// What is further under the highest is not counted, linear: 30 dB.
const COUNTED: f32 = 0.0316;
/// The most that are listed.
const MOST: usize = 64;

/// The reflections within so many seconds: peaks within 30 dB of the highest one, the highest within half a millisecond to
/// both sides; at most the 64 highest, in the order of time. `direct` is the level of the direct sound, linear.
#[must_use]
pub fn reflections(sides: &[Vec<f32>; 2], rate_hz: u32, seconds: f64, direct: f64) -> Vec<Reflection> {
    let frames = sides[0].len().min(cast::frames(seconds, rate_hz));
    let apart = cast::frames(APART_S, rate_hz).max(1);
    let size = |i: usize| sides[0][i].abs().max(sides[1][i].abs());
    let sizes: Vec<f32> = (0..frames).map(size).collect();
    let highest = sizes.iter().copied().fold(0.0, f32::max);
    let mut found: Vec<usize> = (0..frames)
        .filter(|i| {
            let x = sizes[*i];
            let (from, to) = (i.saturating_sub(apart), (i + apart + 1).min(frames));
            x > 0.0
                && x > COUNTED * highest
                && sizes[from..*i].iter().all(|y| *y < x)
                && sizes[i + 1..to].iter().all(|y| *y <= x)
        })
        .collect();
    if found.len() > MOST {
        found.sort_by(|a, b| sizes[*b].total_cmp(&sizes[*a]));
        found.truncate(MOST);
        found.sort_unstable();
    }
    let level = |i: usize| Reflection {
        at_ms: 1000.0 * cast::real(i) / f64::from(rate_hz),
        level_db: db_from_gain(f64::from(sizes[i]) / direct),
        left_over_right_db: leaning_db(sides[0][i], sides[1][i]),
    };
    found.into_iter().map(level).collect()
}

/// Left over right, dB.
fn leaning_db(left: f32, right: f32) -> f64 {
    (db_from_gain(f64::from(left)) - db_from_gain(f64::from(right))).clamp(-60.0, 60.0)
}
