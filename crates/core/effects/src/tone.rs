//! What gets into a reverb, and the tone and width of what comes out.

use std::f64::consts::{FRAC_PI_4, PI};

use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, Ramp, StateVariable};
use clear_bend_sound::level::gain_from_db;

/// What moves is worked out every so many samples.
const STEP: usize = 16;
/// The middle of the tilt, Hz.
const TILT_HZ: f64 = 1000.0;
/// From here up, a low cut is at work; up to there, a high cut is, Hz.
pub const CUT_OFF_HZ: (f64, f64) = (20.0, 20_000.0);
/// The most shelves.
const SHELVES: usize = 5;

/// What gets in.
#[derive(Debug, Clone, Copy)]
pub struct ToneIn {
    /// How far the sides are mixed, 0 to 1.
    pub crossfeed: f64,
    /// Low cut, Hz; off at 20.
    pub low_cut_hz: f64,
    /// High cut, Hz; off at 20,000.
    pub high_cut_hz: f64,
}

/// A shelf of first order: half of its gain in dB is at its frequency, so that a cut undoes a boost.
#[derive(Debug, Clone, Copy)]
pub struct Shelf {
    /// Whether it lifts what lies over its frequency.
    pub upper: bool,
    /// Its gain, dB.
    pub gain_db: f64,
    /// Its frequency, Hz.
    pub freq_hz: f64,
}

impl Shelf {
    /// One that does nothing.
    pub const NONE: Self = Self { upper: true, gain_db: 0.0, freq_hz: 1000.0 };

    /// Both halves of a tilt (dB): it lifts the highs by half of it, and lowers the lows by as much.
    #[must_use]
    pub fn tilt(tilt_db: f64) -> [Self; 2] {
        [true, false].map(|upper| Self {
            upper,
            gain_db: if upper { 0.5 * tilt_db } else { -0.5 * tilt_db },
            freq_hz: TILT_HZ,
        })
    }
}

/// What comes out.
#[derive(Debug, Clone, Copy)]
pub struct ToneOut {
    /// Shelves, one after the other.
    pub shelves: [Shelf; SHELVES],
    /// High cut, Hz; off at 20,000.
    pub high_cut_hz: f64,
    /// 0 is mono, 1 stereo, more is wider.
    pub width: f64,
}

/// A cut of 12 dB per octave on two channels that goes in and out smoothly, with a corner that moves.
struct Cut {
    /// The logarithm of its frequency, and how much of it is heard.
    freq: Ramp,
    share: Ramp,
    low: bool,
    filters: [StateVariable; 2],
    corner: Corner,
    left: usize,
    rate_hz: f64,
}

impl Cut {
    fn new(low: bool, freq_hz: f64, rate_hz: f64, frames: usize) -> Self {
        Self {
            freq: Ramp::new(freq_hz.ln(), frames),
            share: Ramp::new(at_work(low, freq_hz), frames),
            low,
            filters: [StateVariable::default(); 2],
            corner: Corner::butterworth(freq_hz, rate_hz),
            left: 0,
            rate_hz,
        }
    }

    fn set(&mut self, freq_hz: f64) {
        if self.share.rests_at(0.0) {
            self.reset();
        }
        self.freq.set(freq_hz.ln());
        self.share.set(at_work(self.low, freq_hz));
    }

    fn reset(&mut self) {
        self.freq.settle();
        self.share.settle();
        self.corner = Corner::butterworth(self.freq.value().exp(), self.rate_hz);
        self.filters.iter_mut().for_each(StateVariable::reset);
        self.left = 0;
    }

    fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        if self.share.rests_at(0.0) {
            self.freq.skip(left.len());
            return;
        }
        for (l, r) in left.iter_mut().zip(right) {
            if self.left == 0 {
                self.left = STEP;
                if self.freq.left() > 0 {
                    self.freq.skip(STEP);
                    self.corner = Corner::butterworth(self.freq.value().exp(), self.rate_hz);
                }
            }
            self.left -= 1;
            let share = self.share.next_value();
            for (x, filter) in [l, r].into_iter().zip(&mut self.filters) {
                let dry = f64::from(*x);
                let parts = filter.step(&self.corner, dry);
                let cut = if self.low { parts.high } else { parts.low };
                *x = cast::sample(share * cut + (1.0 - share) * dry);
            }
        }
    }
}

fn at_work(low: bool, freq_hz: f64) -> f64 {
    let off = if low { freq_hz <= CUT_OFF_HZ.0 } else { freq_hz >= CUT_OFF_HZ.1 };
    f64::from(u8::from(!off))
}

/// What lies under this never gets in, Hz: a constant would go round for as long as the lows do.
const CONSTANT_HZ: f64 = 1.0;

/// Takes away what is constant on each side.
pub struct Unconstant {
    constant: [OnePole; 2],
    follows: f64,
}

impl Unconstant {
    /// At rest.
    #[must_use]
    pub fn new(rate_hz: f64) -> Self {
        let turn = (PI * CONSTANT_HZ / rate_hz).tan();
        Self { constant: [OnePole::default(); 2], follows: turn / (1.0 + turn) }
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.constant = [OnePole::default(); 2];
    }

    /// Changes a block.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        for (side, constant) in [left, right].into_iter().zip(&mut self.constant) {
            for x in side {
                let dry = f64::from(*x);
                *x = cast::sample(dry - constant.low(self.follows, dry));
            }
        }
    }
}

/// What gets into the reverb: both sides mixed, and cut.
pub struct Coming {
    crossfeed: Ramp,
    low_cut: Cut,
    high_cut: Cut,
}

impl Coming {
    /// At rest; moves take so many samples.
    #[must_use]
    pub fn new(tone: &ToneIn, rate_hz: f64, frames: usize) -> Self {
        Self {
            crossfeed: Ramp::new(tone.crossfeed, frames),
            low_cut: Cut::new(true, tone.low_cut_hz, rate_hz, frames),
            high_cut: Cut::new(false, tone.high_cut_hz, rate_hz, frames),
        }
    }

    /// Moves to other settings.
    pub fn set(&mut self, tone: &ToneIn) {
        self.crossfeed.set(tone.crossfeed);
        self.low_cut.set(tone.low_cut_hz);
        self.high_cut.set(tone.high_cut_hz);
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.crossfeed.settle();
        self.low_cut.reset();
        self.high_cut.reset();
    }

    /// Mixes and cuts a block.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        if !self.crossfeed.rests_at(0.0) {
            for (l, r) in left.iter_mut().zip(&mut *right) {
                let half = cast::sample(0.5 * self.crossfeed.next_value());
                let across = half * (*r - *l);
                (*l, *r) = (*l + across, *r - across);
            }
        }
        self.low_cut.process(left, right);
        self.high_cut.process(left, right);
    }
}

/// A first-order low-pass with a trapezoidal integrator.
#[derive(Clone, Copy, Default)]
struct OnePole(f64);

impl OnePole {
    #[inline]
    fn low(&mut self, share: f64, x: f64) -> f64 {
        let v = share * (x - self.0);
        let low = v + self.0;
        self.0 = low + v;
        if self.0.abs() < 1e-15 {
            self.0 = 0.0;
        }
        low
    }
}

/// A first-order shelf whose gain and frequency move: what lies on one side of it is multiplied.
struct ShelfTone {
    gain: Ramp,
    freq: Ramp,
    /// Whether it lifts what lies over its frequency.
    upper: bool,
    poles: [OnePole; 2],
    rate_hz: f64,
}

impl ShelfTone {
    fn new(upper: bool, gain_db: f64, freq_hz: f64, rate_hz: f64, frames: usize) -> Self {
        let (gain, freq) = (Ramp::new(gain_from_db(gain_db), frames), Ramp::new(freq_hz.ln(), frames));
        Self { gain, freq, upper, poles: [OnePole::default(); 2], rate_hz }
    }

    fn set(&mut self, gain_db: f64, freq_hz: f64) {
        if self.gain.rests_at(1.0) {
            self.reset();
        }
        self.gain.set(gain_from_db(gain_db));
        self.freq.set(freq_hz.ln());
    }

    fn reset(&mut self) {
        self.gain.settle();
        self.freq.settle();
        self.poles = [OnePole::default(); 2];
    }

    fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        if self.gain.rests_at(1.0) {
            self.freq.skip(left.len());
            return;
        }
        let (upper, rate_hz) = (self.upper, self.rate_hz);
        // The pole lies as far on one side of the frequency as the zero does on the other.
        let share = |freq: &Ramp, gain: f64| {
            let off = if upper { gain.sqrt() } else { 1.0 / gain.sqrt() };
            let g = off * (PI * (freq.value().exp() / rate_hz).min(0.49)).tan();
            g / (1.0 + g)
        };
        let mut pole = share(&self.freq, self.gain.value());
        for (l, r) in left.iter_mut().zip(right) {
            let moves = self.freq.left() > 0 || self.gain.left() > 0;
            self.freq.skip(usize::from(self.freq.left() > 0));
            let gain = self.gain.next_value();
            if moves {
                pole = share(&self.freq, gain);
            }
            let more = gain - 1.0;
            for (x, state) in [l, r].into_iter().zip(&mut self.poles) {
                let dry = f64::from(*x);
                let low = state.low(pole, dry);
                *x = cast::sample(dry + more * if self.upper { dry - low } else { low });
            }
        }
    }
}

/// The tone and the width of the wet sound.
pub struct Leaving {
    shelves: [ShelfTone; SHELVES],
    high_cut: Cut,
    /// How much of its own side and of the other one each side gets.
    own: Ramp,
    other: Ramp,
}

/// How much of itself and of the other side each side gets at a width: as loud at all of them, where the sides are alike in level
/// and have nothing in common.
fn shares(width: f64) -> (f64, f64) {
    let (other, own) = (FRAC_PI_4 * (1.0 - width)).sin_cos();
    (own, other)
}

impl Leaving {
    /// At rest; moves take so many samples.
    #[must_use]
    pub fn new(tone: &ToneOut, rate_hz: f64, frames: usize) -> Self {
        let (own, other) = shares(tone.width);
        Self {
            shelves: tone
                .shelves
                .map(|shelf| ShelfTone::new(shelf.upper, shelf.gain_db, shelf.freq_hz, rate_hz, frames)),
            high_cut: Cut::new(false, tone.high_cut_hz, rate_hz, frames),
            own: Ramp::new(own, frames),
            other: Ramp::new(other, frames),
        }
    }

    /// Moves to other settings.
    pub fn set(&mut self, tone: &ToneOut) {
        for (shelf, to) in self.shelves.iter_mut().zip(tone.shelves) {
            shelf.set(to.gain_db, to.freq_hz);
        }
        self.high_cut.set(tone.high_cut_hz);
        let (own, other) = shares(tone.width);
        self.own.set(own);
        self.other.set(other);
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.shelves.iter_mut().for_each(ShelfTone::reset);
        self.high_cut.reset();
        self.own.settle();
        self.other.settle();
    }

    /// What has to be taken off a sound that is the same on both sides, over so many samples, so that the width leaves it as loud as it is.
    pub fn even(&self, out: &mut [f32]) {
        let (mut own, mut other) = (self.own.clone(), self.other.clone());
        out.iter_mut().for_each(|gain| *gain = cast::sample(1.0 / (own.next_value() + other.next_value())));
    }

    /// Changes a block.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        for shelf in &mut self.shelves {
            shelf.process(left, right);
        }
        self.high_cut.process(left, right);
        if self.own.rests_at(1.0) && self.other.rests_at(0.0) {
            return;
        }
        for (l, r) in left.iter_mut().zip(right) {
            let (own, other) = (cast::sample(self.own.next_value()), cast::sample(self.other.next_value()));
            (*l, *r) = (own * *l + other * *r, own * *r + other * *l);
        }
    }
}
