//! Second-order sections: the analogue prototype, and the two ways to make it digital.
//!
//! The prototypes and the plain formula are those of the "Audio EQ Cookbook" (W3C Working Group Note, 2021): the
//! bilinear transform, which squeezes everything up to infinity under half the sample rate, so that curves near it get
//! too narrow. The true shape keeps the analogue poles where they are (z = exp(sT)) and chooses the rest so that the
//! magnitude is the analogue one at three frequencies, which is the idea of M. Vicanek, "Matched Second Order Digital
//! Filters" (2016, from memory), carried out in the plane of the bilinear transform. The three are 0 Hz, the centre, and a
//! place between the centre and half the rate: so a shape is nearer to the analogue one, up to where it is heard, than
//! with the third at half the rate.

use std::f64::consts::PI;

use rustfft::num_complex::Complex64;

/// A second-order analogue filter in the variable s = jf / `freq_hz`; coefficients by rising power.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Prototype {
    /// Its frequency, Hz.
    pub freq_hz: f64,
    /// The frequency of the band that it belongs to, Hz: where the plain formula keeps everything in its place.
    pub centre_hz: f64,
    /// Numerator.
    pub num: [f64; 3],
    /// Denominator; its ends are positive.
    pub den: [f64; 3],
}

/// How a prototype becomes digital.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Formula {
    /// Analogue in magnitude up to half the sample rate, as nearly as a second-order section can be.
    True,
    /// The bilinear transform of the cookbook.
    Plain,
}

/// Frequencies are kept under this share of the sample rate.
pub const HIGHEST_SHARE: f64 = 0.49;

/// Up to where a magnitude is matched at the centre, as a share of the rate; a higher centre is matched here.
pub const MATCH_SHARE: f64 = 0.365;

/// Where between that and half the rate it is matched again: of the places tried, the one with the least errors.
pub const THIRD_PLACE: f64 = 0.6;

/// Poles or zeros of less damping make a peak or a hole.
const SHARP: f64 = 1.0;

impl Prototype {
    /// The digital section.
    #[must_use]
    pub fn section(&self, formula: Formula, rate_hz: f64) -> Section {
        // The phase is what an all-pass is for, and the bilinear transform keeps it an all-pass.
        let all_pass = self.num[1] < 0.0;
        if formula == Formula::Plain || all_pass { self.plain(rate_hz) } else { self.matched(rate_hz) }
    }

    fn plain(&self, rate_hz: f64) -> Section {
        let [d0, d1, d2] = self.den;
        let [n0, n1, n2] = self.num;
        let turn = (d0 / d2).sqrt();
        let g = (PI * (self.centre_hz / rate_hz).min(HIGHEST_SHARE)).tan() * self.freq_hz / self.centre_hz;
        Section { g: g * turn, k: d1 / (d0 * d2).sqrt(), n: [n0 / d0, n1 / (d2 * turn), n2 / d2] }
    }

    fn matched(&self, rate_hz: f64) -> Section {
        if self.numerator_rules() {
            let inverse = Self { num: self.den, den: self.num, ..*self };
            return inverse.matched(rate_hz).inverse();
        }
        // A resonance without damping has no height to be matched: its lower edge, 3 dB away, stands for it.
        let edge = if self.den[1] == 0.0 {
            let half = self.num[1] / 2.0;
            (1.0 + half * half).sqrt() - half
        } else {
            1.0
        };
        let at_hz = (self.freq_hz * edge).min(MATCH_SHARE * rate_hz);
        self.matched_at([at_hz, at_hz + THIRD_PLACE * (0.5 * rate_hz - at_hz)], rate_hz, |_| 1.0)
    }

    /// The digital section with the analogue poles whose magnitude is the analogue one, times `more`, at 0 Hz and at two
    /// places, the lower one first.
    pub fn matched_at(
        &self,
        [at_hz, third_hz]: [f64; 2],
        rate_hz: f64,
        more: impl Fn(f64) -> f64,
    ) -> Section {
        let [d0, d1, d2] = self.den;
        let damping = d1 / (d0 * d2).sqrt();
        let (g, k) = poles(2.0 * PI * self.freq_hz * (d0 / d2).sqrt() / rate_hz, damping);
        // The square of s, and the wanted square of the numerator, at a frequency.
        let wanted = |hz: f64| {
            let square = ((PI * hz / rate_hz).tan() / g).powi(2);
            let size = self.magnitude(hz) * more(hz);
            (square, size.powi(2) * ((1.0 - square).powi(2) + k * k * square))
        };
        let (square, size) = wanted(at_hz);
        if self.num[0] == 0.0 && self.num[1] == 0.0 {
            // Both zeros stay at 0 Hz.
            return Section { g, k, n: [0.0, 0.0, size.sqrt() / square] };
        }
        // (n0 - n2 s^2)^2 + (n1 s)^2 is known at two places: over s^2, what n0 and n2 share and n1 fall out of their difference.
        let n0 = self.num[0] / d0;
        let (further, beyond) = wanted(third_hz);
        let of_n0 = n0 * n0 * (1.0 / further - 1.0 / square);
        let n2_squared = (beyond / further - size / square - of_n0) / (further - square);
        // What does not vanish over half the rate must not at half the rate: zeros and poles may be exchanged.
        let n2 = n2_squared.max((1e-3 * self.num[2] / d2).powi(2)).sqrt();
        let n1_squared = (size - (n0 - n2 * square).powi(2)) / square;
        // Nor may what is damped lose its damping.
        let n1 = n1_squared.max((0.1 * self.num[1]).powi(2) / (d0 * d2)).sqrt();
        Section { g, k, n: [n0, n1, n2] }
    }

    /// Whether the zeros are the lower or the sharper pair: those are kept where they are, and the poles follow.
    fn numerator_rules(&self) -> bool {
        let [n0, n1, n2] = self.num;
        let [d0, d1, d2] = self.den;
        if n0 <= 0.0 || n2 <= 0.0 {
            return false;
        }
        let (zeros, poles) = (n0 / n2, d0 / d2);
        let same = (zeros - poles).abs() <= 1e-9 * poles;
        let sharper = n1 / (n0 * n2).sqrt() < d1 / (d0 * d2).sqrt();
        if same { sharper } else { zeros < poles }
    }

    /// Frequency and width of its poles and of its zeros, Hz; zeros at 0 Hz or at no frequency have none.
    pub fn resonances(&self) -> impl Iterator<Item = (f64, f64)> + use<> {
        let hz = self.freq_hz;
        let of = move |[c0, c1, c2]: [f64; 3]| {
            (c0 > 0.0 && c2 > 0.0).then(|| (hz * (c0 / c2).sqrt(), hz * c1.abs() / c2))
        };
        [of(self.den), of(self.num)].into_iter().flatten()
    }

    /// How far its slower pole lies from the imaginary axis, Hz: it falls as exp(-2 pi f t).
    #[must_use]
    pub fn slowest_hz(&self) -> f64 {
        let [d0, d1, d2] = self.den;
        let half = 0.5 * d1 / d2;
        let under = (half * half - d0 / d2).max(0.0).sqrt();
        // The product of both real poles is d0 / d2: their difference would lose digits.
        self.freq_hz * if under > 0.0 { d0 / d2 / (half + under) } else { half }
    }

    /// Its magnitude, linear.
    #[must_use]
    pub fn magnitude(&self, freq_hz: f64) -> f64 {
        let w = freq_hz / self.freq_hz;
        let size = |[c0, c1, c2]: [f64; 3]| (c0 - c2 * w * w).hypot(c1 * w);
        size(self.num) / size(self.den)
    }
}

/// Poles at z = exp(sT) for s^2 + damping w s + w^2, as `g` and `k` of a [`Section`].
fn poles(w: f64, damping: f64) -> (f64, f64) {
    let sigma = 0.5 * damping * w;
    let under = 1.0 - 0.25 * damping * damping;
    let sinh = (0.5 * sigma).sinh().powi(2);
    let (rise, fall) = if under >= 0.0 {
        // A pole over half the rate stays just below it.
        let half = (0.5 * w * under.sqrt()).min(0.49 * PI);
        (half.sin().powi(2), half.cos().powi(2))
    } else {
        let half = 0.5 * w * (-under).sqrt();
        (-half.sinh().powi(2), half.cosh().powi(2))
    };
    let g = ((sinh + rise) / (sinh + fall)).sqrt();
    (g, sigma.sinh() / (g * (sinh + fall)))
}

/// A digital second-order section, (n0 + n1 s + n2 s^2) / (1 + k s + s^2) with s = j tan(pi f / rate) / g.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Section {
    /// Tangent of half its angular frequency.
    pub g: f64,
    /// Its damping, 1/Q.
    pub k: f64,
    /// Its numerator by rising power: the gains at 0 Hz and at half the rate are the first and the last.
    pub n: [f64; 3],
}

impl Section {
    /// Passes everything.
    pub const THROUGH: Self = Self { g: 1.0, k: 2.0, n: [1.0, 2.0, 1.0] };

    /// A section on the way from another one to this one, at a share of 0 to 1.
    #[must_use]
    pub fn toward(&self, other: &Self, share: f64) -> Self {
        // Exact at both ends.
        if share >= 1.0 {
            return *self;
        }
        let ratio = |from: f64, to: f64| from * (to / from).powf(share);
        let line = |i: usize| other.n[i] + share * (self.n[i] - other.n[i]);
        Self { g: ratio(other.g, self.g), k: ratio(other.k, self.k), n: [line(0), line(1), line(2)] }
    }

    fn inverse(self) -> Self {
        let Self { g, k, n: [n0, n1, n2] } = self;
        let turn = (n0 / n2).sqrt();
        Self { g: g * turn, k: n1 / (n0 * n2).sqrt(), n: [1.0 / n0, k / (n2 * turn), 1.0 / n2] }
    }

    /// The frequencies of its poles and of its zeros, Hz.
    pub fn resonances_hz(&self, rate_hz: f64) -> impl Iterator<Item = f64> + use<> {
        let zeros = (self.n[0] / self.n[2]).sqrt();
        [self.g, self.g * zeros].into_iter().filter(|g| g.is_finite()).map(move |g| g.atan() * rate_hz / PI)
    }

    /// Where its sharp poles and zeros lie, and both sides of them, as tangents of half the angular frequency.
    pub fn sharp_places(&self) -> impl Iterator<Item = f64> + use<> {
        let [n0, n1, n2] = self.n;
        let zeros = (self.g * (n0 / n2).sqrt(), n1.abs() / (n0 * n2).sqrt());
        let sharp = [(self.g, self.k), zeros].into_iter().filter(|(g, k)| g.is_finite() && *k < SHARP);
        sharp.flat_map(|(g, k)| [-0.5, 0.0, 0.5].map(|widths| g * (1.0 + widths * k)))
    }

    /// Numerator and denominator where tan(pi f / rate) is `tangent`.
    fn parts(&self, tangent: f64) -> (Complex64, Complex64) {
        let s = tangent / self.g;
        let [n0, n1, n2] = self.n;
        // Both divided by 1 + s^2, which keeps them finite at half the rate.
        let scale = 1.0 / (1.0 + s * s);
        let num = Complex64::new((n0 - n2 * s * s) * scale, n1 * s * scale);
        let den = Complex64::new((1.0 - s * s) * scale, self.k * s * scale);
        (num, den)
    }

    /// Its complex response where tan(pi f / rate) is `tangent`.
    #[must_use]
    pub fn response_at(&self, tangent: f64) -> Complex64 {
        let (num, den) = self.parts(tangent);
        num / den
    }

    /// Its magnitude there, linear.
    #[must_use]
    pub fn magnitude_at(&self, tangent: f64) -> f64 {
        let (num, den) = self.parts(tangent);
        (num.norm_sqr() / den.norm_sqr()).sqrt()
    }

    /// Its phase there, radians, without a jump from 0 Hz on: in this plane, numerator and denominator each turn by at
    /// most half a circle, an all-pass the other way round.
    #[must_use]
    pub fn phase_at(&self, tangent: f64) -> f64 {
        let (num, den) = self.parts(tangent);
        num.arg() - den.arg()
    }
}
