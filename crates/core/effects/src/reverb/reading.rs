//! How a delay is read between its samples.

use super::lengths::Ring;
use clear_bend_sound::cast;

/// The ways, in the order in which they are offered.
pub const CHOICES: &[&str] = &["nearest sample", "straight line", "smooth"];

/// How far the smooth reading reaches to the younger side, samples.
pub const REACH: usize = 2;

/// Samples that are read at a time.
pub const STRETCH: usize = 16;

/// How much longer a delay is than its length over a stretch, samples.
#[derive(Debug, Clone, Copy)]
pub struct Sway {
    /// Where its step began.
    pub from: f64,
    /// How much it grows with every sample, at most 1.
    pub step: f64,
    /// How many samples of the step there have been before the stretch.
    pub begun: usize,
}

impl Sway {
    /// At a sample of the stretch; the same wherever the stretch begins.
    #[inline(always)]
    fn at(self, k: usize) -> f64 {
        self.from + cast::real(self.begun + k + 1) * self.step
    }
}

/// Shares of the straight line and of the smooth reading; the rest is the nearest sample.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shares {
    /// Of the straight line.
    pub straight: f64,
    /// Of the smooth one.
    pub smooth: f64,
}

impl Shares {
    /// Those of a choice.
    #[must_use]
    pub fn of(choice: f64) -> Self {
        let share = |of: f64| f64::from(u8::from(choice == of));
        Self { straight: share(1.0), smooth: share(2.0) }
    }

    /// Reads samples of a length and a sway ago. Those that reach what is not written yet are of no use.
    #[inline(always)]
    pub fn read(self, ring: &Ring, length: usize, sway: Sway, out: &mut [f64; STRETCH]) {
        if sway.from == 0.0 && sway.step == 0.0 {
            let samples: [f32; STRETCH] = ring.read(length);
            for k in 0..STRETCH {
                out[k] = f64::from(samples[k]);
            }
            return;
        }
        // How far each of them lies between two samples, from the older to the younger one.
        let first = down(sway.at(0));
        let mut parts = [0.0; STRETCH];
        if self.smooth == 1.0 && first == down(sway.at(STRETCH - 1)) {
            // None of them passes a sample: side by side.
            for (k, part) in parts.iter_mut().enumerate() {
                *part = cast::sample(1.0 - (sway.at(k) - first));
            }
            let x: [f32; STRETCH + 5] = ring.read(ago(length, first) + REACH);
            let mut read = [0.0; STRETCH];
            for k in 0..STRETCH {
                read[k] = lagrange([x[k], x[k + 1], x[k + 2], x[k + 3], x[k + 4], x[k + 5]], parts[k]);
            }
            for k in 0..STRETCH {
                out[k] = f64::from(read[k]);
            }
            return;
        }
        for (k, out) in out.iter_mut().enumerate() {
            let whole = down(sway.at(k));
            let six: [f32; 6] = ring.read((ago(length, whole) + REACH).saturating_sub(k));
            *out = f64::from(self.between(six, cast::sample(1.0 - (sway.at(k) - whole))));
        }
    }

    /// Between the third and the fourth of six samples.
    #[inline(always)]
    fn between(self, at: [f32; 6], part: f32) -> f32 {
        let mut x = 0.0;
        if self.smooth > 0.0 {
            x += cast::sample(self.smooth) * lagrange(at, part);
        }
        if self.straight > 0.0 {
            x += cast::sample(self.straight) * (at[2] + part * (at[3] - at[2]));
        }
        let nearest = 1.0 - self.straight - self.smooth;
        if nearest > 0.0 {
            x += cast::sample(nearest) * if part < 0.5 { at[2] } else { at[3] };
        }
        x
    }
}

/// The largest whole number not above it. (A call of the library for every sample takes as long as all the rest.)
#[inline(always)]
fn down(x: f64) -> f64 {
    let whole = cast::signed(cast::whole(x));
    if whole > x { whole - 1.0 } else { whole }
}

/// How long ago the older of two samples was written, for a length and whole samples of a sway.
#[inline(always)]
fn ago(length: usize, whole: f64) -> usize {
    cast::floor(cast::real(length) + whole) + 1
}

/// The value between the third and the fourth of six samples, by the polynomial through all of them (Laakso and others,
/// "Splitting the unit delay", IEEE Signal Processing Magazine 13(1), 1996).
#[inline(always)]
fn lagrange(at: [f32; 6], part: f32) -> f32 {
    // Distances to the six places.
    let d = [part + 2.0, part + 1.0, part, part - 1.0, part - 2.0, part - 3.0];
    let (a, b, c) = (d[0] * d[1], d[2] * d[3], d[4] * d[5]);
    let (ab, bc, ac) = (a * b, b * c, a * c);
    let outer = (at[5] * d[4] * ab - at[0] * d[1] * bc) * (1.0 / 120.0);
    let inner = (at[1] * d[0] * bc - at[4] * d[5] * ab) * (1.0 / 24.0);
    outer + inner + (at[3] * d[2] - at[2] * d[3]) * ac * (1.0 / 12.0)
}
