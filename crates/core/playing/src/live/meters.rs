//! Meters: a few numbers per display frame.

use serde::Serialize;

use clear_bend_sound::cast;
use clear_bend_sound::dsp::{energy, peak};

/// Time constant of the level meters, s.
const LEVEL_S: f64 = 0.3;

/// What the meters show. Levels are amplitudes (full scale 1), not dB.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Meters {
    /// Where the loop is, s.
    pub position_s: f64,
    /// Whether sound runs.
    pub playing: bool,
    /// Largest sample before, since the last reading.
    pub before_peak: f32,
    /// Largest sample after (as matched), since the last reading.
    pub after_peak: f32,
    /// RMS before, over about 0.3 s.
    pub before_rms: f32,
    /// RMS after (as matched), over about 0.3 s.
    pub after_rms: f32,
    /// Largest gain reduction of the path since the last reading, dB (0 or negative).
    pub gain_db: f32,
    /// Largest sample of what is heard, before the safety limiter, since the last reading.
    pub heard_peak: f32,
    /// Largest sample before, and after as it leaves its path, not matched, since the last reading.
    pub own_peak: f32,
}

impl Meters {
    /// How many numbers they are.
    pub const COUNT: usize = 9;

    /// The numbers by their names, in the order in which a reader without text gets them.
    #[must_use]
    pub fn named(&self) -> [(&'static str, f32); Self::COUNT] {
        [
            ("position_s", cast::sample(self.position_s)),
            ("playing", f32::from(u8::from(self.playing))),
            ("before_peak", self.before_peak),
            ("after_peak", self.after_peak),
            ("before_rms", self.before_rms),
            ("after_rms", self.after_rms),
            ("gain_db", self.gain_db),
            ("heard_peak", self.heard_peak),
            ("own_peak", self.own_peak),
        ]
    }
}

/// Collects what the meters show.
pub(super) struct Metering {
    fall: f64,
    before_square: f64,
    after_square: f64,
    now: Meters,
}

impl Metering {
    pub fn new(rate_hz: u32) -> Self {
        let fall = (-1.0 / (LEVEL_S * f64::from(rate_hz))).exp();
        Self { fall, before_square: 0.0, after_square: 0.0, now: Meters::default() }
    }

    /// Takes in one block of before, of after with the gain by which it is matched, and of what is heard.
    pub fn see(&mut self, before: [&[f32]; 2], (after, gain): ([&[f32]; 2], f32), heard: [&[f32]; 2]) {
        let larger_of = |earlier: f32, [left, right]: [&[f32]; 2]| earlier.max(peak(left)).max(peak(right));
        self.now.before_peak = larger_of(self.now.before_peak, before);
        self.now.after_peak = larger_of(self.now.after_peak, after);
        self.now.heard_peak = larger_of(self.now.heard_peak, heard);
        let own = self.now.before_peak.max(larger_of(0.0, after) / gain.max(f32::MIN_POSITIVE));
        self.now.own_peak = self.now.own_peak.max(own);
        let fall = self.fall.powf(cast::real(before[0].len()));
        self.before_square = fall * self.before_square + (1.0 - fall) * mean_square(before);
        self.after_square = fall * self.after_square + (1.0 - fall) * mean_square(after);
    }

    pub fn see_gain(&mut self, gain_db: f32) {
        self.now.gain_db = self.now.gain_db.min(gain_db);
    }

    /// Lets the levels fall while nothing plays.
    pub fn rest(&mut self, frames: usize) {
        let fall = self.fall.powf(cast::real(frames));
        // Below -300 dBFS nothing is left to show, and denormal numbers would be next.
        let fallen = |square: f64| if square < 1e-30 { 0.0 } else { fall * square };
        self.before_square = fallen(self.before_square);
        self.after_square = fallen(self.after_square);
    }

    pub fn read(&mut self, position_s: f64, playing: bool) -> Meters {
        let before_rms = cast::sample(self.before_square.sqrt());
        let after_rms = cast::sample(self.after_square.sqrt());
        let now = std::mem::take(&mut self.now);
        Meters { position_s, playing, before_rms, after_rms, ..now }
    }
}

fn mean_square(channels: [&[f32]; 2]) -> f64 {
    let frames = cast::real(channels[0].len().max(1));
    channels.into_iter().map(energy).sum::<f64>() / (2.0 * frames)
}
