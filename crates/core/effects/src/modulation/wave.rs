//! The shape of a swing: one family, in which every shape goes over into every other one.

use std::f64::consts::FRAC_PI_2;

use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;

/// The edge at which a swing goes in straight lines; under it, it is rounder, over it, its corners are cut off.
const STRAIGHT: f64 = 1.0 / 3.0;
/// An edge never takes less time than this, s: what moves that fast clicks.
const LEAST_EDGE_S: f64 = 0.003;
/// Nor a smaller share of a cycle.
const LEAST_EDGE: f64 = 0.005;

/// The shape of a swing, from -1 to 1 and back.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wave {
    /// Where the top lies: -1 at the beginning of the cycle (a saw that falls), 0 in the middle, 1 at its end (a saw that rises).
    pub lean: f64,
    /// 0 round (a sine), a third straight (a triangle), 1 with steep edges (a square).
    pub edge: f64,
    /// Share of chance, 0 to 1: with every cycle the swing goes to another random place, smoothly or, with steep edges, in steps.
    pub random: f64,
    /// What the random places are drawn from.
    pub seed: u64,
}

impl Wave {
    /// Where it is after so many cycles at a rate (Hz). It crosses 0 on its way up where a cycle begins.
    #[must_use]
    #[inline(always)]
    pub fn at(&self, cycles: f64, rate_hz: f64) -> f64 {
        if self.is_sine() {
            let place = cycles + 0.25;
            let place = place - cast::down(place);
            return quarter(if place < 0.5 { 4.0 * place - 1.0 } else { 3.0 - 4.0 * place });
        }
        let least = (LEAST_EDGE_S * rate_hz).clamp(LEAST_EDGE, 0.25);
        let mut value = 0.0;
        if self.random < 1.0 {
            value += (1.0 - self.random) * self.swung(cycles, least);
        }
        if self.random > 0.0 {
            value += self.random * self.drawn(cycles, least);
        }
        value
    }

    /// Whether it has no corner anywhere.
    #[must_use]
    pub fn is_sine(&self) -> bool {
        self.lean == 0.0 && self.edge == 0.0 && self.random == 0.0
    }

    /// The same way in every cycle.
    #[inline(always)]
    fn swung(&self, cycles: f64, least: f64) -> f64 {
        // The share of the cycle that it rises in.
        let rising = (0.5 + 0.5 * self.lean).clamp(least, 1.0 - least);
        let place = cycles + 0.5 * rising;
        let place = place - cast::down(place);
        let (straight, side) = if place < rising {
            (2.0 * place / rising - 1.0, rising)
        } else {
            (1.0 - 2.0 * (place - rising) / (1.0 - rising), 1.0 - rising)
        };
        if self.edge <= STRAIGHT {
            let share = self.edge / STRAIGHT;
            share * straight + (1.0 - share) * quarter(straight)
        } else {
            let steep = (self.edge - STRAIGHT) / (1.0 - STRAIGHT);
            // Where it leans, the shorter way is steep enough sooner.
            let times = (0.5 / least).powf(steep).min(side / least);
            let cut = (straight * times).clamp(-1.0, 1.0);
            (1.0 - steep) * cut + steep * quarter(cut)
        }
    }

    /// From one random place to the next.
    fn drawn(&self, cycles: f64, least: f64) -> f64 {
        let cycle = cast::down(cycles);
        let place = |cycle: f64| {
            // Before the beginning of a passage there are cycles too.
            let stream = cast::count(cycle.abs()) as u64 * 2 + u64::from(cycle < 0.0);
            SplitMix64::new(self.seed, stream).bipolar()
        };
        let way = least.powf(self.edge);
        let gone = ((cycles - cycle - (1.0 - way)) / way).clamp(0.0, 1.0);
        let (from, to) = (place(cycle), place(cycle + 1.0));
        from + (to - from) * 0.5 * (1.0 - (2.0 * FRAC_PI_2 * gone).cos())
    }
}

/// The sine of so many quarters of a turn, -1 to 1: its series, off by less than 1e-15. It is asked for at every few samples of every
/// voice, where the library's takes longer than all else.
#[inline(always)]
fn quarter(turns: f64) -> f64 {
    let x = FRAC_PI_2 * turns;
    let square = x * x;
    // 1, -1 / 3!, 1 / 5! and so on, every second one in a sum of its own: neither waits for the other.
    const EVEN: [f64; 5] =
        [1.0, 1.0 / 120.0, 1.0 / 362_880.0, 1.0 / 6_227_020_800.0, 1.0 / 355_687_428_096_000.0];
    const ODD: [f64; 5] = [
        -1.0 / 6.0,
        -1.0 / 5040.0,
        -1.0 / 39_916_800.0,
        -1.0 / 1_307_674_368_000.0,
        -1.0 / 121_645_100_408_832_000.0,
    ];
    let fourth = square * square;
    let sum = |factors: [f64; 5]| factors.iter().rev().fold(0.0, |sum, factor| sum * fourth + factor);
    x * (sum(EVEN) + square * sum(ODD))
}
