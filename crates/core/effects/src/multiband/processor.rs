//! The processor: crossovers, one compressor for each band, their sum.

use super::{MOST_BANDS, Settings};
use crate::dynamics::{Detector, KeyCuts, NONE_DB, Speed, Split, Timing, Way, lane_gain_db};
use crate::{Around, Beside, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::audio::stretch;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, Ramp, StateVariable, db_from_linear, linear_from_db, smaller};

/// Crossovers move in steps of so many samples: their corners cost a tangent each.
const CORNER_STEP: usize = 16;

/// For how long a crossover rings, in periods of its frequency.
const RINGS_PERIODS: f64 = 3.0;

/// The fade around another number of bands, s.
const FADE_S: f64 = 0.01;

/// A multiband compressor for one or two channels, which share the gain of each band.
pub struct Multiband {
    rate_hz: f64,
    count: usize,
    wanted_count: usize,
    /// Closes while the number of bands changes.
    gate: Ramp,
    /// Base-two logarithms of the crossovers in Hz.
    crossovers: [Ramp; MOST_BANDS - 1],
    corners: [Corner; MOST_BANDS - 1],
    corner_age: usize,
    filters: [Filters; 2],
    knee: Ramp,
    /// Hears the key through its cuts, or what comes in, for the ear.
    key: Detector,
    /// Share of that in what is heard.
    key_share: Ramp,
    bands: Vec<Band>,
    room: Room,
    frames: usize,
}

/// The filters of one channel: the crossovers from the lowest up, and for every band the all-passes of those above.
#[derive(Clone, Default)]
struct Filters {
    splits: [Split; MOST_BANDS - 1],
    all_passes: [[StateVariable; MOST_BANDS - 1]; MOST_BANDS],
}

/// One band.
struct Band {
    threshold: Ramp,
    slope: Ramp,
    gain: Ramp,
    /// Share of the band in what is heard.
    heard: Ramp,
    detector: Detector,
    timing: Timing,
    signal: [Vec<f32>; 2],
    gain_db: Vec<f32>,
}

struct Room {
    /// The bands as they are heard, before their gains: what lies under the compressed ones, in phase with them.
    under: [Vec<f32>; 2],
    threshold: Vec<f32>,
    slope: Vec<f32>,
    knee: Vec<f32>,
    linear: Vec<f32>,
    deepest_db: Vec<f32>,
}

impl Multiband {
    /// A multiband compressor at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let block = || vec![0.0; setup.max_block];
        let rest = Speed::new(0.0, 0.0, rate_hz);
        let band = |i: usize| {
            let band = settings.by_band()[i];
            Band {
                threshold: ramp(band.threshold_db),
                slope: ramp(1.0 / band.ratio - 1.0),
                gain: ramp(band.gain_db),
                heard: ramp(heard(settings, i)),
                detector: Detector::new(setup),
                timing: Timing::new(rest, rest, Way::Up),
                signal: [block(), block()],
                gain_db: block(),
            }
        };
        let mut multiband = Self {
            rate_hz,
            count: settings.band_count(),
            wanted_count: settings.band_count(),
            gate: Ramp::new(1.0, cast::frames(FADE_S, setup.rate_hz)),
            crossovers: settings.crossovers_hz().map(|hz| ramp(hz.log2())),
            corners: settings.crossovers_hz().map(|hz| Corner::butterworth(hz, rate_hz)),
            corner_age: 0,
            filters: Default::default(),
            knee: ramp(settings.knee_db),
            key: Detector::new(setup),
            key_share: ramp(key_heard(settings)),
            bands: (0..MOST_BANDS).map(band).collect(),
            room: Room {
                under: [block(), block()],
                threshold: block(),
                slope: block(),
                knee: block(),
                linear: block(),
                deepest_db: block(),
            },
            frames: 0,
        };
        multiband.take(settings);
        multiband
    }

    fn take(&mut self, settings: &Settings) {
        self.key.set_cuts(KeyCuts { low_hz: settings.key_low_cut_hz, high_hz: settings.key_high_cut_hz });
        for (band, settings) in self.bands.iter_mut().zip(settings.by_band()) {
            let down = Speed::new(settings.attack_ms, 0.0, self.rate_hz);
            let up = Speed::new(settings.release_ms, 0.0, self.rate_hz);
            band.timing.set(down, up, 0);
        }
    }

    /// Splits every channel into its bands.
    fn split(&mut self, io: &[&mut [f32]], n: usize) {
        let crossings = self.count - 1;
        let mut done = 0;
        while done < n {
            let moving = self.crossovers[..crossings].iter().any(|ramp| ramp.left() > 0);
            if self.corner_age == 0 && moving {
                for (corner, crossover) in self.corners.iter_mut().zip(&mut self.crossovers) {
                    crossover.skip(CORNER_STEP);
                    *corner = Corner::butterworth(crossover.value().exp2(), self.rate_hz);
                }
            }
            let run = (CORNER_STEP - self.corner_age).min(n - done);
            for (channel, x) in io.iter().enumerate().take(2) {
                let Filters { splits, all_passes } = &mut self.filters[channel];
                for i in done..done + run {
                    let mut rest = f64::from(x[i]);
                    for band in 0..crossings {
                        let (mut low, high) = splits[band].step(&self.corners[band], rest);
                        let above =
                            all_passes[band].iter_mut().zip(&self.corners).take(crossings).skip(band + 1);
                        for (all_pass, corner) in above {
                            low = all_pass.step(corner, low).all;
                        }
                        self.bands[band].signal[channel][i] = cast::sample(low);
                        rest = high;
                    }
                    self.bands[crossings].signal[channel][i] = cast::sample(rest);
                }
            }
            self.corner_age = (self.corner_age + run) % CORNER_STEP;
            done += run;
        }
    }

    /// One block with the present number of bands.
    fn run(&mut self, io: &mut [&mut [f32]], key: Option<Beside>, from: usize) {
        let n = io.first().map_or(0, |c| c.len());
        let listens = !self.key_share.rests_at(0.0);
        if key.is_some() || listens {
            self.key.process(io, key, true);
        }
        self.split(io, n);
        let channels = io.len().min(2);
        let Room { under, threshold, slope, knee, linear, deepest_db } = &mut self.room;
        self.knee.fill(&mut knee[..n]);
        io.iter_mut().for_each(|channel| channel.fill(0.0));
        under.iter_mut().for_each(|under| under[from..from + n].fill(0.0));
        let deepest_db = &mut deepest_db[from..from + n];
        deepest_db.fill(0.0);
        for band in &mut self.bands[..self.count] {
            let [left, right] = &mut band.signal;
            let signal = [&mut left[..n], &mut right[..n]];
            band.detector.process(&signal[..channels], key.map(|_| Beside::mono(self.key.heard(0))), false);
            band.threshold.fill(&mut threshold[..n]);
            band.slope.fill(&mut slope[..n]);
            let gain_db = &mut band.gain_db[from..from + n];
            if let Some(level) = band.detector.levels().next() {
                for (gain, (level, threshold)) in gain_db.iter_mut().zip(level.iter().zip(&*threshold)) {
                    *gain = db_from_linear(*level) - threshold;
                }
            }
            for (gain, (knee, slope)) in gain_db.iter_mut().zip(knee.iter().zip(&*slope)) {
                *gain = lane_gain_db(*gain, *knee, *slope) + NONE_DB;
            }
            band.timing.process(gain_db);
            for (linear, gain) in linear[..n].iter_mut().zip(&*gain_db) {
                *linear = linear_from_db(gain + cast::sample(band.gain.next_value()));
            }
            if band.heard.rests_at(1.0) {
                for (under, signal) in under.iter_mut().zip(&band.signal).take(channels) {
                    under[from..from + n].iter_mut().zip(signal).for_each(|(x, signal)| *x += signal);
                }
            } else {
                let moves = band.heard.clone();
                for (under, signal) in under.iter_mut().zip(&band.signal).take(channels) {
                    band.heard = moves.clone();
                    for (x, signal) in under[from..from + n].iter_mut().zip(signal) {
                        *x += cast::sample(band.heard.next_value()) * signal;
                    }
                }
                band.heard = moves;
                linear[..n].iter_mut().for_each(|x| *x *= cast::sample(band.heard.next_value()));
            }
            for (deepest, gain) in deepest_db.iter_mut().zip(&*gain_db) {
                *deepest = smaller(*deepest, *gain);
            }
            for (channel, signal) in io.iter_mut().zip(&band.signal) {
                for (x, (signal, linear)) in channel.iter_mut().zip(signal.iter().zip(&*linear)) {
                    *x += signal * linear;
                }
            }
        }
        if listens {
            let moves = self.key_share.clone();
            for (i, channel) in io.iter_mut().enumerate() {
                self.key_share = moves.clone();
                let both = channel.iter_mut().zip(&mut under[i][from..from + n]);
                for ((x, under), heard) in both.zip(self.key.heard(i)) {
                    let heard = cast::sample(self.key_share.next_value()) * heard;
                    (*x, *under) = (*x + heard, *under + heard);
                }
            }
        }
        for band in &mut self.bands[self.count..] {
            band.gain_db[from..from + n].fill(0.0);
        }
        if !self.gate.rests_at(1.0) {
            let moves = self.gate.clone();
            for under in &mut under[..channels] {
                self.gate = moves.clone();
                self.gate.scale(&mut [&mut under[from..from + n]]);
            }
            self.gate = moves;
            self.gate.scale(io);
        }
    }
}

/// The choice of what the detectors hear.
const HEAR_KEY: usize = MOST_BANDS + 1;

fn key_heard(settings: &Settings) -> f64 {
    f64::from(u8::from(cast::count(settings.hear) == HEAR_KEY))
}

fn heard(settings: &Settings, band: usize) -> f64 {
    let hear = cast::count(settings.hear);
    f64::from(u8::from(hear == 0 || hear == band + 1))
}

impl Processor for Multiband {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.wanted_count = settings.band_count();
        for (ramp, hz) in self.crossovers.iter_mut().zip(settings.crossovers_hz()) {
            ramp.set(hz.log2());
        }
        self.knee.set(settings.knee_db);
        if key_heard(&settings) == 1.0 && self.key_share.rests_at(0.0) {
            // It may have rested; now it begins anew.
            self.key.reset();
        }
        self.key_share.set(key_heard(&settings));
        for (i, (band, of_band)) in self.bands.iter_mut().zip(settings.by_band()).enumerate() {
            band.threshold.set(of_band.threshold_db);
            band.slope.set(1.0 / of_band.ratio - 1.0);
            band.gain.set(of_band.gain_db);
            band.heard.set(heard(&settings, i));
        }
        self.take(&settings);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let key = around.sound(0);
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        let mut done = 0;
        while done < n {
            self.gate.set(if self.count == self.wanted_count { 1.0 } else { 0.0 });
            if self.gate.rests_at(0.0) {
                self.count = self.wanted_count;
                self.filters = Default::default();
                self.gate.set(1.0);
            }
            // A fade ends within the block where it ends.
            let moving = self.gate.left();
            let run = if moving > 0 { moving.min(n - done) } else { n - done };
            let key = key.map(|key| key.part(done..done + run));
            stretch(io, done..done + run, |io| self.run(io, key, done));
            done += run;
        }
    }

    fn reset(&mut self) {
        self.count = self.wanted_count;
        self.gate = Ramp::new(1.0, self.gate.length());
        self.crossovers.iter_mut().for_each(Ramp::settle);
        for (corner, crossover) in self.corners.iter_mut().zip(&self.crossovers) {
            *corner = Corner::butterworth(crossover.value().exp2(), self.rate_hz);
        }
        self.corner_age = 0;
        self.filters = Default::default();
        self.knee.settle();
        self.key.reset();
        self.key_share.settle();
        for band in &mut self.bands {
            for ramp in [&mut band.threshold, &mut band.slope, &mut band.gain, &mut band.heard] {
                ramp.settle();
            }
            band.detector.reset();
            band.timing.reset(0.0);
        }
    }

    /// The bands add up to an all-pass: only what has gone through it, too, adds up with them.
    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        for (dry, under) in dry.iter_mut().zip(&self.room.under) {
            let n = dry.len();
            dry.copy_from_slice(&under[..n]);
        }
    }

    /// Two Butterworth filters of the lowest crossover fall by 60 dB within three of its periods.
    fn tail(&self) -> usize {
        let lowest_hz = self.crossovers[0].value().exp2();
        if self.count > 1 { cast::count(RINGS_PERIODS / lowest_hz * self.rate_hz) } else { 0 }
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        let bands = self.bands[..self.count].iter().map(|band| &band.gain_db);
        let gain_db = std::iter::once(&self.room.deepest_db).chain(bands).nth(part);
        gain_db.filter(|_| quantity == Quantity::GainDb).map(|gain_db| &gain_db[..self.frames])
    }
}
