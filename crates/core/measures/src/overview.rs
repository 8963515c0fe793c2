//! A passage drawn small: extremes per column.

use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

/// The smallest and largest sample of every column of a picture, over all channels.
#[derive(Debug, Clone, PartialEq)]
pub struct Overview {
    /// Smallest sample per column.
    pub min: Vec<f32>,
    /// Largest sample per column.
    pub max: Vec<f32>,
}

impl Overview {
    /// The extremes of `columns` equal stretches of the passage.
    #[must_use]
    pub fn of(passage: &Buffer, columns: usize) -> Self {
        let mut overview = Self { min: vec![0.0; columns], max: vec![0.0; columns] };
        for channel in passage.channels() {
            for (column, stretch) in stretches(channel, columns).enumerate() {
                let (min, max) = extremes(stretch);
                overview.min[column] = overview.min[column].min(min);
                overview.max[column] = overview.max[column].max(max);
            }
        }
        overview
    }
}

/// The smallest value of every one of `columns` equal stretches: the deepest gain in each.
#[must_use]
pub fn deepest(trace: &[f32], columns: usize) -> Vec<f32> {
    stretches(trace, columns).map(|stretch| extremes(stretch).0).collect()
}

/// The smallest and the largest sample of every one of `columns` equal stretches of a wave, drawn from 0.
#[must_use]
pub fn wave_columns(samples: &[f32], columns: usize) -> Vec<[f32; 2]> {
    let drawn = |stretch| {
        let (min, max) = extremes(stretch);
        [min.min(0.0), max.max(0.0)]
    };
    stretches(samples, columns).map(drawn).collect()
}

/// Cuts samples into `columns` stretches that differ by at most one sample; none is empty unless there are
/// fewer samples than columns, when neighbours share.
fn stretches(samples: &[f32], columns: usize) -> impl Iterator<Item = &[f32]> {
    let n = samples.len();
    (0..columns).map(move |column| {
        let start = cast::part_of(n, column, columns);
        let end = cast::part_of(n, column + 1, columns).max(start + 1).min(n);
        &samples[start.min(end)..end]
    })
}

/// Smallest and largest of the samples and 0 where there are none.
fn extremes(samples: &[f32]) -> (f32, f32) {
    let Some(&first) = samples.first() else { return (0.0, 0.0) };
    samples
        .iter()
        .fold((first, first), |(min, max), &x| (if x < min { x } else { min }, if x > max { x } else { max }))
}
