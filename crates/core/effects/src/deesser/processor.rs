//! The processor: the band, its level, its gain, and the signal with that much of its band taken out.

use super::band::Band;
use super::{Settings, edges_hz};
use crate::dynamics::{Detector, Hearing, KeyCuts, NONE_DB, Speed, Timing, Way, lane_gain_db};
use crate::{Around, Beside, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, Ramp, db_from_linear, larger, linear_from_db};

/// A de-esser for one or two channels, which share one gain.
pub struct DeEsser {
    rate_hz: f64,
    threshold: Ramp,
    knee: Ramp,
    slope: Ramp,
    range: Ramp,
    band: Band,
    detector: Detector,
    timing: Timing,
    late: [Delay; 2],
    /// A key waits as long as the signal.
    key_late: Delay,
    key: Vec<f32>,
    hearing: Hearing,
    bands: [Vec<f32>; 2],
    room: Room,
    frames: usize,
}

struct Room {
    threshold: Vec<f32>,
    knee: Vec<f32>,
    slope: Vec<f32>,
    range: Vec<f32>,
    gain_db: Vec<f32>,
    linear: Vec<f32>,
}

impl DeEsser {
    /// A de-esser at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let block = || vec![0.0; setup.max_block];
        let rest = Speed::new(0.0, 0.0, rate_hz);
        let band = Band::new(setup, edges_hz(settings));
        let late = Delay::new(band.latency());
        let mut deesser = Self {
            rate_hz,
            threshold: ramp(settings.threshold_db),
            knee: ramp(settings.knee_db),
            slope: ramp(1.0 / settings.ratio - 1.0),
            range: ramp(settings.range_db),
            band,
            detector: Detector::new(setup),
            timing: Timing::new(rest, rest, Way::Up),
            key_late: late.clone(),
            key: block(),
            late: [late.clone(), late],
            hearing: Hearing::new(setup, settings.hear, 0, 0),
            bands: [block(), block()],
            room: Room {
                threshold: block(),
                knee: block(),
                slope: block(),
                range: block(),
                gain_db: block(),
                linear: block(),
            },
            frames: 0,
        };
        deesser.take(settings);
        deesser
    }

    fn take(&mut self, settings: &Settings) {
        let down = Speed::new(settings.attack_ms, 0.0, self.rate_hz);
        let up = Speed::new(settings.release_ms, 0.0, self.rate_hz);
        self.timing.set(down, up, 0);
        self.detector
            .set_cuts(KeyCuts { low_hz: settings.key_low_cut_hz, high_hz: settings.key_high_cut_hz });
    }
}

impl Processor for DeEsser {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.threshold.set(settings.threshold_db);
        self.knee.set(settings.knee_db);
        self.slope.set(1.0 / settings.ratio - 1.0);
        self.range.set(settings.range_db);
        self.band.set(edges_hz(&settings));
        self.hearing.set(settings.hear);
        self.take(&settings);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let key = around.sound(0);
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        self.band.process(io, &mut self.bands);
        let [left, right] = &mut self.bands;
        let heard = [&mut left[..n], &mut right[..n]];
        let channels = io.len().min(2);
        let key = key.map(|key| {
            let late = &mut self.key[..n];
            late.copy_from_slice(key.channels()[0]);
            self.key_late.process(late);
            Beside::mono(late)
        });
        self.detector.process(&heard[..channels], key, self.hearing.listens());
        let Room { threshold, knee, slope, range, gain_db, linear } = &mut self.room;
        self.threshold.fill(&mut threshold[..n]);
        self.knee.fill(&mut knee[..n]);
        self.slope.fill(&mut slope[..n]);
        self.range.fill(&mut range[..n]);
        let gain_db = &mut gain_db[..n];
        if let Some(level) = self.detector.levels().next() {
            for (gain, (level, threshold)) in gain_db.iter_mut().zip(level.iter().zip(&*threshold)) {
                *gain = db_from_linear(*level) - threshold;
            }
        }
        for (gain, ((knee, slope), range)) in gain_db.iter_mut().zip(knee.iter().zip(&*slope).zip(&*range)) {
            *gain = larger(lane_gain_db(*gain, *knee, *slope), -range) + NONE_DB;
        }
        self.timing.process(gain_db);
        for (linear, gain) in linear[..n].iter_mut().zip(&*gain_db) {
            *linear = linear_from_db(*gain) - 1.0;
        }
        self.late.iter_mut().zip(io.iter_mut()).for_each(|(late, channel)| late.process(channel));
        self.hearing.keep(io, &self.detector, 0);
        for (channel, band) in io.iter_mut().zip(&self.bands) {
            for (x, (band, share)) in channel.iter_mut().zip(band.iter().zip(&*linear)) {
                *x += share * band;
            }
        }
        self.hearing.finish(io, None, 0);
    }

    fn reset(&mut self) {
        for ramp in [&mut self.threshold, &mut self.knee, &mut self.slope, &mut self.range] {
            ramp.settle();
        }
        self.band.reset();
        self.detector.reset();
        self.timing.reset(0.0);
        self.late.iter_mut().chain([&mut self.key_late]).for_each(Delay::reset);
        self.hearing.reset();
    }

    fn latency(&self) -> usize {
        self.late[0].frames()
    }

    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        self.hearing.lay_under(dry);
    }

    /// Its one band is all that it moves.
    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::GainDb && part < 2).then(|| &self.room.gain_db[..self.frames])
    }
}
