//! Filters with symmetric taps.

use super::lanes::WIDE as LANES;

/// Sums a symmetric row of taps over samples: `taps` is its first half, so that the last tap of the row is the first
/// again, `2 taps.len() - 1` samples apart where there is no middle, `2 taps.len()` where there is one.
///
/// `past` begins with the history, one sample less than the row is long.
pub fn symmetric(taps: &[f32], middle: Option<f32>, past: &[f32], out: &mut [f32]) {
    let last = 2 * taps.len() - usize::from(middle.is_none());
    let centre = taps.len();
    for (block, out) in out.chunks_mut(LANES).enumerate() {
        let start = block * LANES;
        let mut sums = [0.0f32; LANES];
        if out.len() == LANES {
            if let Some(tap) = middle {
                let x = &past[start + centre..start + centre + LANES];
                sums.iter_mut().zip(x).for_each(|(sum, x)| *sum = tap * x);
            }
            for (r, tap) in taps.iter().enumerate() {
                let near = &past[start + last - r..start + last - r + LANES];
                let far = &past[start + r..start + r + LANES];
                for (sum, (a, b)) in sums.iter_mut().zip(near.iter().zip(far)) {
                    *sum += tap * (a + b);
                }
            }
        } else {
            // The same sums in the same order, one by one.
            for (i, sum) in sums.iter_mut().enumerate().take(out.len()) {
                *sum = middle.map_or(0.0, |tap| tap * past[start + centre + i]);
                for (r, tap) in taps.iter().enumerate() {
                    *sum += tap * (past[start + last - r + i] + past[start + r + i]);
                }
            }
        }
        out.copy_from_slice(&sums[..out.len()]);
    }
}
