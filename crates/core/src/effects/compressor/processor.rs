//! The processor: level, curve, smoother, gain, each as one plain loop over the block.

use super::curve::lane_gain_db;
use super::{Settings, StaticCurve};
use crate::cast;
use crate::dsp::{LOG2_TO_DB, Ramp, SlidingMax, exp2, larger, log2};
use crate::effects::{MOVE_S, Processor, Setup};

/// The detector holds the largest sample of this time, so that any tone above 500 Hz reads as a steady
/// level. Below, the gain follows the wave if attack and release let it: the distortion of a bass by
/// short times, which is a fact of the trade.
const DETECTOR_S: f64 = 0.001;

/// No reduction is taken as this much, in dB: far too little to change a sample, and enough to keep the
/// smoother away from denormal numbers.
const NONE_DB: f32 = -1e-12;

/// Levels under this (-200 dBFS) read as this: keeps the logarithm finite.
const SMALLEST_LEVEL: f32 = 1e-10;

/// A compressor for one or two channels; two share one detector, the louder of both.
pub struct Compressor {
    rate_hz: f64,
    threshold: Ramp,
    knee: Ramp,
    slope: Ramp,
    makeup: Ramp,
    attack: f64,
    release: f64,
    detector: SlidingMax,
    /// The smoothed gain, dB.
    gain_db: f64,
    scratch: Scratch,
    /// Frames of the last block.
    frames: usize,
}

/// One block of each quantity on the way from level to gain.
struct Scratch {
    level: Vec<f32>,
    threshold: Vec<f32>,
    knee: Vec<f32>,
    slope: Vec<f32>,
    makeup: Vec<f32>,
    gain_db: Vec<f32>,
}

impl Compressor {
    /// A compressor at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let curve = StaticCurve::from(settings);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let block = || vec![0.0; setup.max_block];
        let rate_hz = f64::from(setup.rate_hz);
        Self {
            rate_hz,
            threshold: ramp(curve.threshold_db),
            knee: ramp(curve.knee_db),
            slope: ramp(curve.slope),
            makeup: ramp(settings.makeup_db),
            attack: share_per_sample(settings.attack_ms, rate_hz),
            release: share_per_sample(settings.release_ms, rate_hz),
            // Half a wave of 500 Hz, counted at both ends.
            detector: SlidingMax::new(cast::frames(DETECTOR_S, setup.rate_hz) + 1, setup.max_block),
            gain_db: 0.0,
            scratch: Scratch {
                level: block(),
                threshold: block(),
                knee: block(),
                slope: block(),
                makeup: block(),
                gain_db: block(),
            },
            frames: 0,
        }
    }
}

/// The share of the remaining way that a one-pole smoother covers in one sample: 1 - exp(-1/(t fs)), so
/// that the time t is the time to 63.2 % (same source, section 2.3).
fn share_per_sample(time_ms: f64, rate_hz: f64) -> f64 {
    -(-1.0 / (time_ms / 1000.0 * rate_hz)).exp_m1()
}

impl Processor for Compressor {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        let curve = StaticCurve::from(&settings);
        self.threshold.set(curve.threshold_db);
        self.knee.set(curve.knee_db);
        self.slope.set(curve.slope);
        self.makeup.set(settings.makeup_db);
        // The smoothed gain is continuous whatever its speed: no ramp needed.
        self.attack = share_per_sample(settings.attack_ms, self.rate_hz);
        self.release = share_per_sample(settings.release_ms, self.rate_hz);
    }

    fn process(&mut self, io: &mut [&mut [f32]]) {
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        let level = &mut self.scratch.level[..n];
        let threshold = &mut self.scratch.threshold[..n];
        let knee = &mut self.scratch.knee[..n];
        let slope = &mut self.scratch.slope[..n];
        let makeup = &mut self.scratch.makeup[..n];
        let gain_db = &mut self.scratch.gain_db[..n];
        self.threshold.fill(threshold);
        self.knee.fill(knee);
        self.slope.fill(slope);
        self.makeup.fill(makeup);

        level.fill(SMALLEST_LEVEL);
        for channel in io.iter() {
            for (level, x) in level.iter_mut().zip(channel.iter()) {
                *level = larger(*level, x.abs());
            }
        }
        self.detector.process(level);
        for (gain, (level, threshold)) in gain_db.iter_mut().zip(level.iter().zip(&*threshold)) {
            *gain = LOG2_TO_DB * log2(larger(*level, SMALLEST_LEVEL)) - threshold;
        }
        for (gain, (knee, slope)) in gain_db.iter_mut().zip(knee.iter().zip(&*slope)) {
            *gain = lane_gain_db(*gain, *knee, *slope) + NONE_DB;
        }

        let (attack, release, mut smoothed) = (self.attack, self.release, self.gain_db);
        for gain in gain_db.iter_mut() {
            let way = f64::from(*gain) - smoothed;
            // Both products are ready when the sign is known: this loop waits for itself at every sample.
            smoothed += if way < 0.0 { way * attack } else { way * release };
            *gain = cast::sample(smoothed);
        }
        self.gain_db = smoothed;

        // The level is read; its room takes the linear gain.
        for (linear, (gain, makeup)) in level.iter_mut().zip(gain_db.iter().zip(&*makeup)) {
            *linear = exp2((gain + makeup) / LOG2_TO_DB);
        }
        for channel in io.iter_mut() {
            for (x, linear) in channel.iter_mut().zip(&*level) {
                *x *= linear;
            }
        }
    }

    fn reset(&mut self) {
        for ramp in [&mut self.threshold, &mut self.knee, &mut self.slope, &mut self.makeup] {
            ramp.settle();
        }
        self.detector.reset();
        self.gain_db = 0.0;
    }

    fn gain_db(&self) -> Option<&[f32]> {
        Some(&self.scratch.gain_db[..self.frames])
    }
}
