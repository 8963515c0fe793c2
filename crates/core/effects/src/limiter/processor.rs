//! The processor: peaks of samples and between them, the gain they need, and the signal after it.

use super::envelope::Envelope;
use super::keeper::Keeper;
use super::{LOOKAHEAD_MS, Settings};
use crate::dynamics::{Detector, Hearing, KeyCuts, Rounder, drive, lane_gain_db};
use crate::{Around, MOVE_S, Processor, Quantity, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{
    Between, Delay, Ramp, SlidingMax, db_from_linear, larger, linear_from_db, smaller,
};

/// The gain for a peak between samples holds for so many samples around it: the wave there is made of them.
const GUARD: usize = 3;
/// Frames by which the levels of true peaks lag behind the signal.
const PEAK_LATENCY: usize = Between::LATENCY + 1 + GUARD;

/// Counts beyond this are brought back.
const MOST_COUNT: usize = 1 << 30;

/// A limiter for one or two channels, which share one gain.
pub struct Limiter {
    rate_hz: f64,
    drive: Ramp,
    ceiling: Ramp,
    knee: Ramp,
    rounder: Rounder,
    /// Listens to the signal as it comes, so that it can be heard.
    detector: Detector,
    between: [Between; 2],
    true_peak: bool,
    /// A peak between two samples counts for both.
    around: SlidingMax,
    /// The level waits here until the envelope is due to see it.
    level_late: Delay,
    ring: Vec<f32>,
    written: usize,
    read: usize,
    lookahead: usize,
    wanted_lookahead: usize,
    envelope: Envelope,
    latest_gain_db: f32,
    late: [Delay; 2],
    keeper: Keeper,
    /// The signal as it was in front of the gain, as late as the keeper, for what is heard of it.
    untouched: [Vec<f32>; 2],
    untouched_late: [Delay; 2],
    gain_late: Delay,
    hearing: Hearing,
    room: Room,
    frames: usize,
}

struct Room {
    drive: Vec<f32>,
    ceiling: Vec<f32>,
    knee: Vec<f32>,
    level: Vec<f32>,
    peaks: Vec<f32>,
    gain_db: Vec<f32>,
}

impl Limiter {
    /// A limiter at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let ramp = |value| Ramp::new(value, cast::frames(MOVE_S, setup.rate_hz));
        let block = || vec![0.0; setup.max_block];
        let most = cast::frames(LOOKAHEAD_MS / 1000.0, setup.rate_hz);
        let lookahead = cast::frames(settings.lookahead_ms / 1000.0, setup.rate_hz).min(most);
        let late = Delay::new(most + PEAK_LATENCY);
        let keeper_late = Delay::new(Keeper::latency(setup.rate_hz));
        let between = Between::new(setup.max_block);
        let mut limiter = Self {
            rate_hz,
            drive: ramp(settings.drive_db),
            ceiling: ramp(settings.ceiling_db),
            knee: ramp(settings.knee_db),
            rounder: Rounder::new(
                setup,
                settings.rounding != 0.0,
                settings.rounding_dbfs,
                settings.rounding_corner,
            ),
            detector: Detector::new(setup),
            between: [between.clone(), between],
            true_peak: settings.true_peak != 0.0,
            // The samples that a peak lies between, and the guard to each side.
            around: SlidingMax::new(3 + 2 * GUARD, setup.max_block),
            level_late: Delay::new(PEAK_LATENCY),
            ring: vec![0.0; most + 1],
            written: 0,
            read: 0,
            lookahead,
            wanted_lookahead: lookahead,
            envelope: Envelope::new(most, lookahead),
            latest_gain_db: 0.0,
            late: [late.clone(), late],
            keeper: Keeper::new(setup),
            untouched: [block(), block()],
            untouched_late: [keeper_late.clone(), keeper_late.clone()],
            hearing: Hearing::new(setup, settings.hear, most + PEAK_LATENCY + keeper_late.frames(), 0),
            gain_late: keeper_late,
            room: Room {
                drive: block(),
                ceiling: block(),
                knee: block(),
                level: block(),
                peaks: block(),
                gain_db: block(),
            },
            frames: 0,
        };
        limiter.take(settings);
        limiter
    }

    fn take(&mut self, settings: &Settings) {
        // The cuts are for another sound: what comes in is never cut.
        self.detector
            .set_cuts(KeyCuts { low_hz: settings.key_low_cut_hz, high_hz: settings.key_high_cut_hz });
        self.true_peak = settings.true_peak != 0.0;
        self.envelope.set_release(-(-1000.0 / (settings.release_ms * self.rate_hz)).exp_m1());
    }

    /// The largest level of any channel at every frame, of samples and, if wanted, between them.
    fn read_levels(&mut self, io: &[&mut [f32]], keyed: bool, n: usize) {
        let Room { level, peaks, .. } = &mut self.room;
        let (level, peaks) = (&mut level[..n], &mut peaks[..n]);
        level.fill(0.0);
        peaks.fill(0.0);
        for (channel, between) in io.iter().zip(&mut self.between) {
            level.iter_mut().zip(channel.iter()).for_each(|(level, x)| *level = larger(*level, x.abs()));
            // Four places are enough here: the keeper looks closer.
            between.raise(channel, f32::MAX, peaks);
        }
        if keyed {
            for heard in [self.detector.heard(0), self.detector.heard(1)] {
                level.iter_mut().zip(heard).for_each(|(level, x)| *level = larger(*level, x.abs()));
            }
        }
        self.level_late.process(level);
        self.around.process(peaks);
        if self.true_peak {
            level.iter_mut().zip(&*peaks).for_each(|(level, peak)| *level = larger(*level, *peak));
        }
    }

    /// The next needed gain into the ring, and what is due out of it through the envelope.
    fn follow(&mut self, needed_db: f32) -> f32 {
        let size = self.ring.len();
        self.ring[self.written % size] = needed_db;
        self.written += 1;
        if self.written > MOST_COUNT {
            // Days of sound do not overflow the counts.
            let laps = self.read / size * size;
            (self.written, self.read) = (self.written - laps, self.read - laps);
        }
        if self.lookahead != self.wanted_lookahead {
            // Sample by sample, so that no needed gain is left out on the way.
            self.lookahead =
                if self.lookahead < self.wanted_lookahead { self.lookahead + 1 } else { self.lookahead - 1 };
            self.envelope.set_lookahead(self.lookahead);
        }
        let due = (self.written + self.lookahead).saturating_sub(size - 1);
        while self.read < due {
            self.latest_gain_db = self.envelope.push(self.ring[self.read % size]);
            self.read += 1;
        }
        self.latest_gain_db
    }
}

impl Processor for Limiter {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.drive.set(settings.drive_db);
        self.ceiling.set(settings.ceiling_db);
        self.knee.set(settings.knee_db);
        self.rounder.set(settings.rounding != 0.0, settings.rounding_dbfs, settings.rounding_corner);
        let lookahead = cast::count(settings.lookahead_ms / 1000.0 * self.rate_hz);
        self.wanted_lookahead = lookahead.min(self.ring.len() - 1);
        if settings.hear != 0.0 && !self.hearing.listens() {
            // They may have rested; now they begin anew.
            self.detector.reset();
            self.untouched_late.iter_mut().for_each(Delay::reset);
        }
        self.hearing.set(settings.hear);
        self.take(&settings);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let key = around.sound(0);
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        drive(io, &mut self.drive, &mut self.room.drive[..n]);
        self.rounder.process(io);
        if key.is_some() || self.hearing.listens() {
            self.detector.process(io, key, true);
        }
        self.read_levels(io, key.is_some(), n);
        self.ceiling.fill(&mut self.room.ceiling[..n]);
        self.knee.fill(&mut self.room.knee[..n]);
        let Room { level, ceiling, knee, .. } = &mut self.room;
        for (level, (ceiling, knee)) in level[..n].iter_mut().zip(ceiling.iter().zip(&*knee)) {
            let over = db_from_linear(*level) - ceiling;
            *level = lane_gain_db(over, *knee, -1.0);
        }
        for i in 0..n {
            self.room.gain_db[i] = self.follow(self.room.level[i]);
        }
        self.late.iter_mut().zip(io.iter_mut()).for_each(|(late, channel)| late.process(channel));
        if self.hearing.listens() {
            let untouched = self.untouched.iter_mut().zip(&mut self.untouched_late);
            for ((untouched, late), channel) in untouched.zip(io.iter()) {
                untouched[..n].copy_from_slice(channel);
                late.process(&mut untouched[..n]);
            }
            let [left, right] = &mut self.untouched;
            let untouched = [&mut left[..n], &mut right[..n]];
            self.hearing.keep(&untouched[..io.len()], &self.detector, 0);
        }
        let Room { gain_db, level, ceiling, .. } = &mut self.room;
        for (linear, gain) in level[..n].iter_mut().zip(&*gain_db) {
            *linear = linear_from_db(*gain);
        }
        for ceiling in &mut ceiling[..n] {
            *ceiling = linear_from_db(*ceiling);
        }
        for channel in io.iter_mut() {
            channel.iter_mut().zip(&*level).for_each(|(x, linear)| *x *= linear);
        }
        let kept_db = self.keeper.process(io, &ceiling[..n], self.true_peak);
        let gain_db = &mut gain_db[..n];
        self.gain_late.process(gain_db);
        gain_db.iter_mut().zip(kept_db).for_each(|(gain, kept)| *gain += kept);
        // The gain already keeps every sample under the ceiling; this takes what rounding leaves over.
        for channel in io.iter_mut() {
            for (x, ceiling) in channel.iter_mut().zip(&*ceiling) {
                *x = smaller(larger(*x, -ceiling), *ceiling);
            }
        }
        self.hearing.finish(io, None, 0);
    }

    fn reset(&mut self) {
        [&mut self.drive, &mut self.ceiling, &mut self.knee].into_iter().for_each(Ramp::settle);
        self.rounder.reset();
        self.detector.reset();
        self.between.iter_mut().for_each(Between::reset);
        self.around.reset();
        self.level_late.reset();
        self.ring.fill(0.0);
        (self.written, self.read, self.latest_gain_db) = (0, 0, 0.0);
        self.lookahead = self.wanted_lookahead;
        self.envelope.reset();
        self.envelope.set_lookahead(self.lookahead);
        self.late.iter_mut().chain(&mut self.untouched_late).for_each(Delay::reset);
        self.gain_late.reset();
        self.keeper.reset();
        self.hearing.reset();
    }

    fn latency(&self) -> usize {
        self.late[0].frames() + self.gain_late.frames() + Rounder::LATENCY
    }

    fn ahead(&self) -> usize {
        self.wanted_lookahead + PEAK_LATENCY + self.gain_late.frames() - Between::LATENCY
    }

    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        self.hearing.lay_under(dry);
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::GainDb && part == 0).then(|| &self.room.gain_db[..self.frames])
    }
}
