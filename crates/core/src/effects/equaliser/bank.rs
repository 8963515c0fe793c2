//! Second-order sections at work: four at a time on both channels, each a sample behind the one before it.
//!
//! One after the other, sections would wait for each other's results; a step apart, eight of them run side by side in
//! SIMD lanes. Each is a state-variable filter with trapezoidal integrators, whose states are those of the analogue
//! filter, so that moving it does not click. States and samples in between are `f64`.

use super::section::Section;
use crate::cast;

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
    const THROUGH: Self = Self { g: 0.0, a: 2.0, input: [1.0; 2], ..Self::ZERO };
    const ZERO: Self = Self { g: 0.0, a: 0.0, input: [0.0; 2], band: [0.0; 2], low: [0.0; 2] };

    /// Those of a section, of which each channel gets a share from 0, nothing, to 1.
    #[must_use]
    pub fn of(section: &Section, shares: Frame) -> Self {
        let Section { g, k, n: [n0, n1, n2] } = *section;
        Self {
            g,
            a: 2.0 / (1.0 + g * (g + k)),
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
    first: Frame,
    second: Frame,
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
        for frame in frames {
            self.numbers.add(&self.step);
            let Numbers { g, a, input, band, low } = self.numbers;
            for c in 0..2 {
                let state = (&mut self.first[c], &mut self.second[c]);
                frame[c] = advance(state, g, a, [input[c], band[c], low[c]], frame[c]);
            }
        }
    }
}

/// One sample through a state-variable filter.
#[inline(always)]
fn advance((first, second): (&mut f64, &mut f64), g: f64, a: f64, [input, band, low]: [f64; 3], x: f64) -> f64 {
    let turned = a * (g * (x - *second) + *first);
    *first = turned - *first;
    let next = *second + g * turned;
    let sum = *second + next;
    *second = next;
    input * x + band * turned + low * sum
}

/// The numbers of the sections that run side by side, lane by lane.
struct Lanes {
    g: [f64; LANES],
    a: [f64; LANES],
    input: [f64; LANES],
    band: [f64; LANES],
    low: [f64; LANES],
    first: [f64; LANES],
    second: [f64; LANES],
}

impl Lanes {
    fn gather(runners: &[&mut Runner]) -> Self {
        let of = |lane: usize| runners.get(lane / 2).map_or(&Runner::THROUGH, |runner| &**runner);
        Self {
            g: std::array::from_fn(|i| of(i).target.g),
            a: std::array::from_fn(|i| of(i).target.a),
            input: std::array::from_fn(|i| of(i).target.input[i % 2]),
            band: std::array::from_fn(|i| of(i).target.band[i % 2]),
            low: std::array::from_fn(|i| of(i).target.low[i % 2]),
            first: std::array::from_fn(|i| of(i).first[i % 2]),
            second: std::array::from_fn(|i| of(i).second[i % 2]),
        }
    }

    fn scatter(&self, runners: &mut [&mut Runner]) {
        for (i, runner) in runners.iter_mut().enumerate() {
            runner.first = [self.first[2 * i], self.first[2 * i + 1]];
            runner.second = [self.second[2 * i], self.second[2 * i + 1]];
        }
    }

    /// One sample of one lane.
    #[inline(always)]
    fn step(&mut self, lane: usize, x: f64) -> f64 {
        let state = (&mut self.first[lane], &mut self.second[lane]);
        advance(state, self.g[lane], self.a[lane], [self.input[lane], self.band[lane], self.low[lane]], x)
    }

    /// One sample of all lanes.
    #[inline(always)]
    fn step_all(&mut self, x: &[f64; LANES]) -> [f64; LANES] {
        let mut out = [0.0; LANES];
        for lane in 0..LANES {
            out[lane] = self.step(lane, x[lane]);
        }
        out
    }

    /// One sample of both channels of a section.
    fn step_one(&mut self, section: usize, x: Frame) -> Frame {
        [self.step(2 * section, x[0]), self.step(2 * section + 1, x[1])]
    }

    fn run(&mut self, frames: &mut [Frame]) {
        let n = frames.len();
        if n < LANES {
            for frame in frames {
                *frame = (0..WIDE).fold(*frame, |x, section| self.step_one(section, x));
            }
            return;
        }
        // What has left each section at the step before.
        let mut left = [0.0; LANES];
        for t in 0..WIDE - 1 {
            for section in (0..=t).rev() {
                let x = if section == 0 { frames[t] } else { [left[2 * section - 2], left[2 * section - 1]] };
                [left[2 * section], left[2 * section + 1]] = self.step_one(section, x);
            }
        }
        for t in WIDE - 1..n {
            let [l, r] = frames[t];
            let x = [l, r, left[0], left[1], left[2], left[3], left[4], left[5]];
            left = self.step_all(&x);
            frames[t + 1 - WIDE] = [left[LANES - 2], left[LANES - 1]];
        }
        for t in n..n + WIDE - 1 {
            for section in (t + 1 - n..WIDE).rev() {
                [left[2 * section], left[2 * section + 1]] =
                    self.step_one(section, [left[2 * section - 2], left[2 * section - 1]]);
            }
            frames[t + 1 - WIDE] = [left[LANES - 2], left[LANES - 1]];
        }
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
