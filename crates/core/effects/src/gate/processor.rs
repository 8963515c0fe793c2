//! The processor: level, open or closed, gain.

use super::Settings;
use crate::dynamics::{Detector, Hearing, KeyCuts, Speed, Timing, Way};
use crate::{Around, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Ramp, db_from_linear, larger, linear_from_db};

/// A gate for one or two channels, which open and close together.
pub struct Gate {
    rate_hz: f64,
    threshold: Ramp,
    hysteresis: Ramp,
    range: Ramp,
    slope: Ramp,
    detector: Detector,
    open: bool,
    timing: Timing,
    hearing: Hearing,
    room: Room,
    frames: usize,
}

struct Room {
    threshold: Vec<f32>,
    hysteresis: Vec<f32>,
    range: Vec<f32>,
    slope: Vec<f32>,
    gain_db: Vec<f32>,
    linear: Vec<f32>,
}

/// From this ratio on, the gain is the whole range as soon as the level is under the threshold: 1 dB under it would
/// be more than any range.
const STEEPEST: f64 = 1e4;

impl Gate {
    /// A gate at these settings. It begins open, and closes at its own pace where nothing comes: what has not been heard
    /// yet is not held back.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let block = || vec![0.0; setup.max_block];
        let rest = Speed::new(0.0, 0.0, rate_hz);
        let mut gate = Self {
            rate_hz,
            threshold: ramp(settings.threshold_db),
            hysteresis: ramp(settings.hysteresis_db),
            range: ramp(settings.range_db),
            slope: ramp(settings.ratio.min(STEEPEST) - 1.0),
            detector: Detector::new(setup),
            open: false,
            timing: Timing::new(rest, rest, Way::Down),
            hearing: Hearing::new(setup, settings.hear, 0, 0),
            room: Room {
                threshold: block(),
                hysteresis: block(),
                range: block(),
                slope: block(),
                gain_db: block(),
                linear: block(),
            },
            frames: 0,
        };
        gate.take(settings);
        gate
    }

    fn take(&mut self, settings: &Settings) {
        // A gate that opens attacks; one that closes releases.
        let open = Speed::new(settings.attack_ms, 0.0, self.rate_hz);
        let close = Speed::new(settings.release_ms, 0.0, self.rate_hz);
        self.timing.set(close, open, cast::count(settings.hold_ms / 1000.0 * self.rate_hz));
        self.detector
            .set_cuts(KeyCuts { low_hz: settings.key_low_cut_hz, high_hz: settings.key_high_cut_hz });
    }
}

impl Processor for Gate {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.threshold.set(settings.threshold_db);
        self.hysteresis.set(settings.hysteresis_db);
        self.range.set(settings.range_db);
        self.slope.set(settings.ratio.min(STEEPEST) - 1.0);
        self.hearing.set(settings.hear);
        self.take(&settings);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let key = around.sound(0);
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        self.detector.process(io, key, self.hearing.listens());
        let Room { threshold, hysteresis, range, slope, gain_db, linear } = &mut self.room;
        self.threshold.fill(&mut threshold[..n]);
        self.hysteresis.fill(&mut hysteresis[..n]);
        self.range.fill(&mut range[..n]);
        self.slope.fill(&mut slope[..n]);
        let gain_db = &mut gain_db[..n];
        if let Some(level) = self.detector.levels().next() {
            for (gain, level) in gain_db.iter_mut().zip(level) {
                *gain = db_from_linear(*level);
            }
        }
        let mut open = self.open;
        let values = threshold.iter().zip(&*hysteresis).zip(range.iter().zip(&*slope));
        for (gain, ((threshold, hysteresis), (range, slope))) in gain_db.iter_mut().zip(values) {
            let over = *gain - threshold;
            open = if open { over >= -hysteresis } else { over >= 0.0 };
            let under = if open { 0.0 } else { larger(-over, 0.0) };
            *gain = larger(-under * slope, -range);
        }
        self.open = open;
        self.timing.process(gain_db);
        for (linear, gain) in linear[..n].iter_mut().zip(&*gain_db) {
            *linear = linear_from_db(*gain);
        }
        self.hearing.keep(io, &self.detector, 0);
        for channel in io.iter_mut() {
            channel.iter_mut().zip(&*linear).for_each(|(x, linear)| *x *= linear);
        }
        self.hearing.finish(io, None, 0);
    }

    fn reset(&mut self) {
        for ramp in [&mut self.threshold, &mut self.hysteresis, &mut self.range, &mut self.slope] {
            ramp.settle();
        }
        self.detector.reset();
        self.open = false;
        self.timing.reset(0.0);
        self.hearing.reset();
    }

    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        self.hearing.lay_under(dry);
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::GainDb && part == 0).then(|| &self.room.gain_db[..self.frames])
    }
}
