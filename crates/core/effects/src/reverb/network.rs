//! The late reverb: delay lines that feed each other without loss, and filters that let each of them fall (Jot and Chaigne,
//! "Digital delay networks for designing artificial reverberators", AES 90, 1991, after Gerzon 1971; moving delays after
//! Dattorro, "Effect design, part 1", JAES 45(9), 1997; all-passes inside the loop after Gardner, 1992).
//!
//! Half of the lines belong to the left side and half to the right. A rotation by an eighth of a turn mixes a pair of lines
//! fully, a smaller one in part, none not at all; all of them are without loss, so that the amount of mixing may move while
//! sound runs. Four rounds of them lead from every line to every other, the last one from side to side.

use std::array::from_fn;
use std::f64::consts::{FRAC_PI_4, TAU};

use super::decays::{Decays, Shelf};
use super::glide::{Glide, Numbers};
use super::lengths::{Lengths, Ring, spread};
use super::reading::{REACH, STRETCH, Shares, Sway};
use super::settings::{MOST_SIZE_M, Place, Settings};
use crate::{MOVE_S, Setup};
use clear_bend_catalogue::METRES_PER_S;
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::widest;

/// The most lines.
const LINES: usize = 16;
/// Lines of one side.
const SIDE: usize = LINES / 2;
/// Rounds of rotations within a side.
const ROUNDS: usize = 3;
/// Delays that move are worked out every so many samples, and go in straight lines in between.
const STEP: usize = STRETCH;
/// So many steps from one to the next at which settings that move are: filters are dear.
const STEPS: usize = 4;
/// The longest line, as a multiple of the mean one.
const LONGEST: f64 = 2.2;
/// Energy of the response per second at its beginning, where the dry sound has 1: what takes 1.8 s to fall by 60 dB has as
/// much energy as the dry sound.
const ENERGY_PER_S: f64 = 13.8155 / 1.8;
/// Smaller numbers are none.
const SMALLEST: f64 = 1e-20;
/// The shortest line, samples: what reading between samples reaches.
const SHORTEST: usize = 8;
/// How fast delays follow their movement, s: where a loop that is no whole number of turns begins anew, they glide.
const FOLLOWS_S: f64 = 0.01;
/// Made with the freeze on, it takes in so much of the passage before its input shuts, s.
pub const OPEN_S: f64 = 0.5;

type Lanes = [f64; LINES];

/// What of the settings goes over smoothly. Times and frequencies are logarithms.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Aims {
    decays: [f64; 5],
    freeze: f64,
    mixing: f64,
    inside: f64,
    inside_share: f64,
    crossing: f64,
    depth: f64,
    straight: f64,
    smooth: f64,
    rounds: [f64; ROUNDS],
    enter: Lanes,
    leave: Lanes,
    /// Lengths that losses are reckoned by, samples.
    lines: Lanes,
    inside_lines: Lanes,
}

impl Numbers for Aims {
    fn each(&mut self, other: &Self, mut change: impl FnMut(&mut f64, f64)) {
        change(&mut self.freeze, other.freeze);
        change(&mut self.mixing, other.mixing);
        change(&mut self.inside, other.inside);
        change(&mut self.inside_share, other.inside_share);
        change(&mut self.crossing, other.crossing);
        change(&mut self.depth, other.depth);
        change(&mut self.straight, other.straight);
        change(&mut self.smooth, other.smooth);
        each(&mut self.decays, &other.decays, &mut change);
        each(&mut self.rounds, &other.rounds, &mut change);
        each(&mut self.enter, &other.enter, &mut change);
        each(&mut self.leave, &other.leave, &mut change);
        each(&mut self.lines, &other.lines, &mut change);
        each(&mut self.inside_lines, &other.inside_lines, &mut change);
    }
}

fn each<const N: usize>(these: &mut [f64; N], others: &[f64; N], mut change: impl FnMut(&mut f64, f64)) {
    these.iter_mut().zip(others).for_each(|(this, other)| change(this, *other));
}

/// What the samples are worked with, all but the movement of delays.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Work {
    /// What a line loses at all frequencies, and what the rotations leave to it.
    gain: Lanes,
    /// b0, b1 and a1 of the filter of the lows, and of that of the highs, which is used twice.
    low: [Lanes; 3],
    high: [Lanes; 3],
    enter: Lanes,
    leave: Lanes,
    /// Tangents of the rotations of every round, and of that from side to side; their cosines are in the gain.
    turns: [f64; ROUNDS + 1],
}

impl Numbers for Work {
    #[inline(always)]
    fn each(&mut self, other: &Self, mut change: impl FnMut(&mut f64, f64)) {
        each(&mut self.gain, &other.gain, &mut change);
        for k in 0..3 {
            each(&mut self.low[k], &other.low[k], &mut change);
            each(&mut self.high[k], &other.high[k], &mut change);
        }
        each(&mut self.enter, &other.enter, &mut change);
        each(&mut self.leave, &other.leave, &mut change);
        each(&mut self.turns, &other.turns, &mut change);
    }
}

/// What the all-passes inside the loop are worked with: their gain, how much of them is heard, and what is kept of what goes round
/// in them.
#[derive(Debug, Clone, Copy)]
struct Inside {
    gain: f64,
    share: f64,
    kept: Lanes,
}

/// Lines, and the all-passes inside their loops.
struct Plan {
    lines: [usize; LINES],
    inside: [usize; LINES],
    /// What goes round in all lines that are there, samples.
    all: usize,
}

fn plan(settings: &Settings, rate_hz: f64) -> Plan {
    let count = settings.line_count();
    let mut random = SplitMix64::new(cast::seed(settings.seed), 1);
    let ratios: Lanes = spread(count, settings.character().ways, || random.bipolar());
    let mean = settings.size_m / METRES_PER_S * rate_hz;
    let all_passes = settings.all_passes(rate_hz, 2);
    let is_inside = settings.diffuses(Place::Inside);
    let (mut lines, mut inside, mut all) = ([2 * SHORTEST; LINES], [SHORTEST; LINES], 0);
    for (rank, ratio) in ratios.iter().enumerate() {
        // Sides take turns, so that both have ways of all lengths.
        let at = (rank % 2) * SIDE + rank / 2;
        let whole = cast::count(mean * ratio).max(2 * SHORTEST);
        let own = all_passes[rank % all_passes.len()];
        inside[at] = own.clamp(SHORTEST, whole - SHORTEST);
        lines[at] = if is_inside { whole - inside[at] } else { whole };
        all += if rank < count { whole } else { 0 };
    }
    Plan { lines, inside, all }
}

/// The network.
pub struct Network {
    rate_hz: f64,
    lines: [Ring; LINES],
    lengths: Lengths<LINES>,
    inside: [Ring; LINES],
    inside_lengths: Lengths<LINES>,
    /// What they are worked with when settings were worked out last, and when they will be next.
    inside_work: [Inside; 2],
    frozen: bool,
    /// Frames since the last reset, until the freeze takes hold.
    age: usize,
    open: usize,
    move_hz: f64,
    phases: Lanes,
    aims: Glide<Aims>,
    work: Glide<Work>,
    sway: Lanes,
    sway_step: Lanes,
    /// Samples until the next step, and the steps until settings are worked out again.
    left: usize,
    steps_left: usize,
    states: [Lanes; 3],
}

impl Network {
    /// At rest.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        let rate_hz = f64::from(setup.rate_hz);
        let most = cast::count(LONGEST * MOST_SIZE_M / METRES_PER_S * rate_hz);
        let plan = plan(settings, rate_hz);
        let aims = aims(settings, &plan, rate_hz, true);
        let lengths = Lengths::new(plan.lines, setup.rate_hz);
        let inside_lengths = Lengths::new(plan.inside, setup.rate_hz);
        let work = worked_out(&aims, rate_hz);
        let mut network = Self {
            rate_hz,
            lines: from_fn(|_| Ring::new(most, STEP)),
            lengths,
            inside: from_fn(|_| Ring::new(most / 2, STEP)),
            inside_lengths,
            inside_work: [inside_of(&aims, rate_hz); 2],
            frozen: settings.is_frozen(),
            age: 0,
            open: cast::frames(OPEN_S, setup.rate_hz),
            move_hz: settings.move_hz,
            phases: [0.0; LINES],
            aims: Glide::new(aims, cast::frames(MOVE_S, setup.rate_hz)),
            work: Glide::new(work, STEP * STEPS),
            sway: [0.0; LINES],
            sway_step: [0.0; LINES],
            left: 0,
            steps_left: 0,
            states: [[0.0; LINES]; 3],
        };
        network.set(settings);
        network.reset();
        network
    }

    /// Moves to other settings.
    pub fn set(&mut self, settings: &Settings) {
        let plan = plan(settings, self.rate_hz);
        self.lengths.set(plan.lines);
        self.inside_lengths.set(plan.inside);
        // What is made frozen takes in a little; what is frozen later holds what there is.
        let opens = self.age < self.open && self.frozen && settings.is_frozen();
        self.frozen = settings.is_frozen();
        self.age = if opens { self.age } else { self.open };
        self.move_hz = settings.move_hz;
        let mut random = SplitMix64::new(cast::seed(settings.seed), 3);
        let count = cast::real(LINES);
        self.phases = from_fn(|i| (cast::real(i) + 0.3 * random.bipolar()) / count);
        let aims = aims(settings, &plan, self.rate_hz, opens);
        if aims.inside_share > 0.0
            && self.inside_work.iter().all(|work| work.share == 0.0)
            && self.aims.rests()
        {
            // What they held when they went is not heard again.
            self.inside.iter_mut().for_each(Ring::clear);
        }
        self.aims.set(aims);
    }

    /// Arrives and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.lines.iter_mut().chain(&mut self.inside).for_each(Ring::clear);
        self.lengths.settle();
        self.inside_lengths.settle();
        self.age = if self.frozen { 0 } else { self.open };
        let mut target = *self.aims.target();
        if self.frozen {
            target.freeze = 0.0;
        }
        self.aims.set(target);
        self.aims.settle();
        self.work.set(worked_out(&target, self.rate_hz));
        self.work.settle();
        self.inside_work = [inside_of(&target, self.rate_hz); 2];
        self.sway = [0.0; LINES];
        self.sway_step = [0.0; LINES];
        self.states = [[0.0; LINES]; 3];
        (self.left, self.steps_left) = (0, 0);
    }

    /// Gives what comes out of the lines for what enters them on both sides, in place. The first sample is the frame `at` of the
    /// passage.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32], at: i64) {
        let mut done = 0;
        while done < left.len() {
            if self.left == 0 {
                self.aim(cast::signed(at) + cast::real(done));
            }
            // What is written within a stretch is not read within it.
            let shortest = self.lengths.shortest().min(2 * self.inside_lengths.shortest());
            let n = (left.len() - done).min(self.left).min(shortest / 2 - REACH - 1);
            widest(
                #[inline(always)]
                || self.run(&mut left[done..done + n], &mut right[done..done + n]),
            );
            self.left -= n;
            done += n;
        }
    }

    /// Works out what moves over the next few samples, the first of which is a frame of the passage.
    fn aim(&mut self, at: f64) {
        self.left = STEP;
        if self.frozen && self.age < self.open {
            self.age += STEP;
            if self.age >= self.open {
                let frozen = Aims { freeze: 1.0, ..*self.aims.target() };
                self.aims.set(frozen);
            }
        }
        self.lengths.begin();
        self.inside_lengths.begin();
        if self.steps_left == 0 {
            self.steps_left = STEPS;
            self.inside_work[0] = self.inside_work[1];
            if !self.aims.rests() {
                self.aims.skip(STEP * STEPS);
                self.work.set(worked_out(&self.aims.now, self.rate_hz));
                self.inside_work[1] = inside_of(&self.aims.now, self.rate_hz);
            }
        }
        self.steps_left -= 1;
        let depth = self.aims.now.depth * (1.0 - self.aims.now.freeze);
        let follows = 1.0 - (-cast::real(STEP) / (FOLLOWS_S * self.rate_hz)).exp();
        let turned = self.move_hz * at / self.rate_hz;
        for i in 0..LINES {
            self.sway[i] += cast::real(STEP) * self.sway_step[i];
            let room = 0.5 * cast::real(self.lengths.from[i].min(self.lengths.to[i]));
            let wanted =
                if depth > 0.0 { depth.min(room) * (TAU * (self.phases[i] + turned)).sin() } else { 0.0 };
            // What rests lies on a sample, so that nothing is lost between two.
            if depth == 0.0 && self.sway[i].abs() < 1e-3 {
                (self.sway[i], self.sway_step[i]) = (0.0, 0.0);
                continue;
            }
            self.sway_step[i] = (follows * (wanted - self.sway[i]) / cast::real(STEP)).clamp(-1.0, 1.0);
        }
    }

    /// A stretch of at most [`STEP`] samples.
    #[inline(always)]
    fn run(&mut self, left: &mut [f32], right: &mut [f32]) {
        let mut x = [[0.0; LINES]; STEP];
        self.read(&mut x[..left.len()]);
        let mut states = self.states;
        for ((l, r), x) in left.iter_mut().zip(right.iter_mut()).zip(&mut x) {
            self.work.skip(1);
            let work = &self.work.now;
            let out = [sum::<0>(x, &work.leave), sum::<SIDE>(x, &work.leave)];
            fall(x, work, &mut states);
            rotate(x, &work.turns);
            let entering = [f64::from(*l), f64::from(*r)];
            for i in 0..LINES {
                let y = x[i] + work.enter[i] * entering[i / SIDE];
                x[i] = if y.abs() < SMALLEST { 0.0 } else { y };
            }
            (*l, *r) = (cast::sample(out[0]), cast::sample(out[1]));
        }
        self.states = states;
        let mut column = [0.0; STEP];
        for (i, ring) in self.lines.iter_mut().enumerate() {
            column.iter_mut().zip(&x).for_each(|(y, x)| *y = cast::sample(x[i]));
            ring.extend(&column, left.len());
        }
    }

    /// What comes out of the lines, through the all-passes inside the loop, frame by frame.
    #[inline(always)]
    fn read(&mut self, x: &mut [Lanes]) {
        let n = x.len();
        let shares = Shares { straight: self.aims.now.straight, smooth: self.aims.now.smooth };
        // How far this step has come.
        let begun = STEP - self.left;
        let news = self.lengths.next_shares(n);
        let mut column = [0.0; STEP];
        for i in 0..LINES {
            let (ring, sway) = (&self.lines[i], Sway { from: self.sway[i], step: self.sway_step[i], begun });
            shares.read(ring, self.lengths.to[i], sway, &mut column);
            if let Some(news) = &news {
                let mut old = [0.0; STEP];
                shares.read(ring, self.lengths.from[i], sway, &mut old);
                blend(&mut column, &old, news);
            }
            x.iter_mut().zip(&column).for_each(|(x, y)| x[i] = *y);
        }
        let news = self.inside_lengths.next_shares(n);
        let [from, to] = &self.inside_work;
        if from.share == 0.0 && to.share == 0.0 {
            return;
        }
        let mut moved = [(0.0, 0.0); STEP];
        for (k, slot) in moved.iter_mut().enumerate() {
            let steps = STEPS - 1 - self.steps_left;
            let way = cast::real(steps * STEP + begun + k + 1) / cast::real(STEP * STEPS);
            *slot = (from.gain + way * (to.gain - from.gain), from.share + way * (to.share - from.share));
        }
        for i in 0..LINES {
            let ring = &mut self.inside[i];
            let mut written = [0.0f32; STEP];
            column = ring.read(self.inside_lengths.to[i]).map(f64::from);
            if let Some(news) = &news {
                blend(&mut column, &ring.read(self.inside_lengths.from[i]).map(f64::from), news);
            }
            let kept = to.kept[i];
            let frames = x.iter_mut().zip(&column).zip(&mut written).zip(&moved);
            for (((x, back), written), (gain, share)) in frames {
                // What goes round in it falls as fast as what goes round in the line.
                let back = kept * back;
                let v = x[i] - gain * back;
                // While it comes in, what comes back later begins as softly.
                *written = cast::sample(if v.abs() < SMALLEST { 0.0 } else { share * v });
                x[i] = share * (gain * v + back) + (1.0 - share) * x[i];
            }
            ring.extend(&written, n);
        }
    }
}

/// Goes over from old values to new ones.
#[inline(always)]
fn blend(new: &mut [f64; STEP], old: &[f64; STEP], shares: &[f64; STEP]) {
    for ((new, old), share) in new.iter_mut().zip(old).zip(shares) {
        *new = share * *new + (1.0 - share) * old;
    }
}

/// Where the settings lead. With `opens`, a freeze lets sound in still.
fn aims(settings: &Settings, plan: &Plan, rate_hz: f64, opens: bool) -> Aims {
    let decays = Decays::of(settings);
    let mut random = SplitMix64::new(cast::seed(settings.seed), 2);
    let mut sign = || if random.bipolar() < 0.0 { -1.0 } else { 1.0 };
    let half = settings.line_count() / 2;
    // Energy that enters spreads over all lines: what leaves per sample is its share of them.
    let in_all = cast::real(plan.all) / rate_hz;
    let size = (ENERGY_PER_S * in_all).sqrt();
    let mut lanes = |gain: f64| -> Lanes { from_fn(|i| sign() * if i % SIDE < half { gain } else { 0.0 }) };
    let each_side = 1.0 / cast::real(half).sqrt();
    let Shares { straight, smooth } = Shares::of(settings.reading);
    let rounds = from_fn(|k| f64::from(u8::from(half > 1 << k)));
    let inside_share = f64::from(u8::from(settings.diffuses(Place::Inside)));
    Aims {
        decays: decays.logarithms(),
        freeze: f64::from(u8::from(settings.is_frozen() && !opens)),
        mixing: settings.diffusion,
        inside: settings.all_pass_gain(),
        inside_share,
        crossing: settings.crossfeed,
        depth: settings.move_ms / 1000.0 * rate_hz,
        straight,
        smooth,
        rounds,
        enter: lanes(each_side),
        leave: lanes(each_side * size),
        lines: plan.lines.map(cast::real),
        inside_lines: plan.inside.map(|frames| inside_share * cast::real(frames)),
    }
}

/// What the samples are worked with on the way there.
fn worked_out(aims: &Aims, rate_hz: f64) -> Work {
    let decays = Decays::from_logarithms(aims.decays);
    let falls = 1.0 - aims.freeze;
    // An all-pass inside loses by itself what all frequencies do, and its line what only some of them do.
    let damping = decays.damping(&aims.lines, &aims.inside_lines, rate_hz, falls);
    let shelf = |of: &dyn Fn(usize) -> Shelf| -> [Lanes; 3] {
        [from_fn(|i| of(i).b0), from_fn(|i| of(i).b1), from_fn(|i| of(i).a1)]
    };
    let (mut turns, mut cosines) = ([0.0; ROUNDS + 1], 1.0);
    for (turn, share) in turns.iter_mut().zip(aims.rounds.iter().chain([&aims.crossing])) {
        let (sin, cos) = (FRAC_PI_4 * aims.mixing * share).sin_cos();
        *turn = sin / cos;
        cosines *= cos;
    }
    Work {
        gain: from_fn(|i| cosines * damping[i].gain),
        low: shelf(&|i| damping[i].low),
        high: shelf(&|i| damping[i].high),
        enter: aims.enter.map(|enter| falls * enter),
        leave: aims.leave,
        turns,
    }
}

/// What the all-passes inside are worked with on the way there.
fn inside_of(aims: &Aims, rate_hz: f64) -> Inside {
    let decays = Decays::from_logarithms(aims.decays);
    Inside {
        gain: aims.inside,
        share: aims.inside_share,
        // Where there are none, nothing is lost in them.
        kept: aims
            .inside_lines
            .map(|frames| if frames == 0.0 { 1.0 } else { decays.kept(frames, rate_hz, 1.0 - aims.freeze) }),
    }
}

/// What leaves the lines of the side that begins at one of them.
#[inline(always)]
fn sum<const FROM: usize>(x: &Lanes, leave: &Lanes) -> f64 {
    // Two sums side by side.
    let mut sums = [0.0; 2];
    for i in (FROM..FROM + SIDE).step_by(2) {
        sums[0] += x[i] * leave[i];
        sums[1] += x[i + 1] * leave[i + 1];
    }
    sums[0] + sums[1]
}

/// Lets every line fall: a gain, and three first-order filters.
#[inline(always)]
fn fall(x: &mut Lanes, work: &Work, [low, high, again]: &mut [Lanes; 3]) {
    let ([l0, l1, la], [h0, h1, ha]) = (&work.low, &work.high);
    for i in 0..LINES {
        let u = work.gain[i] * x[i];
        let v = l0[i] * u + low[i];
        low[i] = l1[i] * u - la[i] * v;
        let w = h0[i] * v + high[i];
        high[i] = h1[i] * v - ha[i] * w;
        let y = h0[i] * w + again[i];
        again[i] = h1[i] * w - ha[i] * y;
        x[i] = y;
    }
}

/// Mixes pairs of lines: neighbours, then those that are two and four apart, then those of both sides.
#[inline(always)]
fn rotate(x: &mut Lanes, turns: &[f64; ROUNDS + 1]) {
    pairs::<1>(x, turns[0]);
    pairs::<2>(x, turns[1]);
    pairs::<4>(x, turns[2]);
    pairs::<SIDE>(x, turns[3]);
}

/// Mixes lines that are so far apart. They get larger by what the gain has taken before.
#[inline(always)]
fn pairs<const APART: usize>(x: &mut Lanes, tan: f64) {
    for from in (0..LINES).step_by(2 * APART) {
        for i in from..from + APART {
            (x[i], x[i + APART]) = (x[i] + tan * x[i + APART], x[i + APART] - tan * x[i]);
        }
    }
}
