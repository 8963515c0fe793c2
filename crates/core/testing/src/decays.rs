//! Readings of decays that share nothing with those that they judge.

use std::f64::consts::TAU;

/// Gaussian noise by Box and Muller (Ann. Math. Stat. 29, 1958) over a generator of its own (Marsaglia, "Xorshift RNGs", Journal of
/// Statistical Software 8, 2003).
pub struct Gauss(u64);

impl Gauss {
    /// Noise of a seed.
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1)
    }

    /// Evenly spread from 0 to 1.
    pub fn even(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        ((self.0 >> 11) as f64 + 0.5) / (1u64 << 53) as f64
    }

    /// The next sample, of variance 1.
    #[allow(clippy::should_implement_trait, reason = "it never ends")]
    pub fn next(&mut self) -> f64 {
        let (a, b) = (self.even(), self.even());
        (-2.0 * a.ln()).sqrt() * (TAU * b).cos()
    }
}

/// What a slow reading says of a fall: the middle of the log power over windows, by least squares between two levels under the highest.
pub fn slow_t60(sides: &[Vec<f32>; 2], rate_hz: u32, window_s: f64, from_db: f64, to_db: f64) -> Option<f64> {
    let window = (window_s * f64::from(rate_hz)) as usize;
    let power = |k: usize| -> f64 {
        sides.iter().flat_map(|s| &s[k * window..(k + 1) * window]).map(|x| f64::from(*x).powi(2)).sum()
    };
    let levels: Vec<f64> = (0..sides[0].len() / window).map(|k| 10.0 * power(k).max(1e-30).log10()).collect();
    let top = levels.iter().copied().fold(f64::MIN, f64::max);
    let from = levels.iter().rposition(|l| *l > top + from_db)?;
    let to = levels.iter().rposition(|l| *l > top + to_db)?;
    let points: Vec<(f64, f64)> = (from..=to).map(|k| (k as f64 * window_s, levels[k])).collect();
    (points.len() > 4 && to + 1 < levels.len()).then_some(())?;
    let n = points.len() as f64;
    let (mx, my) = points.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + x / n, b + y / n));
    let (xx, xy) =
        points.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + (x - mx).powi(2), b + (x - mx) * (y - my)));
    Some(-60.0 * xx / xy)
}
