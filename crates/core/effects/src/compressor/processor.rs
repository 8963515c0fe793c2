//! The processor: level, curve, timing, gain, each as one plain loop over the block.

use super::super::dynamics::StaticCurve;
use super::crest::Crest;
use super::curve::makeup_db;
use super::guard::Guard;
use super::settings::{LOOKAHEAD_MS, Settings};
use crate::dynamics::{
    Detector, Hearing, KeyCuts, NONE_DB, Rounder, Speed, Timing, Way, drive, lane_gain_db,
};
use crate::{Around, Beside, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::audio::stretch;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Delay, MovedDelay, Ramp, db_from_linear, larger, linear_from_db};

/// A compressor for one or two channels.
pub struct Compressor {
    rate_hz: f64,
    /// dB, in the order in which they act.
    drive: Ramp,
    threshold: Ramp,
    knee: Ramp,
    slope: Ramp,
    range: Ramp,
    makeup: Ramp,
    detector: Detector,
    lookahead: [MovedDelay; 2],
    guard: Guard,
    crest: [Crest; 2],
    auto_release: bool,
    timing: [Timing; 2],
    late: [Delay; 2],
    hearing: Hearing,
    rounder: Rounder,
    room: Room,
    /// The reported gain waits for the rounder.
    gain_late: Delay,
    frames: usize,
}

/// One block of each quantity on the way from level to gain.
struct Room {
    drive: Vec<f32>,
    threshold: Vec<f32>,
    knee: Vec<f32>,
    slope: Vec<f32>,
    range: Vec<f32>,
    makeup: Vec<f32>,
    openness: Vec<f32>,
    release: Vec<f32>,
    /// Gain in dB per lane, then linear.
    lanes: [Vec<f32>; 2],
    gain_db: Vec<f32>,
}

impl Compressor {
    /// A compressor at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let curve = StaticCurve::from(settings);
        let rate_hz = f64::from(setup.rate_hz);
        let fade = cast::frames(MOVE_S, setup.rate_hz);
        let ramp = |value| Ramp::new(value, fade);
        let block = || vec![0.0; setup.max_block];
        let late = cast::frames(LOOKAHEAD_MS / 1000.0, setup.rate_hz);
        let ahead = late - cast::frames(settings.lookahead_ms / 1000.0, setup.rate_hz).min(late);
        let rest = Speed::new(0.0, 0.0, rate_hz);
        let timing = Timing::new(rest, rest, Way::Up);
        let lookahead = MovedDelay::new(ahead, late, fade);
        let crest = Crest::new(rate_hz);
        let mut compressor = Self {
            rate_hz,
            drive: ramp(settings.drive_db),
            threshold: ramp(curve.threshold_db),
            knee: ramp(curve.knee_db),
            slope: ramp(curve.slope),
            range: ramp(settings.range_db),
            makeup: ramp(makeup_db(settings)),
            detector: Detector::new(setup),
            lookahead: [lookahead.clone(), lookahead],
            guard: Guard::new(setup, late),
            crest: [crest.clone(), crest],
            auto_release: false,
            timing: [timing.clone(), timing],
            late: [Delay::new(late), Delay::new(late)],
            hearing: Hearing::new(setup, settings.hear, late, Rounder::LATENCY),
            rounder: Rounder::new(
                setup,
                settings.rounding != 0.0,
                settings.rounding_dbfs,
                settings.rounding_corner,
            ),
            room: Room {
                drive: block(),
                threshold: block(),
                knee: block(),
                slope: block(),
                range: block(),
                makeup: block(),
                openness: block(),
                release: block(),
                lanes: [block(), block()],
                gain_db: block(),
            },
            gain_late: Delay::new(Rounder::LATENCY),
            frames: 0,
        };
        compressor.take(settings);
        compressor.detector.reset();
        compressor
    }

    /// Takes the settings that need no ramp of their own here: the gain is continuous whatever its speed.
    fn take(&mut self, settings: &Settings) {
        let Settings { attack_ms, attack_shape, release_ms, release_shape, .. } = *settings;
        let down = Speed::new(attack_ms, attack_shape, self.rate_hz);
        let up = Speed::new(release_ms, release_shape, self.rate_hz);
        let hold = cast::count(settings.hold_ms / 1000.0 * self.rate_hz);
        self.timing.iter_mut().for_each(|timing| timing.set(down, up, hold));
        self.auto_release = settings.auto_release != 0.0;
        self.guard.set(settings.guard_ms);
        self.detector
            .set_cuts(KeyCuts { low_hz: settings.key_low_cut_hz, high_hz: settings.key_high_cut_hz });
        self.detector.set_rms(settings.detector != 0.0, settings.rms_window_ms);
        if self.detector.set_link(settings.link) {
            // While linked, the second lane rests; now it goes on from where the first one is.
            let [one, two] = &mut self.timing;
            two.follow(one);
            let [one, two] = &mut self.lookahead;
            two.follow(one);
            let [one, two] = &mut self.crest;
            two.clone_from(one);
        }
    }

    /// The gain of a lane in dB, from its level.
    fn gain_of_lane(&mut self, lane: usize, n: usize, guarded: bool) {
        let Room { threshold, knee, slope, range, openness, release, lanes, .. } = &mut self.room;
        let gain = &mut lanes[lane][..n];
        if self.auto_release {
            self.crest[lane].process(gain, &mut release[..n]);
        }
        for (gain, threshold) in gain.iter_mut().zip(&*threshold) {
            *gain = db_from_linear(*gain) - threshold;
        }
        for (gain, (knee, slope)) in gain.iter_mut().zip(knee.iter().zip(&*slope)) {
            *gain = lane_gain_db(*gain, *knee, *slope);
        }
        for (gain, range) in gain.iter_mut().zip(&*range) {
            *gain = larger(*gain, -range) + NONE_DB;
        }
        if guarded {
            gain.iter_mut().zip(&*openness).for_each(|(gain, open)| *gain *= 1.0 - open);
        }
        if self.auto_release {
            self.timing[lane].process_scaled(gain, &release[..n]);
        } else {
            self.timing[lane].process(gain);
        }
        if guarded {
            gain.iter_mut().zip(&*openness).for_each(|(gain, open)| *gain *= 1.0 - open);
        }
    }

    /// One block during which neither the detector nor what is heard changes its ways; the reported gain goes to `from`.
    fn run(&mut self, io: &mut [&mut [f32]], key: Option<Beside>, from: usize) {
        let n = io.first().map_or(0, |c| c.len());
        drive(io, &mut self.drive, &mut self.room.drive[..n]);
        self.detector.process(io, key, self.hearing.listens());
        self.threshold.fill(&mut self.room.threshold[..n]);
        self.knee.fill(&mut self.room.knee[..n]);
        self.slope.fill(&mut self.room.slope[..n]);
        self.range.fill(&mut self.room.range[..n]);
        self.makeup.fill(&mut self.room.makeup[..n]);
        let lanes = self.detector.lanes();
        for ((level, room), taps) in self.detector.levels().zip(&mut self.room.lanes).zip(&mut self.lookahead)
        {
            room[..n].copy_from_slice(level);
            taps.process(&mut room[..n]);
        }
        let guarded = !self.guard.is_off();
        if guarded {
            let level = self.detector.levels().next();
            let level = level.map_or(&[][..], |level| &*level);
            self.guard.process(level, &mut self.room.openness[..n]);
        }
        (0..lanes).for_each(|lane| self.gain_of_lane(lane, n, guarded));
        let [first, second] = &mut self.room.lanes;
        let gain_db = &mut self.room.gain_db[from..from + n];
        gain_db.copy_from_slice(&first[..n]);
        if lanes == 2 {
            gain_db.iter_mut().zip(&*second).for_each(|(gain, other)| *gain = gain.min(*other));
        }

        self.late.iter_mut().zip(io.iter_mut()).for_each(|(late, channel)| late.process(channel));
        // What is taken out knows neither the drive nor the make-up.
        let listens = self.hearing.listens();
        if listens {
            for channel in io.iter_mut() {
                channel.iter_mut().zip(&self.room.drive).for_each(|(x, drive)| *x *= linear_from_db(-drive));
            }
        }
        self.hearing.keep(io, &self.detector, from);
        for lane in self.room.lanes.iter_mut().take(lanes) {
            for (gain, (makeup, drive)) in
                lane[..n].iter_mut().zip(self.room.makeup.iter().zip(&self.room.drive))
            {
                *gain = linear_from_db(if listens { *gain } else { *gain + makeup - drive });
            }
        }
        for (i, channel) in io.iter_mut().enumerate() {
            for (x, linear) in channel.iter_mut().zip(&self.room.lanes[i.min(lanes - 1)]) {
                *x *= linear;
            }
        }
        self.hearing.finish(io, Some(&self.room.makeup), from);
        self.rounder.process(io);
        self.gain_late.process(gain_db);
    }
}

impl Processor for Compressor {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        let curve = StaticCurve::from(&settings);
        self.drive.set(settings.drive_db);
        self.threshold.set(curve.threshold_db);
        self.knee.set(curve.knee_db);
        self.slope.set(curve.slope);
        self.range.set(settings.range_db);
        self.makeup.set(makeup_db(&settings));
        let late = self.late[0].frames();
        let ahead = cast::count(settings.lookahead_ms / 1000.0 * self.rate_hz).min(late);
        self.lookahead.iter_mut().for_each(|taps| taps.set(late - ahead));
        self.hearing.set(settings.hear);
        self.rounder.set(settings.rounding != 0.0, settings.rounding_dbfs, settings.rounding_corner);
        self.take(&settings);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let key = around.sound(0);
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        let mut done = 0;
        while done < n {
            let moving = [self.detector.left(), self.hearing.left()].into_iter().flatten().min();
            let run = moving.unwrap_or(n).min(n - done);
            let key = key.map(|key| key.part(done..done + run));
            stretch(io, done..done + run, |io| self.run(io, key, done));
            done += run;
        }
    }

    fn reset(&mut self) {
        for ramp in [
            &mut self.drive,
            &mut self.threshold,
            &mut self.knee,
            &mut self.slope,
            &mut self.range,
            &mut self.makeup,
        ] {
            ramp.settle();
        }
        self.detector.reset();
        self.lookahead.iter_mut().for_each(MovedDelay::reset);
        self.guard.reset();
        self.crest.iter_mut().for_each(Crest::reset);
        self.timing.iter_mut().for_each(|timing| timing.reset(0.0));
        self.late.iter_mut().chain([&mut self.gain_late]).for_each(Delay::reset);
        self.hearing.reset();
        self.rounder.reset();
    }

    fn latency(&self) -> usize {
        self.late[0].frames() + Rounder::LATENCY
    }

    fn ahead(&self) -> usize {
        self.late[0].frames() - self.lookahead[0].wanted()
    }

    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        self.hearing.lay_under(dry);
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::GainDb && part == 0).then(|| &self.room.gain_db[..self.frames])
    }
}
