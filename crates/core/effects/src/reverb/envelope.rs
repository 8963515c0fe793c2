//! The wet sound rises and falls after every onset of the dry one.

use clear_bend_sound::cast;

/// A peak is an onset where it is over so many times what came before.
const RISES_BY: f64 = 2.0;
/// How fast what came before is forgotten, s.
const FORGETS_S: f64 = 0.05;
/// No onset is quieter than this, linear (-60 dBFS).
const QUIETEST: f64 = 1e-3;
/// The next onset comes this much later at the earliest, s.
const APART_S: f64 = 0.05;
/// The share of the time to the end over which the sound falls; before, it stands.
const FALLS_OVER: f64 = 0.3;
/// The gain follows by this time constant, s, so that it never jumps.
const FOLLOWS_S: f64 = 0.003;

/// A gain over the time since the last onset.
pub struct Envelope {
    rate_hz: f64,
    rise_s: f64,
    fall_s: f64,
    before: f64,
    since: usize,
    /// Whether there has been an onset at all.
    begun: bool,
    gain: f64,
    forgets: f64,
    follows: f64,
}

impl Envelope {
    /// At rest; times in ms, 0 where there is none.
    #[must_use]
    pub fn new(rate_hz: f64, rise_ms: f64, fall_ms: f64) -> Self {
        let share = |seconds: f64| 1.0 - (-1.0 / (seconds * rate_hz)).exp();
        let mut envelope = Self {
            rate_hz,
            rise_s: rise_ms / 1000.0,
            fall_s: fall_ms / 1000.0,
            before: 0.0,
            since: 0,
            begun: false,
            gain: 1.0,
            forgets: share(FORGETS_S),
            follows: share(FOLLOWS_S),
        };
        envelope.reset();
        envelope
    }

    /// Moves to other times, ms.
    pub fn set(&mut self, rise_ms: f64, fall_ms: f64) {
        (self.rise_s, self.fall_s) = (rise_ms / 1000.0, fall_ms / 1000.0);
    }

    /// Forgets all onsets.
    pub fn reset(&mut self) {
        (self.before, self.since, self.begun) = (0.0, 0, false);
        self.gain = self.wanted();
    }

    fn is_off(&self) -> bool {
        self.rise_s == 0.0 && self.fall_s == 0.0
    }

    /// The gain at the time since the last onset. A rise is that of a raised cosine, and so is the end of a fall.
    fn wanted(&self) -> f64 {
        let since_s = cast::real(self.since) / self.rate_hz;
        let rounded = |share: f64| 0.5 - 0.5 * (std::f64::consts::PI * share.clamp(0.0, 1.0)).cos();
        let rise = if self.rise_s == 0.0 {
            1.0
        } else if self.begun {
            rounded(since_s / self.rise_s)
        } else {
            0.0
        };
        let fall = if self.fall_s == 0.0 || !self.begun {
            1.0
        } else {
            rounded((self.fall_s - since_s) / (FALLS_OVER * self.fall_s))
        };
        rise * fall
    }

    /// Multiplies a block by the gain that the dry sound, as it enters, asks for.
    pub fn process(&mut self, dry: [&[f32]; 2], wet: [&mut [f32]; 2]) {
        let [left, right] = wet;
        for (((l, r), wet_l), wet_r) in dry[0].iter().zip(dry[1]).zip(left).zip(right) {
            let peak = f64::from(l.abs().max(r.abs()));
            let apart = cast::real(self.since) >= APART_S * self.rate_hz || !self.begun;
            if peak > QUIETEST && peak > RISES_BY * self.before && apart {
                (self.since, self.begun) = (0, true);
            }
            self.before =
                if peak > self.before { peak } else { self.before + self.forgets * (peak - self.before) };
            self.gain = match self.is_off() {
                true if (1.0 - self.gain).abs() < 1e-6 => 1.0,
                true => self.gain + self.follows * (1.0 - self.gain),
                false => self.gain + self.follows * (self.wanted() - self.gain),
            };
            self.since = self.since.saturating_add(1);
            *wet_l = cast::sample(self.gain * f64::from(*wet_l));
            *wet_r = cast::sample(self.gain * f64::from(*wet_r));
        }
    }
}
