//! Attack, hold and release: a gain in dB that takes its time.

use clear_bend_sound::cast;
use clear_bend_sound::dsp::{exp2, log2};

/// How fast a gain moves one way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Speed {
    /// Power of the way that is left in the speed: 1 is the exponential, 0 a straight line, 2 a long tail.
    power: f64,
    /// The share of the way that is left which one sample covers, at the start of a step.
    share: f64,
    /// The exponent of that: -ln(1 - share).
    rate: f64,
}

impl Speed {
    /// A time in milliseconds and a shape from -1, abrupt, over 0, exponential, to 1, drawn-out.
    ///
    /// The exponential is the one-pole smoother of JAES 60(6), section 2.3: 1 - exp(-1/(t fs)). The other shapes are
    /// ours: the way u that is left of a step falls as du/dt = -c u^(1 + shape), with c such that u reaches 1/e at
    /// the same time t for every shape: c t = (1 - e^shape) / -shape, which is 1 for the exponential. The last
    /// twentieth of a drawn-out way is an exponential.
    #[must_use]
    pub fn new(time_ms: f64, shape: f64, rate_hz: f64) -> Self {
        let c = if shape == 0.0 { 1.0 } else { shape.exp_m1() / shape };
        let rate = c / (time_ms / 1000.0 * rate_hz);
        Self { power: 1.0 + shape, share: -(-rate).exp_m1(), rate }
    }

    /// The step of a way, of which `span` was the whole.
    #[inline]
    fn step(&self, way: f64, span: f64) -> f64 {
        if self.power == 1.0 {
            return way * self.share;
        }
        // The last twentieth of a drawn-out way is an exponential, so that the gain does arrive.
        let least = if self.power > 1.0 { 0.05 } else { 1e-6 };
        let left = cast::sample((way / span).abs().clamp(least, 1.0));
        let slower = f64::from(exp2(cast::sample(self.power - 1.0) * log2(left)));
        -way * (-self.rate * slower).exp_m1()
    }
}

/// A gain in dB that follows its target with one speed down and another one up.
#[derive(Debug, Clone)]
pub struct Timing {
    down: Speed,
    up: Speed,
    /// Samples for which the gain waits before it moves in the held direction.
    hold: usize,
    held_way: Way,
    /// Samples that it has still to wait.
    waits: usize,
    gain_db: f64,
    /// The direction of the latest move, and the longest way since it began.
    way: Way,
    span: f64,
}

/// A direction of the gain.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// The gain falls.
    Down,
    /// The gain rises.
    Up,
}

/// The gain counts as on its way when it has this far to go, dB.
const NOTICED_DB: f64 = 0.01;

impl Timing {
    /// A gain at rest at 0 dB, which waits before it moves in the held direction, the first time as well.
    #[must_use]
    pub fn new(down: Speed, up: Speed, held_way: Way) -> Self {
        Self { down, up, hold: 0, held_way, waits: usize::MAX, gain_db: 0.0, way: Way::Up, span: 0.0 }
    }

    /// Takes other speeds. The gain is continuous whatever its speed.
    pub fn set(&mut self, down: Speed, up: Speed, hold_samples: usize) {
        (self.down, self.up, self.hold) = (down, up, hold_samples);
        self.waits = self.waits.min(hold_samples);
    }

    /// Back to rest at a gain.
    pub fn reset(&mut self, gain_db: f64) {
        (self.gain_db, self.waits, self.span) = (gain_db, self.hold, 0.0);
    }

    /// Takes over the state of another one.
    pub fn follow(&mut self, other: &Self) {
        (self.waits, self.gain_db, self.way, self.span) = (other.waits, other.gain_db, other.way, other.span);
    }

    /// The present gain, dB.
    #[must_use]
    pub fn gain_db(&self) -> f64 {
        self.gain_db
    }

    /// Replaces target gains by the gain that follows them.
    pub fn process(&mut self, gain_db: &mut [f32]) {
        let plain = self.hold == 0 && self.down.power == 1.0 && self.up.power == 1.0;
        if plain {
            let (down, up, mut smoothed) = (self.down.share, self.up.share, self.gain_db);
            for gain in gain_db.iter_mut() {
                let way = f64::from(*gain) - smoothed;
                // Both products are ready when the sign is known: this loop waits for itself at every sample.
                smoothed += if way < 0.0 { way * down } else { way * up };
                *gain = cast::sample(smoothed);
            }
            self.gain_db = smoothed;
        } else {
            for gain in gain_db.iter_mut() {
                *gain = self.step(*gain, 1.0);
            }
        }
    }

    /// The same with a factor for the time of the rise at every sample.
    pub fn process_scaled(&mut self, gain_db: &mut [f32], rise: &[f32]) {
        for (gain, rise) in gain_db.iter_mut().zip(rise) {
            *gain = self.step(*gain, f64::from(*rise));
        }
    }

    fn step(&mut self, target_db: f32, rise: f64) -> f32 {
        let way = f64::from(target_db) - self.gain_db;
        let direction = if way < 0.0 { Way::Down } else { Way::Up };
        if direction != self.held_way {
            if self.waits > 0 || way.abs() > NOTICED_DB {
                self.waits = self.hold;
            }
        } else if self.waits > 0 {
            // A wait that was not over begins anew once the target has come back.
            self.waits = if way.abs() > NOTICED_DB { self.waits - 1 } else { self.hold };
            return cast::sample(self.gain_db);
        }
        self.span = if direction == self.way { self.span.max(way.abs()) } else { way.abs() };
        self.way = direction;
        if self.span > 0.0 {
            self.gain_db += match direction {
                Way::Down => self.down.step(way, self.span),
                Way::Up if rise == 1.0 => self.up.step(way, self.span),
                Way::Up => self.up.scaled(rise).step(way, self.span),
            };
        }
        cast::sample(self.gain_db)
    }
}

impl Speed {
    /// The same with its time multiplied.
    fn scaled(&self, factor: f64) -> Self {
        let rate = self.rate / factor;
        Self { rate, share: -(-rate).exp_m1(), ..*self }
    }
}
