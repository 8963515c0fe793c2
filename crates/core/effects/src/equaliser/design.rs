//! From the settings of a band to its second-order sections.

use std::f64::consts::PI;

use rustfft::num_complex::Complex64;

use super::nearness;
use super::section::{Formula, HIGHEST_SHARE, MATCH_SHARE, Prototype, Section, THIRD_PLACE};
pub use super::shape::{Kind, Shape};
use clear_bend_sound::cast;

/// How the copies of a band follow each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Series {
    /// There is one.
    #[default]
    Single,
    /// At multiples of its frequency, each as wide in Hz.
    Multiples,
    /// At a fixed interval, each as wide in octaves.
    Intervals,
}

/// What cannot move while sound runs: a band fades out and comes back with another one of these.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Build {
    /// What the band does.
    pub kind: Kind,
    /// Order of a cut.
    pub order: usize,
    /// How its copies follow each other.
    pub series: Series,
    /// How many there are.
    pub copies: usize,
    /// The interval between copies, semitones.
    pub interval_st: f64,
    /// Whether it follows the plain formula.
    pub plain: bool,
}

/// The most copies in a series.
pub const MOST_COPIES: usize = 16;

/// The most sections of one copy: a cut of order 20.
const MOST_OF_COPY: usize = 10;

/// The most sections of a band: a full series of flat bells.
pub const MOST_SECTIONS: usize = 3 * MOST_COPIES;

impl Build {
    /// How many sections it has.
    #[must_use]
    pub fn sections(&self) -> usize {
        self.kind.sections(self.order) * self.copies()
    }

    /// How many copies there are; 1 where there is no series.
    #[must_use]
    pub fn copies(&self) -> usize {
        if self.series == Series::Single || !self.kind.repeats() {
            1
        } else {
            self.copies.clamp(1, MOST_COPIES)
        }
    }

    /// Frequency and Q of a copy.
    #[must_use]
    pub fn copy(&self, shape: &Shape, index: usize) -> Shape {
        let place = cast::real(index);
        match self.series {
            Series::Single => *shape,
            Series::Multiples => {
                let times = place + 1.0;
                Shape { freq_hz: shape.freq_hz * times, q: shape.q * times, ..*shape }
            }
            Series::Intervals => {
                Shape { freq_hz: shape.freq_hz * (place * self.interval_st / 12.0).exp2(), ..*shape }
            }
        }
    }

    /// The width of its narrowest resonance, Hz, poles and zeros alike; a notch is as wide as its poles.
    #[must_use]
    pub fn narrowest_hz(&self, shape: &Shape) -> f64 {
        // Copies are as wide as the first one, or wider.
        let widths = (0..self.kind.sections(self.order))
            .flat_map(|i| self.kind.prototype(shape, self.order, i).resonances())
            .map(|(_, width)| width)
            .filter(|width| *width > 0.0);
        widths.fold(f64::INFINITY, f64::min)
    }

    /// The time in which the slowest of its resonances falls by 80 dB, s: more than enough for 60 dB of several.
    #[must_use]
    pub fn rings_s(&self, shape: &Shape) -> f64 {
        let poles = (0..self.kind.sections(self.order))
            .map(|i| self.kind.prototype(shape, self.order, i))
            .map(|prototype| prototype.slowest_hz());
        let slowest_hz = poles.fold(f64::INFINITY, f64::min);
        // 80 dB are a factor of ten thousand, and exp(-2 pi f t) is what is left after t.
        if slowest_hz.is_finite() { 1e4f64.ln() / (2.0 * PI * slowest_hz) } else { 0.0 }
    }

    /// Hands on all sections, as many as [`Build::sections`] says. Copies over the highest frequency pass everything;
    /// a band by itself stays at the highest frequency.
    pub fn each_section(&self, shape: &Shape, rate_hz: f64, mut put: impl FnMut(usize, Section)) {
        let each = self.kind.sections(self.order);
        let mut sections = [Section::THROUGH; MOST_OF_COPY];
        let highest = HIGHEST_SHARE * rate_hz;
        for copy in 0..self.copies() {
            let mut of_copy = self.copy(shape, copy);
            let beyond = copy > 0 && of_copy.freq_hz > highest;
            of_copy.freq_hz = of_copy.freq_hz.min(highest);
            let sections = &mut sections[..each];
            if beyond {
                sections.fill(Section::THROUGH);
            } else {
                self.design_copy(&of_copy, rate_hz, sections);
            }
            sections.iter().enumerate().for_each(|(i, section)| put(copy * each + i, *section));
        }
    }
}

impl Build {
    /// The sections of one copy. The true shape goes over to the plain formula where that is nearer to the analogue one.
    fn design_copy(&self, shape: &Shape, rate_hz: f64, sections: &mut [Section]) {
        let prototype = |i: usize| self.kind.prototype(shape, self.order, i);
        let plain = |i: usize| prototype(i).section(Formula::Plain, rate_hz);
        if self.plain {
            sections.iter_mut().enumerate().for_each(|(i, section)| *section = plain(i));
            return;
        }
        let mut plains = [Section::THROUGH; MOST_OF_COPY];
        let mut prototypes = [prototype(0); MOST_OF_COPY];
        for (i, section) in sections.iter_mut().enumerate() {
            prototypes[i] = prototype(i);
            *section = prototypes[i].section(Formula::True, rate_hz);
            plains[i] = plain(i);
        }
        let (prototypes, plains) = (&prototypes[..sections.len()], &plains[..sections.len()]);
        if self.kind == Kind::HighCut && sections.len() > 1 {
            match_together(prototypes, rate_hz, sections);
        }
        nearness::choose(self.kind, shape, rate_hz, prototypes, sections, plains);
    }
}

/// Where the sections of a high cut are matched, in turn, the last one at the first of these: the lower place as a share
/// of the corner, or of the highest place where one is matched; the upper one on the way from there to half the rate.
/// The last one keeps the corner in its place; the others are, of many tried with all orders and corners from 9 kHz at
/// 44.1 kHz, those with the least errors.
const CUT_PLACES: [(f64, f64); 3] = [(1.0, 0.7643), (0.7556, 0.05), (1.0356, 0.4458)];

/// Matches the sections of a high cut once more, twice, each so that it mends what all the others miss at its places:
/// their errors would add up otherwise.
fn match_together(prototypes: &[Prototype], rate_hz: f64, sections: &mut [Section]) {
    let last = sections.len() - 1;
    // A low corner leaves so much room that the usual places are the better ones.
    let high = ((prototypes[last].freq_hz / rate_hz - 0.05) / 0.1).clamp(0.0, 1.0);
    for pass in 0..2 {
        for i in 0..=last {
            // In the first pass, those that come later have not been placed yet.
            let others = if pass == 0 { 0..i } else { 0..last + 1 };
            let missed = |hz: f64| {
                let tangent = (PI * hz / rate_hz).tan();
                let of = |k: usize| prototypes[k].magnitude(hz) / sections[k].magnitude_at(tangent);
                others.clone().filter(|k| *k != i).map(of).product()
            };
            let (lower, upper) = CUT_PLACES[(last - i) % CUT_PLACES.len()];
            let (lower, upper) = (1.0 + high * (lower - 1.0), THIRD_PLACE + high * (upper - THIRD_PLACE));
            let at_hz = lower * prototypes[i].freq_hz.min(MATCH_SHARE * rate_hz);
            let third_hz = at_hz + upper * (0.5 * rate_hz - at_hz);
            sections[i] = prototypes[i].matched_at([at_hz, third_hz], rate_hz, missed);
        }
    }
}

impl Kind {
    /// The analogue filter of a section. From the cookbook, but for the cuts (S. Butterworth, 1930) and the flat bell,
    /// which is the bell's third-order relative: a Butterworth shelf carried to a band (S. J. Orfanidis, "High-Order
    /// Digital Parametric Equalizer Design", JAES 53(11), 2005, from memory).
    #[must_use]
    pub fn prototype(self, shape: &Shape, order: usize, index: usize) -> Prototype {
        let Shape { freq_hz, gain_db, q } = *shape;
        let a = 10f64.powf(gain_db / 40.0);
        let root = a.sqrt() / q;
        let (num, den) = match self {
            Self::None => ([1.0, 2.0, 1.0], [1.0, 2.0, 1.0]),
            Self::LowCut | Self::HighCut => return cut(self == Self::LowCut, freq_hz, order, index),
            Self::AllPass => ([1.0, -1.0 / q, 1.0], [1.0, 1.0 / q, 1.0]),
            Self::BandPass => ([0.0, 1.0 / q, 0.0], [1.0, 1.0 / q, 1.0]),
            Self::Notch => ([1.0, 0.0, 1.0], [1.0, 1.0 / q, 1.0]),
            Self::Bell => ([1.0, a / q, 1.0], [1.0, 1.0 / (a * q), 1.0]),
            Self::FlatBell => return flat_bell(shape, index),
            Self::LowShelf => ([a * a, a * root, a], [1.0, root, a]),
            Self::HighShelf => ([a, a * root, a * a], [a, root, 1.0]),
            Self::Tilt => ([1.0, root, a], [a, root, 1.0]),
        };
        Prototype { freq_hz, centre_hz: freq_hz, num, den }
    }
}

/// A section of a Butterworth cut; that of an odd order begins with one of first order, (s or 1) (s + 1) / (s + 1)^2.
fn cut(low: bool, freq_hz: f64, order: usize, index: usize) -> Prototype {
    let odd = order % 2;
    if odd == 1 && index == 0 {
        let num = if low { [0.0, 1.0, 1.0] } else { [1.0, 1.0, 0.0] };
        return Prototype { freq_hz, centre_hz: freq_hz, num, den: [1.0, 2.0, 1.0] };
    }
    // Poles lie on a circle, an angle of pi/order apart.
    let place = cast::real(2 * (index - odd) + 1 + odd);
    let angle = 0.5 * PI * place / cast::real(order);
    let damping = 2.0 * angle.cos();
    let num = if low { [0.0, 0.0, 1.0] } else { [1.0, 0.0, 0.0] };
    Prototype { freq_hz, centre_hz: freq_hz, num, den: [1.0, damping, 1.0] }
}

/// One of the three sections of a flat bell. The edges of the band, at half the gain in dB, are where a bell of the
/// same Q has them.
fn flat_bell(shape: &Shape, index: usize) -> Prototype {
    let Shape { freq_hz, gain_db, q } = *shape;
    // Zeros and poles of the third-order shelf lie on circles, their ratio to the third power being the gain.
    let circle = 10f64.powf(gain_db / 120.0);
    if index == 0 {
        let (num, den) = ([1.0, circle / q, 1.0], [1.0, 1.0 / (circle * q), 1.0]);
        return Prototype { freq_hz, centre_hz: freq_hz, num, den };
    }
    let pair = |radius: f64| {
        // The shelf's complex root goes to the two roots of s^2 - (root/Q) s + 1.
        let root = Complex64::from_polar(radius, 2.0 * PI / 3.0) / q;
        let spread = (root * root - 4.0).sqrt();
        let (one, other) = ((root + spread) * 0.5, (root - spread) * 0.5);
        let upper = if one.norm() >= other.norm() { one } else { other };
        let wanted = if index == 1 { upper } else { upper.inv() };
        [wanted.norm_sqr(), -2.0 * wanted.re, 1.0]
    };
    let (num, den) = (pair(circle), pair(1.0 / circle));
    let own = den[0].sqrt();
    let normal = |[c0, c1, c2]: [f64; 3]| [c0 / (own * own), c1 / own, c2];
    Prototype { freq_hz: freq_hz * own, centre_hz: freq_hz, num: normal(num), den: normal(den) }
}
