//! How long the tail takes to fall at every frequency, and the filters in the lines that make it so.
//!
//! What a line of `d` samples passes falls by `60 d / (T rate)` dB, so that all frequencies fall as fast in every line (Jot and
//! Chaigne, "Digital delay networks for designing artificial reverberators", AES 90, 1991). How fast they fall, in dB per
//! second, goes from one value to another along a first-order curve around a frequency, at either end. Each filter is a
//! first-order shelf that meets that curve at 0 Hz, at half the rate and at the frequency itself; of those for the highs there
//! are two, since two gentle shelves keep the curve's shape where a line is long and the fall steep.

use std::f64::consts::PI;

use super::settings::Settings;

/// Decay times over frequency.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Decays {
    /// Time to fall by 60 dB between the ends, s.
    pub decay_s: f64,
    /// The decay at the top, as a share of that.
    pub high: f64,
    /// Where half of the way to the top is gone, Hz.
    pub high_from_hz: f64,
    /// The decay at the bottom, as a multiple of that between.
    pub low: f64,
    /// Where half of the way to the bottom is gone, Hz.
    pub low_split_hz: f64,
}

impl Decays {
    /// Those of some settings.
    #[must_use]
    pub fn of(settings: &Settings) -> Self {
        Self {
            decay_s: settings.decay_s,
            high: settings.high_decay * settings.character().high,
            high_from_hz: settings.high_from_hz,
            low: settings.low_decay,
            low_split_hz: settings.low_split_hz,
        }
    }

    /// Their logarithms, in which they move evenly.
    #[must_use]
    pub fn logarithms(&self) -> [f64; 5] {
        [self.decay_s, self.high, self.high_from_hz, self.low, self.low_split_hz].map(f64::ln)
    }

    /// Back from the logarithms.
    #[must_use]
    pub fn from_logarithms(logarithms: [f64; 5]) -> Self {
        let [decay_s, high, high_from_hz, low, low_split_hz] = logarithms.map(f64::exp);
        Self { decay_s, high, high_from_hz, low, low_split_hz }
    }

    /// By how many times what it is between the ends the sound falls per second at a frequency (Hz).
    fn falls(&self, freq_hz: f64) -> f64 {
        let low = 1.0 / (1.0 + (freq_hz / self.low_split_hz).powi(2));
        1.0 + (1.0 / self.low - 1.0) * low + (1.0 / self.high - 1.0) * self.towards_top(freq_hz)
    }

    /// How far it is on the way to the top at a frequency, 0 to 1.
    fn towards_top(&self, freq_hz: f64) -> f64 {
        let up = (freq_hz / self.high_from_hz).powi(2);
        up / (1.0 + up)
    }

    /// The time to fall by 60 dB at a frequency (Hz), s.
    #[must_use]
    pub fn at(&self, freq_hz: f64) -> f64 {
        self.decay_s / self.falls(freq_hz)
    }

    /// The longest of them, s.
    #[must_use]
    pub fn longest_s(&self) -> f64 {
        self.decay_s * self.low.max(1.0)
    }

    /// By how many nepers, which are added where gains are multiplied, so many samples fall between the ends, with a share from
    /// 0, nothing is lost, to 1.
    fn nepers(&self, frames: f64, rate_hz: f64, share: f64) -> f64 {
        share * 3.0 * std::f64::consts::LN_10 * frames / (self.decay_s * rate_hz)
    }

    /// What is kept between the ends over so many samples.
    #[must_use]
    pub fn kept(&self, frames: f64, rate_hz: f64, share: f64) -> f64 {
        (-self.nepers(frames, rate_hz, share)).exp()
    }

    /// The filters of lines of so many samples with all-passes of so many.
    #[must_use]
    pub fn damping<const N: usize>(
        &self,
        lines: &[f64; N],
        inside: &[f64; N],
        rate_hz: f64,
        share: f64,
    ) -> [Damping; N] {
        let highest = 0.5 * rate_hz;
        let (split_hz, met_hz) = (self.low_split_hz.min(MET * highest), self.high_from_hz.min(MET * highest));
        let (split, met) = (warped(split_hz, rate_hz), warped(met_hz, rate_hz));
        let (to_met, to_top) = (self.towards_top(met_hz), self.towards_top(highest));
        std::array::from_fn(|i| {
            let between = self.nepers(lines[i] + inside[i], rate_hz, share);
            let high = 0.5 * between * (1.0 / self.high - 1.0);
            Damping {
                gain: self.kept(lines[i], rate_hz, share),
                low: Shelf::low(between * (1.0 / self.low - 1.0), split),
                high: Shelf::high((high * to_met, met), high * to_top),
            }
        })
    }
}

/// No filter is met higher than at this share of half the rate, 5.3 kHz at 48 kHz: the bilinear transform bends the curve above, where
/// nobody hears it, and not between 2 and 8 kHz.
const MET: f64 = 0.22;

/// The frequency axis of the bilinear transform.
fn warped(freq_hz: f64, rate_hz: f64) -> f64 {
    (PI * freq_hz / rate_hz).tan()
}

/// The filters of a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Damping {
    /// A gain at all frequencies.
    pub gain: f64,
    /// That of the lows.
    pub low: Shelf,
    /// That of the highs, used twice.
    pub high: Shelf,
}

/// A first-order filter: `b0 + b1 z^-1` over `1 + a1 z^-1`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shelf {
    /// Of the present sample.
    pub b0: f64,
    /// Of the one before.
    pub b1: f64,
    /// Of the result before.
    pub a1: f64,
}

impl Shelf {
    /// Passes everything.
    pub const THROUGH: Self = Self { b0: 1.0, b1: 0.0, a1: 0.0 };

    /// From `low` at 0 Hz to `high` at half the rate, both linear; `turn` is one over the warped frequency of its pole.
    fn new(low: f64, high: f64, turn: f64) -> Self {
        let whole = 1.0 + turn;
        let (b0, b1) = ((low + high * turn) / whole, (low - high * turn) / whole);
        Self { b0, b1, a1: (1.0 - turn) / whole }
    }

    /// Takes so many nepers at 0 Hz, half of them at a (warped) frequency, and nothing at the top.
    fn low(nepers: f64, middle: f64) -> Self {
        if nepers == 0.0 {
            return Self::THROUGH;
        }
        Self::new((-nepers).exp(), 1.0, (-0.5 * nepers).exp() / middle)
    }

    /// Takes nothing at 0 Hz, so many nepers at a (warped) frequency, and more at half the rate.
    fn high((nepers, met): (f64, f64), at_top: f64) -> Self {
        if at_top == 0.0 {
            return Self::THROUGH;
        }
        // |H|^2 = (1 + g^2 t^2 w^2) / (1 + t^2 w^2) is met for this t.
        let squared =
            -(-2.0 * nepers).exp_m1() / ((-2.0 * nepers).exp() * -(-2.0 * (at_top - nepers)).exp_m1());
        Self::new(1.0, (-at_top).exp(), squared.sqrt() / met)
    }
}
