//! The shape of a swing.

use clear_bend_effects::Swing;
use clear_bend_sound::cast;

/// Cycles that are looked at, and places in each.
const CYCLES: usize = 24;
const PLACES: usize = 240;
/// Near its ends is further than this from the middle, as a share of the way.
const NEAR_END: f64 = 0.9;

/// What is read off a swing over many cycles.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SwingShape {
    /// Cycles per second; 0 where it is held.
    pub rate_hz: f64,
    /// The share of the time in which it rises.
    pub rising: f64,
    /// The share of the time that it spends near its ends.
    pub at_ends: f64,
    /// By how much cycles differ from each other: the spread of its value at one place of the cycle, over that at all.
    pub chance: f64,
    /// Where it is at the beginning of the passage, -1 to 1.
    pub start: f64,
    /// The correlation of the swings of left and right; none where they do not move.
    pub together: Option<f64>,
}

impl SwingShape {
    /// Reads a swing.
    #[must_use]
    pub fn of(swing: &Swing) -> Self {
        let rate_hz = if swing.held.is_some() { 0.0 } else { swing.rate_hz };
        let free = Swing { held: None, start: 0.0, ..*swing };
        let at = |cycle: usize, place: usize, ahead: f64| {
            let cycles = cast::real(cycle) + cast::real(place) / cast::real(PLACES);
            free.at(cycles / free.rate_hz, ahead)
        };
        let all = |ahead: f64| -> Vec<Vec<f64>> {
            (0..CYCLES).map(|cycle| (0..PLACES).map(|place| at(cycle, place, ahead)).collect()).collect()
        };
        let left = all(0.0);
        let flat: Vec<f64> = left.iter().flatten().copied().collect();
        let other: Vec<f64> = all(swing.apart).into_iter().flatten().collect();
        let highest = flat.iter().fold(0.0f64, |most, x| most.max(x.abs()));
        let share = |holds: usize, of: usize| cast::real(holds) / cast::real(of.max(1));
        let (mean, spread) = moments(flat.iter().copied());
        let at_place = (0..PLACES).map(|place| moments(left.iter().map(|cycle| cycle[place])).1.powi(2));
        let within = (at_place.sum::<f64>() / cast::real(PLACES)).sqrt();
        let (other_mean, other_spread) = moments(other.iter().copied());
        let product = flat.iter().zip(&other).map(|(a, b)| (a - mean) * (b - other_mean)).sum::<f64>();
        let product = product / cast::real(flat.len());
        Self {
            rate_hz,
            rising: share(flat.windows(2).filter(|pair| pair[1] > pair[0]).count(), flat.len() - 1),
            at_ends: share(flat.iter().filter(|x| x.abs() > NEAR_END * highest).count(), flat.len()),
            chance: if spread > 0.0 { within / spread } else { 0.0 },
            start: swing.at(0.0, 0.0),
            together: (swing.held.is_none() && spread * other_spread > 0.0)
                .then(|| product / (spread * other_spread)),
        }
    }
}

/// Mean and standard deviation.
fn moments(values: impl Iterator<Item = f64> + Clone) -> (f64, f64) {
    let n = cast::real(values.clone().count().max(1));
    let mean = values.clone().sum::<f64>() / n;
    (mean, (values.map(|x| (x - mean).powi(2)).sum::<f64>() / n).sqrt())
}
