//! A band at work: its settings on the move, and the sections that follow them.

use super::bank::{Frame, Numbers, Runner, STEP};
use super::design::{Build, MOST_SECTIONS, Shape};
use super::settings::Band;
use crate::MOVE_S;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;
use clear_bend_sound::scope::Scope;

/// A band at work. Frequency, gain and Q move; another kind, slope, series or scope comes in after the old one has
/// faded out. A band that has faded out costs nothing.
pub struct Voice {
    /// Logarithm to base two of the frequency in Hz.
    freq: Ramp,
    gain_db: Ramp,
    /// Logarithm to base two of the Q.
    q: Ramp,
    share: Ramp,
    build: Build,
    scope: Scope,
    wanted: Option<Band>,
    runners: Vec<Runner>,
    count: usize,
    /// Whether the sections are where the settings are.
    settled: bool,
}

impl Voice {
    /// A band at rest; none is silent.
    pub fn new(band: Option<Band>, rate_hz: u32) -> Self {
        let ramp = || Ramp::new(0.0, cast::frames(MOVE_S, rate_hz));
        let mut voice = Self {
            freq: ramp(),
            gain_db: ramp(),
            q: ramp(),
            share: ramp(),
            build: Build::default(),
            scope: Scope::Stereo,
            wanted: band,
            runners: vec![Runner::THROUGH; MOST_SECTIONS],
            count: 0,
            settled: false,
        };
        voice.rest(f64::from(rate_hz));
        voice
    }

    /// Moves to other settings; none fades out.
    pub fn set(&mut self, band: Option<Band>) {
        self.wanted = band;
        let stays = band.filter(|band| band.build == self.build && band.scope == self.scope);
        if let Some(band) = stays {
            self.aim(&band.shape);
        }
        self.share.set(if stays.is_some() { 1.0 } else { 0.0 });
    }

    /// The time in which what is left of it falls by 80 dB, s.
    pub fn rings_s(&self) -> f64 {
        self.wanted.map_or(0.0, |band| band.build.rings_s(&band.shape))
    }

    fn aim(&mut self, shape: &Shape) {
        self.freq.set(shape.freq_hz.log2());
        self.gain_db.set(shape.gain_db);
        self.q.set(shape.q.log2());
    }

    fn ramps(&mut self) -> [&mut Ramp; 4] {
        [&mut self.freq, &mut self.gain_db, &mut self.q, &mut self.share]
    }

    /// Arrives at what is wanted at once, with nothing left of earlier samples.
    pub fn rest(&mut self, rate_hz: f64) {
        self.share.set(0.0);
        self.share.settle();
        self.adopt();
        self.ramps().into_iter().for_each(Ramp::settle);
        self.settled = true;
        if self.wanted.is_some() {
            self.each(rate_hz, 0, Runner::take);
        }
    }

    /// Takes on what is wanted, from silence.
    fn adopt(&mut self) {
        self.count = 0;
        let Some(band) = self.wanted else { return };
        self.build = band.build;
        self.scope = band.scope;
        self.count = band.build.sections();
        self.aim(&band.shape);
        [&mut self.freq, &mut self.gain_db, &mut self.q].into_iter().for_each(Ramp::settle);
        self.runners.iter_mut().for_each(Runner::reset);
        self.share.set(1.0);
    }

    fn arrived(&self) -> bool {
        [&self.freq, &self.gain_db, &self.q, &self.share].into_iter().all(|ramp| ramp.left() == 0)
    }

    /// Whether its sections have still to follow.
    pub fn moves(&self) -> bool {
        !self.settled || !self.arrived() || self.share.rests_at(0.0) && self.wanted.is_some()
    }

    /// At the start of a step: lets the sections go to where the settings will be at its end.
    pub fn follow(&mut self, rate_hz: f64) {
        if self.arrived() && self.share.rests_at(0.0) {
            self.adopt();
            if self.wanted.is_none() {
                self.settled = true;
                return;
            }
            // It begins where it is, with nothing of it heard.
            self.each(rate_hz, 0, Runner::take);
            self.settled = false;
        }
        if self.settled && self.arrived() {
            return;
        }
        self.settled = self.arrived();
        self.each(rate_hz, STEP, Runner::aim);
    }

    /// Works out the numbers of all sections as they will be some samples later.
    fn each(&mut self, rate_hz: f64, later: usize, put: fn(&mut Runner, Numbers)) {
        let value = |ramp: &Ramp| {
            let mut ramp = ramp.clone();
            ramp.skip(later);
            ramp.value()
        };
        let shape = Shape {
            freq_hz: value(&self.freq).exp2(),
            gain_db: value(&self.gain_db),
            q: value(&self.q).exp2(),
        };
        let share = value(&self.share);
        let shares = self.scope.shares().map(|of_channel| of_channel * share);
        let runners = &mut self.runners;
        self.build.each_section(&shape, rate_hz, |i, section| {
            if let Some(runner) = runners.get_mut(i) {
                put(runner, Numbers::of(&section, shares));
            }
        });
    }

    /// Runs over some frames of a step while it moves.
    pub fn run_moving(&mut self, frames: &mut [Frame]) {
        self.runners().iter_mut().for_each(|runner| runner.run_moving(frames));
    }

    /// Goes on by some samples.
    pub fn skip(&mut self, samples: usize) {
        let was = !self.arrived();
        self.ramps().into_iter().for_each(|ramp| ramp.skip(samples));
        self.settled &= !was;
    }

    /// Whether it works on mid or side.
    pub fn is_sum(&self) -> bool {
        self.scope.is_sum()
    }

    /// Its sections; none where it is silent.
    pub fn runners(&mut self) -> &mut [Runner] {
        let count = if self.share.rests_at(0.0) { 0 } else { self.count };
        &mut self.runners[..count]
    }
}
