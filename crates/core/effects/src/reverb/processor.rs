//! The parts of the reverb, one after the other.

use super::allpass::Chain;
use super::coarse::Coarse;
use super::early::Early;
use super::envelope::Envelope;
use super::network::Network;
use super::settings::{MOST_DIFFUSION_MS, MOST_PREDELAY_MS, Place, SILENT_DB, Settings};
use crate::tone::{Coming, Leaving, Unconstant};
use crate::{Around, ENDLESS, MOVE_S, Plan, Processor, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{MovedDelay, Ramp};
use clear_bend_sound::level::gain_from_db;

/// How long another pre-delay takes to be reached, s.
const FADE_S: f64 = 0.03;
/// A stretch is at most this long: what the parts hand on then lies in the first cache.
const RUN: usize = 128;

/// No sample that enters is larger, linear.
const LARGEST: f32 = 1e12;

/// Levels of what is heard: the dry sound, the pre-delayed one, the early part, what enters the lines, the late part, and what
/// of the untouched sound lies under the mix.
const PARTS: usize = 6;
const UNDER: usize = 5;

type Sides = [Vec<f32>; 2];

/// A reverb.
pub struct Reverb {
    setup: Setup,
    settings: Settings,
    constant: Unconstant,
    input: Coming,
    predelay: [MovedDelay; 2],
    /// How much of the early part is pre-delayed as well.
    both: Ramp,
    early: Early,
    ahead: [Chain; 2],
    network: Network,
    behind: [Chain; 2],
    coarse: Coarse,
    envelope: Envelope,
    output: Leaving,
    levels: [Ramp; PARTS],
    dry: Sides,
    delayed: Sides,
    reflected: Sides,
    diffused: Sides,
    late: Sides,
    under: Vec<f32>,
}

/// The levels of the parts.
fn levels(settings: &Settings) -> [f64; PARTS] {
    let gain = |db: f64| if db <= SILENT_DB { 0.0 } else { gain_from_db(db) };
    let all =
        [settings.dry_db, settings.predelayed_db, settings.early_db, SILENT_DB, settings.late_db].map(gain);
    let mut levels = [all[0], all[1], all[2], all[3], all[4], 1.0];
    // One part alone, at its level; what is silent beside the others is heard at full level by itself.
    let alone = cast::count(settings.hear);
    if alone > 0 {
        levels = [0.0; PARTS];
        levels[alone] = if all[alone] == 0.0 { 1.0 } else { all[alone] };
    }
    levels
}

impl Reverb {
    /// At rest.
    #[must_use]
    pub fn new(plan: &Plan) -> Self {
        let settings = Settings::from_values(plan.values);
        let setup = plan.setup;
        let rate_hz = f64::from(setup.rate_hz);
        let frames = cast::frames(MOVE_S, setup.rate_hz);
        let most = cast::count(MOST_PREDELAY_MS / 1000.0 * rate_hz) + 1;
        let fade = cast::frames(FADE_S, setup.rate_hz);
        let predelay = || MovedDelay::new(predelay_frames(&settings, rate_hz), most, fade);
        // One all-pass alone takes all the time.
        let longest = cast::count(1.2 * MOST_DIFFUSION_MS / 1000.0 * rate_hz) + 1;
        let chain = |place, c| Chain::new(&settings.chain(place, c, rate_hz), longest, setup.rate_hz, frames);
        let sides = || [vec![0.0; RUN], vec![0.0; RUN]];
        Self {
            setup,
            settings,
            constant: Unconstant::new(rate_hz),
            input: Coming::new(&settings.tone_in(), rate_hz, frames),
            predelay: [predelay(), predelay()],
            both: Ramp::new(settings.predelay_on, fade),
            early: Early::new(setup, &settings),
            ahead: [chain(Place::Ahead, 0), chain(Place::Ahead, 1)],
            network: Network::new(setup, &settings),
            behind: [chain(Place::Behind, 0), chain(Place::Behind, 1)],
            coarse: Coarse::new(rate_hz, settings.tail_rate_hz, settings.tail_bits, frames),
            envelope: Envelope::new(rate_hz, settings.rise_ms, settings.fall_ms),
            output: Leaving::new(&settings.tone_out(), rate_hz, frames),
            levels: levels(&settings).map(|level| Ramp::new(level, frames)),
            dry: sides(),
            delayed: sides(),
            reflected: sides(),
            diffused: sides(),
            late: sides(),
            under: vec![1.0; setup.max_block],
        }
    }

    /// A stretch of both sides; writes the share of what lies under the mix to a place on.
    fn run(&mut self, left: &mut [f32], right: &mut [f32], at: i64, from: usize) {
        let n = left.len();
        let [dry_l, dry_r] = part(&mut self.dry, n);
        dry_l.copy_from_slice(left);
        dry_r.copy_from_slice(right);
        // What is absurdly large would stay for ever as an infinite number.
        left.iter_mut().chain(right.iter_mut()).for_each(|x| *x = x.clamp(-LARGEST, LARGEST));
        self.constant.process(left, right);
        self.input.process(left, right);
        let delayed = part(&mut self.delayed, n);
        let [delayed_l, delayed_r] = delayed;
        delayed_l.copy_from_slice(left);
        delayed_r.copy_from_slice(right);
        self.predelay[0].process(delayed_l);
        self.predelay[1].process(delayed_r);
        let [early_l, early_r] = part(&mut self.reflected, n);
        for i in 0..n {
            let both = cast::sample(self.both.next_value());
            early_l[i] = both * delayed_l[i] + (1.0 - both) * left[i];
            early_r[i] = both * delayed_r[i] + (1.0 - both) * right[i];
        }
        self.early.process([&mut *early_l, &mut *early_r]);
        let [diffused_l, diffused_r] = part(&mut self.diffused, n);
        diffused_l.copy_from_slice(delayed_l);
        diffused_r.copy_from_slice(delayed_r);
        self.ahead[0].process(diffused_l);
        self.ahead[1].process(diffused_r);
        let [late_l, late_r] = part(&mut self.late, n);
        late_l.copy_from_slice(diffused_l);
        late_r.copy_from_slice(diffused_r);
        self.network.process(late_l, late_r, at);
        self.behind[0].process(late_l);
        self.behind[1].process(late_r);
        self.coarse.process(late_l, late_r);
        let [_, predelayed, early, diffused, late, _] = self.levels.clone();
        let mut ramps = [predelayed, early, diffused, late];
        // What waits and is not reflected is the same on both sides, as the sound is: no width makes it louder.
        let mut even = [1.0; RUN];
        self.output.even(&mut even[..n]);
        for i in 0..n {
            let [p, e, d, y] = ramps.each_mut().map(|ramp| cast::sample(ramp.next_value()));
            let p = p * even[i];
            left[i] = p * delayed_l[i] + e * early_l[i] + d * diffused_l[i] + y * late_l[i];
            right[i] = p * delayed_r[i] + e * early_r[i] + d * diffused_r[i] + y * late_r[i];
        }
        self.envelope.process([&*dry_l, &*dry_r], [&mut *left, &mut *right]);
        self.output.process(left, right);
        for i in 0..n {
            let dry = cast::sample(self.levels[0].next_value());
            left[i] += dry * dry_l[i];
            right[i] += dry * dry_r[i];
        }
        self.levels[UNDER].fill(&mut self.under[from..from + n]);
        self.levels[1..UNDER].iter_mut().for_each(|level| level.skip(n));
    }
}

fn part(sides: &mut Sides, n: usize) -> [&mut [f32]; 2] {
    sides.each_mut().map(|side| &mut side[..n])
}

fn predelay_frames(settings: &Settings, rate_hz: f64) -> usize {
    cast::count(settings.wait_ms() / 1000.0 * rate_hz)
}

impl Processor for Reverb {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        let rate_hz = f64::from(self.setup.rate_hz);
        self.settings = settings;
        self.input.set(&settings.tone_in());
        self.predelay.iter_mut().for_each(|delay| delay.set(predelay_frames(&settings, rate_hz)));
        self.both.set(settings.predelay_on);
        self.early.set(&settings, rate_hz);
        for c in 0..2 {
            self.ahead[c].set(&settings.chain(Place::Ahead, c, rate_hz));
            self.behind[c].set(&settings.chain(Place::Behind, c, rate_hz));
        }
        self.network.set(&settings);
        self.coarse.set(settings.tail_rate_hz, settings.tail_bits);
        self.envelope.set(settings.rise_ms, settings.fall_ms);
        self.output.set(&settings.tone_out());
        for (ramp, level) in self.levels.iter_mut().zip(levels(&settings)) {
            ramp.set(level);
        }
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        let mut done = 0;
        while done < n {
            let run = RUN.min(n - done);
            let at = around.at + cast::whole(cast::real(done));
            match io {
                [left, right] => {
                    self.run(&mut left[done..done + run], &mut right[done..done + run], at, done)
                }
                // A channel alone gets the reverb of the left side of a room in which both sides are the same.
                [mono] => {
                    let mono = &mut mono[done..done + run];
                    let mut other = [0.0; RUN];
                    other[..run].copy_from_slice(mono);
                    self.run(mono, &mut other[..run], at, done);
                }
                _ => return,
            }
            done += run;
        }
    }

    fn reset(&mut self) {
        self.constant.reset();
        self.input.reset();
        self.predelay.iter_mut().for_each(MovedDelay::reset);
        self.both.settle();
        self.early.reset();
        self.ahead.iter_mut().chain(&mut self.behind).for_each(Chain::reset);
        self.network.reset();
        self.coarse.reset();
        self.envelope.reset();
        self.output.reset();
        self.levels.iter_mut().for_each(Ramp::settle);
    }

    fn tail(&self) -> usize {
        self.settings.tail_s().map_or(ENDLESS, |tail_s| cast::frames(tail_s, self.setup.rate_hz))
    }

    fn lay_under(&self, dry: &mut [&mut [f32]]) {
        for channel in dry {
            channel.iter_mut().zip(&self.under).for_each(|(x, under)| *x *= under);
        }
    }
}
