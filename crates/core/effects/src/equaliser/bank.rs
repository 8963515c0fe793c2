//! Second-order sections at work: four at a time on both channels, each a sample behind the one before it.
//!
//! One after the other, sections would wait for each other's results; a step apart, eight of them run side by side in
//! SIMD lanes. At rest they run in direct form, which takes the fewest operations; while they move they run as
//! state-variable filters with trapezoidal integrators, whose states are those of the analogue filter, so that moving
//! them does not click. The states of the two forms are the same two numbers in other words. All of it is `f64`.

use super::section::Section;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{advance, twice_share};

/// A sample of both channels: left and right, or mid and side.
pub type Frame = [f64; 2];

/// While a band moves, its sections are worked out every so many samples, and go in straight lines in between.
pub const STEP: usize = 16;

/// Sections that run side by side.
const WIDE: usize = 4;
/// Lanes: sections times channels.
const LANES: usize = 2 * WIDE;

/// The numbers of a section that runs, for both channels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Numbers {
    g: f64,
    /// Twice 1 / (1 + g (g + k)).
    a: f64,
    /// Shares of the input, of the band and of the low part in the output, by channel.
    input: Frame,
    band: Frame,
    low: Frame,
}

impl Numbers {
    /// Passes everything.
    const THROUGH: Self = Self { g: 1.0, a: 0.5, input: [1.0; 2], ..Self::ZERO };
    const ZERO: Self = Self { g: 0.0, a: 0.0, input: [0.0; 2], band: [0.0; 2], low: [0.0; 2] };

    /// Those of a section, of which each channel gets a share from 0, nothing, to 1.
    #[must_use]
    pub fn of(section: &Section, shares: Frame) -> Self {
        let Section { g, k, n: [n0, n1, n2] } = *section;
        Self {
            g,
            a: twice_share(g, k),
            input: shares.map(|share| 1.0 + share * (n2 - 1.0)),
            band: shares.map(|share| 0.5 * share * (n1 - k * n2)),
            low: shares.map(|share| 0.5 * share * (n0 - n2)),
        }
    }

    /// One of so many steps on the straight line to others.
    fn step_towards(&self, to: &Self, steps: f64) -> Self {
        let each = |from: f64, to: f64| (to - from) / steps;
        let both = |from: Frame, to: Frame| [each(from[0], to[0]), each(from[1], to[1])];
        Self {
            g: each(self.g, to.g),
            a: each(self.a, to.a),
            input: both(self.input, to.input),
            band: both(self.band, to.band),
            low: both(self.low, to.low),
        }
    }

    #[inline(always)]
    fn add(&mut self, step: &Self) {
        self.g += step.g;
        self.a += step.a;
        for c in 0..2 {
            self.input[c] += step.input[c];
            self.band[c] += step.band[c];
            self.low[c] += step.low[c];
        }
    }
}

/// A section at work, on both channels.
#[derive(Debug, Clone, Copy)]
pub struct Runner {
    numbers: Numbers,
    /// Where the numbers go, and by which steps.
    target: Numbers,
    step: Numbers,
    /// The states: of the integrators, or, in direct form, the latest two values between poles and zeros.
    first: Frame,
    second: Frame,
    direct: bool,
}

/// States smaller than this are none: keeps denormal numbers away.
const SMALLEST: f64 = 1e-30;

impl Runner {
    /// Passes everything.
    pub const THROUGH: Self = Self {
        numbers: Numbers::THROUGH,
        target: Numbers::THROUGH,
        step: Numbers::ZERO,
        first: [0.0; 2],
        second: [0.0; 2],
        direct: false,
    };

    /// Arrives where it was going, and goes on to other numbers within [`STEP`] samples.
    pub fn aim(&mut self, numbers: Numbers) {
        self.numbers = self.target;
        self.target = numbers;
        self.step = self.numbers.step_towards(&numbers, cast::real(STEP));
    }

    /// Takes on other numbers at once.
    pub fn take(&mut self, numbers: Numbers) {
        self.numbers = numbers;
        self.target = numbers;
        self.step = Numbers::ZERO;
    }

    /// Forgets all earlier samples.
    pub fn reset(&mut self) {
        self.first = [0.0; 2];
        self.second = [0.0; 2];
        self.direct = false;
    }

    /// Lets states that have died away end.
    pub fn settle(&mut self) {
        for (first, second) in self.first.iter_mut().zip(&mut self.second) {
            if first.abs() < SMALLEST && second.abs() < SMALLEST {
                (*first, *second) = (0.0, 0.0);
            }
        }
    }

    /// Runs over some frames while the numbers go to their target in a straight line.
    pub fn run_moving(&mut self, frames: &mut [Frame]) {
        self.leave_direct();
        for frame in frames {
            self.numbers.add(&self.step);
            let Numbers { g, a, input, band, low } = self.numbers;
            for c in 0..2 {
                let state = (&mut self.first[c], &mut self.second[c]);
                let (twice_band, twice_low) = advance(state, g, a, frame[c]);
                frame[c] = input[c] * frame[c] + band[c] * twice_band + low[c] * twice_low;
            }
        }
    }

    /// With w for what lies between poles and zeros, the bilinear transform makes the integrators hold
    /// a g (w1 - w2) and a g^2 (w1 + w2).
    fn factors(&self) -> (f64, f64) {
        // At rest these are the target's; when a move begins they still are what was.
        let Numbers { g, a, .. } = self.numbers;
        (a * g, a * g * g)
    }

    fn enter_direct(&mut self) {
        if !self.direct {
            self.direct = true;
            let (difference, sum) = self.factors();
            for c in 0..2 {
                let (apart, together) = (self.first[c] / difference, self.second[c] / sum);
                (self.first[c], self.second[c]) = (0.5 * (together + apart), 0.5 * (together - apart));
            }
        }
    }

    fn leave_direct(&mut self) {
        if self.direct {
            self.direct = false;
            let (difference, sum) = self.factors();
            for c in 0..2 {
                let (w1, w2) = (self.first[c], self.second[c]);
                (self.first[c], self.second[c]) = (difference * (w1 - w2), sum * (w1 + w2));
            }
        }
    }

    /// Poles and zeros in direct form, by channel: a1, a2, b0, b1, b2.
    fn direct_form(&self, c: usize) -> [f64; 5] {
        let Numbers { g, a, input, band, low } = self.target;
        let (band, low) = (band[c] * a * g, low[c] * a * g * g);
        let (a1, a2) = (a * (g * g - 1.0), a * (1.0 + g * g) - 1.0);
        [a1, a2, input[c] + band + low, input[c] * a1 + 2.0 * low, input[c] * a2 - band + low]
    }
}

/// Sections side by side in direct form, lane by lane.
struct Lanes {
    a1: [f64; LANES],
    a2: [f64; LANES],
    b0: [f64; LANES],
    b1: [f64; LANES],
    b2: [f64; LANES],
    w1: [f64; LANES],
    w2: [f64; LANES],
}

impl Lanes {
    fn gather(runners: &mut [&mut Runner]) -> Self {
        runners.iter_mut().for_each(|runner| runner.enter_direct());
        // Lanes without a section pass everything.
        let mut lanes = Self {
            a1: [0.0; LANES],
            a2: [0.0; LANES],
            b0: [1.0; LANES],
            b1: [0.0; LANES],
            b2: [0.0; LANES],
            w1: [0.0; LANES],
            w2: [0.0; LANES],
        };
        for (i, runner) in runners.iter().enumerate() {
            for c in 0..2 {
                let lane = 2 * i + c;
                [lanes.a1[lane], lanes.a2[lane], lanes.b0[lane], lanes.b1[lane], lanes.b2[lane]] =
                    runner.direct_form(c);
                (lanes.w1[lane], lanes.w2[lane]) = (runner.first[c], runner.second[c]);
            }
        }
        lanes
    }

    fn scatter(&self, runners: &mut [&mut Runner]) {
        for (i, runner) in runners.iter_mut().enumerate() {
            runner.first = [self.w1[2 * i], self.w1[2 * i + 1]];
            runner.second = [self.w2[2 * i], self.w2[2 * i + 1]];
        }
    }

    /// Runs over some frames: a section is a step behind the one before it, so they begin and end one after the other.
    fn run(&mut self, frames: &mut [Frame]) {
        let (n, lag) = (frames.len(), WIDE - 1);
        // What has left each section at the step before.
        let mut left = [0.0; LANES];
        (0..lag).for_each(|t| self.run_some(t, frames, &mut left));
        if n > lag {
            self.run_all(&mut frames[lag..], &mut left);
            // What has left the last section stands where the first one's input stood.
            frames.copy_within(lag.., 0);
        }
        (n.max(lag)..n + lag).for_each(|t| self.run_some(t, frames, &mut left));
    }

    /// One step in which only some sections have a frame to work on.
    fn run_some(&mut self, t: usize, frames: &mut [Frame], left: &mut [f64; LANES]) {
        let at_work = (t + 1).saturating_sub(frames.len())..WIDE.min(t + 1);
        let (w1, w2) = (self.w1, self.w2);
        let mut frame = [frames.get(t).copied().unwrap_or_default()];
        self.run_all(&mut frame, left);
        for lane in (0..LANES).filter(|lane| !at_work.contains(&(lane / 2))) {
            (self.w1[lane], self.w2[lane]) = (w1[lane], w2[lane]);
        }
        if t + 1 >= WIDE {
            frames[t + 1 - WIDE] = frame[0];
        }
    }

    /// All sections at every step: each frame goes into the first, and what leaves the last takes its place.
    fn run_all(&mut self, frames: &mut [Frame], left: &mut [f64; LANES]) {
        let Self { a1, a2, b0, b1, b2, w1, w2 } = *self;
        let (mut w1, mut w2, mut y) = (w1, w2, *left);
        for frame in frames {
            let x = [frame[0], frame[1], y[0], y[1], y[2], y[3], y[4], y[5]];
            for i in 0..LANES {
                let w = (x[i] - a2[i] * w2[i]) - a1[i] * w1[i];
                y[i] = b0[i] * w + (b1[i] * w1[i] + b2[i] * w2[i]);
                w2[i] = w1[i];
                w1[i] = w;
            }
            *frame = [y[LANES - 2], y[LANES - 1]];
        }
        (self.w1, self.w2, *left) = (w1, w2, y);
    }
}

/// Runs sections, one after the other, over a block.
pub fn run<'a>(mut runners: impl Iterator<Item = &'a mut Runner>, frames: &mut [Frame]) {
    loop {
        let (a, b, c, d) = (runners.next(), runners.next(), runners.next(), runners.next());
        match (a, b, c, d) {
            (Some(a), Some(b), Some(c), Some(d)) => pass(&mut [a, b, c, d], frames),
            (Some(a), Some(b), Some(c), None) => pass(&mut [a, b, c], frames),
            (Some(a), Some(b), None, _) => pass(&mut [a, b], frames),
            (Some(a), None, ..) => pass(&mut [a], frames),
            _ => return,
        }
    }
}

fn pass(runners: &mut [&mut Runner], frames: &mut [Frame]) {
    let mut lanes = Lanes::gather(runners);
    lanes.run(frames);
    lanes.scatter(runners);
}
