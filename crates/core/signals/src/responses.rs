//! Responses that are shipped: places and devices that exist nowhere, each made by its recipe.
//!
//! Places are random pulses that thicken with the square of time, as reflections in a room do, up to noise (Karjalainen and
//! Järveläinen, "Reverberation Modeling Using Velvet Noise", AES 30th Conference, 2007), split into octaves that fall each in a time of
//! its own. Hollow bodies are sums of modes that ring. Springs are pulses that go to and fro and are spread, lows first (Välimäki and
//! others, "Parametric Spring Reverberation Effect", JAES 58(7), 2010; from memory). Cabinets are an impulse through a few filters.

use std::f64::consts::{FRAC_1_SQRT_2, TAU};

use super::{Family, Material, SEED, SignalKind, SplitMix64};
use clear_bend_catalogue::settings;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, StateVariable};

settings! {
    /// Settings of a shipped response.
    pub struct Made {
        /// Seed of what is random in it.
        seed: SEED,
    }
}

/// Where octaves meet, Hz.
const EDGES_HZ: [f64; 7] = [88.0, 177.0, 354.0, 707.0, 1414.0, 2828.0, 5657.0];
/// The largest sample, linear.
const PEAK: f64 = 0.5;
/// After a decay by so much the response ends, times the decay time: 72 dB.
const ENDS: f64 = 1.2;

/// How a place answers.
struct Place {
    /// Times to fall by 60 dB in eight octaves from 63 Hz up, s.
    decay_s: [f64; 8],
    /// When the first reflection comes, and when reflections are as dense as noise, ms.
    first_ms: f64,
    dense_ms: f64,
    /// How loud the octaves begin, dB.
    tone_db: [f64; 8],
}

impl Place {
    fn sides(&self, seed: u64, rate_hz: u32, channels: usize) -> Vec<Vec<f64>> {
        let rate = f64::from(rate_hz);
        let longest = self.decay_s.iter().fold(0.0, |a: f64, b| a.max(*b));
        let first = cast::count(self.first_ms / 1000.0 * rate);
        let frames = first + cast::count(ENDS * longest * rate);
        let falls = self.decay_s.map(|decay_s| (-1000f64.ln() / (decay_s * rate)).exp());
        let corners = EDGES_HZ.map(|hz| Corner::butterworth(hz, rate));
        let mut gains = self.tone_db.map(clear_bend_sound::level::gain_from_db);
        // Both sides go side by side, which a processor does in hardly more time than one.
        let mut randoms = [40, 41].map(|stream| SplitMix64::new(seed, stream));
        let mut filters = [[[StateVariable::default(); 4]; 2]; 7];
        let mut sides = vec![vec![0.0; frames]; 2];
        for n in first..frames {
            let way = cast::real(n - first + 1) / (self.dense_ms / 1000.0 * rate);
            let chance = way.powi(2).clamp(1e-3, 1.0);
            let mut rest = randoms.each_mut().map(|random| {
                let (throw, sign) = (0.5 * (random.bipolar() + 1.0), random.bipolar().signum());
                if throw < chance { sign / chance.sqrt() } else { 0.0 }
            });
            let mut sums = [0.0; 2];
            // Twice Butterworth's corner: 24 dB per octave to both sides (Linkwitz and Riley).
            for ((filters, corner), gain) in filters.iter_mut().zip(&corners).zip(&gains) {
                for (([low, lower, high, higher], rest), sum) in
                    filters.iter_mut().zip(&mut rest).zip(&mut sums)
                {
                    let under = low.step(corner, *rest).low;
                    *sum += gain * lower.step(corner, under).low;
                    let over = high.step(corner, *rest).high;
                    *rest = higher.step(corner, over).high;
                }
            }
            for (side, (sum, rest)) in sides.iter_mut().zip(sums.iter().zip(rest)) {
                side[n] = sum + gains[7] * rest;
            }
            gains.iter_mut().zip(falls).for_each(|(gain, fall)| *gain *= fall);
        }
        sides.truncate(channels);
        sides
    }
}

/// A hollow body: modes that ring.
struct Body {
    modes: u32,
    /// The lowest and the highest of them, Hz, and how long those ring, s.
    range_hz: (f64, f64),
    decay_s: (f64, f64),
}

impl Body {
    fn sides(&self, seed: u64, rate_hz: u32, channels: usize) -> Vec<Vec<f64>> {
        let rate = f64::from(rate_hz);
        let frames = cast::count(ENDS * self.decay_s.0.max(self.decay_s.1) * rate);
        let mut random = SplitMix64::new(seed, 50);
        let octaves = (self.range_hz.1 / self.range_hz.0).log2();
        let mut out = vec![vec![0.0; frames]; channels];
        for _ in 0..self.modes {
            // Modes of a plate or shell stand as close at all frequencies: more of them in an octave that is higher.
            let place = 0.5 * (random.bipolar() + 1.0);
            let hz = self.range_hz.0 + place * (self.range_hz.1 - self.range_hz.0);
            let way = (hz / self.range_hz.0).log2() / octaves;
            let decay_s = self.decay_s.0 * (self.decay_s.1 / self.decay_s.0).powf(way);
            let fall = (-1000f64.ln() / (decay_s * rate)).exp();
            let (turn, rings) = (TAU * hz / rate, cast::count(ENDS * decay_s * rate));
            let (back, further) = (2.0 * fall * turn.cos(), fall * fall);
            for side in &mut out {
                let (gain, phase) = (random.bipolar(), TAU * random.bipolar());
                // A decaying sine is made of its last two samples.
                let (mut last, mut before) =
                    (gain * (phase - turn).sin() / fall, gain * (phase - 2.0 * turn).sin() / further);
                for y in side.iter_mut().take(rings) {
                    (last, before) = (back * last - further * before, last);
                    *y += last;
                }
            }
        }
        out
    }
}

/// A spring: pulses to and fro, each spread more than the one before.
fn spring(seed: u64, rate_hz: u32, channels: usize) -> Vec<Vec<f64>> {
    const WAY_S: f64 = 0.033;
    const ROUNDS: usize = 34;
    const SPREADS: usize = 60;
    let rate = f64::from(rate_hz);
    let frames = cast::count(1.9 * rate);
    let side = |channel: usize| {
        let mut random = SplitMix64::new(seed, 60 + u64::try_from(channel).unwrap_or(0));
        let mut out = vec![0.0; frames];
        for round in 0..ROUNDS {
            let late = WAY_S * (cast::real(2 * round + 1) + 0.04 * random.bipolar());
            if let Some(y) = out.get_mut(cast::floor(late * rate)) {
                *y +=
                    0.82f64.powi(i32::try_from(round).unwrap_or(0)) * if round % 2 == 0 { 1.0 } else { -1.0 };
            }
        }
        // All-passes over four samples are slower for what is high: up to a quarter of half the rate, the rest is cut.
        for _ in 0..SPREADS {
            // Four at once: none of them needs another.
            let mut past = [[0.0f64; 2]; 4];
            for four in out.chunks_mut(4) {
                for (y, [x4, y4]) in four.iter_mut().zip(&mut past) {
                    let x = *y;
                    *y = 0.62 * x + *x4 - 0.62 * *y4;
                    // What has died away between two rounds would be reckoned with slowly.
                    if y.abs() < 1e-30 {
                        *y = 0.0;
                    }
                    (*x4, *y4) = (x, *y);
                }
            }
        }
        filtered(
            &mut out,
            &[
                (true, 110.0, FRAC_1_SQRT_2),
                (false, 0.21 * rate.min(20_000.0), 0.9),
                (false, 0.21 * rate.min(20_000.0), FRAC_1_SQRT_2),
            ],
            rate,
        );
        out
    };
    (0..channels).map(side).collect()
}

/// High-passes (true) and low-passes with a frequency (Hz) and a Q, one after the other.
fn filtered(sound: &mut [f64], filters: &[(bool, f64, f64)], rate: f64) {
    for (high, hz, q) in filters {
        let (corner, mut filter) = (Corner::new(*hz, *q, rate), StateVariable::default());
        for x in sound.iter_mut() {
            let parts = filter.step(&corner, *x);
            *x = if *high { parts.high } else { parts.low };
        }
    }
}

/// A speaker in its cabinet: filters, and what comes back from the edges of the baffle.
fn cabinet(
    filters: &[(bool, f64, f64)],
    edges_ms: &[(f64, f64)],
    rate_hz: u32,
    channels: usize,
) -> Vec<Vec<f64>> {
    let rate = f64::from(rate_hz);
    let mut out = vec![0.0; cast::count(0.08 * rate)];
    out[0] = 1.0;
    for (ms, gain) in edges_ms {
        if let Some(y) = out.get_mut(cast::count(ms / 1000.0 * rate)) {
            *y += gain;
        }
    }
    filtered(&mut out, filters, rate);
    vec![out; channels]
}

/// The same at the level of responses.
pub(super) fn at_peak(sides: Vec<Vec<f64>>) -> Vec<Vec<f32>> {
    let peak = sides.iter().flatten().fold(0.0, |most, x| if x.abs() > most { x.abs() } else { most });
    let gain = if peak > 0.0 { PEAK / peak } else { 0.0 };
    sides.into_iter().map(|side| side.into_iter().map(|x| cast::sample(gain * x)).collect()).collect()
}

/// A response by what makes its sides from seed, rate and channels.
macro_rules! response {
    ($name:ident, $id:literal, $label:literal, $purpose:literal, $make:expr) => {
        #[doc = $purpose]
        pub const $name: SignalKind = SignalKind {
            id: $id,
            label: $label,
            family: Family::Response,
            material: Material::Clicks,
            purpose: $purpose,
            params: Made::PARAMS,
            highest: |_| None,
            fits: |_| Ok(()),
            make: |values, rate_hz, channels| {
                let make: fn(u64, u32, usize) -> Vec<Vec<f64>> = $make;
                at_peak(make(cast::seed(Made::from_values(values).seed), rate_hz, channels))
            },
        };
    };
}

/// Air and walls leave a place less of the highs than it gets.
const WARM: [f64; 8] = [0.0, 0.0, 0.0, -1.0, -2.0, -4.0, -7.0, -11.0];

response!(
    CHART_ROOM,
    "response-chart-room",
    "Chart room",
    "A small room with books and carpet: close walls, gone in a third of a second.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [0.42, 0.4, 0.36, 0.33, 0.3, 0.28, 0.25, 0.2],
            first_ms: 3.0,
            dense_ms: 22.0,
            tone_db: WARM,
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    NET_LOFT,
    "response-net-loft",
    "Net loft",
    "A wooden room under a roof: warm, three quarters of a second.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [0.7, 0.78, 0.8, 0.76, 0.72, 0.66, 0.55, 0.4],
            first_ms: 6.0,
            dense_ms: 45.0,
            tone_db: WARM,
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    SAIL_LOFT,
    "response-sail-loft",
    "Sail loft",
    "A long, bare room: bright, a second and a half.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [1.2, 1.35, 1.5, 1.55, 1.5, 1.4, 1.1, 0.7],
            first_ms: 11.0,
            dense_ms: 80.0,
            tone_db: WARM,
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    TIDE_HALL,
    "response-tide-hall",
    "Tide hall",
    "A large hall of stone and wood: two and a half seconds, longer in the lows.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [3.1, 2.9, 2.7, 2.5, 2.3, 2.0, 1.5, 0.9],
            first_ms: 18.0,
            dense_ms: 140.0,
            tone_db: WARM,
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    BRIGHT_PLATE,
    "response-bright-plate",
    "Bright plate",
    "A sheet of steel: dense at once, brighter than any room.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [1.4, 1.7, 1.9, 2.0, 2.0, 1.9, 1.7, 1.4],
            first_ms: 0.0,
            dense_ms: 3.0,
            tone_db: [-9.0, -6.0, -3.0, 0.0, 1.0, 2.0, 3.0, 3.0],
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    DAMPED_PLATE,
    "response-damped-plate",
    "Damped plate",
    "The same sheet with a damper near it: short, and dark.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [0.8, 0.9, 0.95, 0.9, 0.8, 0.65, 0.5, 0.35],
            first_ms: 0.0,
            dense_ms: 3.0,
            tone_db: [-6.0, -3.0, 0.0, 0.0, 0.0, -1.0, -3.0, -6.0],
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(SPRING, "response-spring", "Spring", "A long spring in a box: echoes that come as chirps.", spring);
response!(
    HULL,
    "response-hull",
    "Hull",
    "The empty hull of a steel boat: a few hundred modes that ring.",
    |seed, rate_hz, channels| {
        Body { modes: 220, range_hz: (55.0, 6500.0), decay_s: (1.8, 0.25) }.sides(seed, rate_hz, channels)
    }
);
response!(
    TANK,
    "response-tank",
    "Tank",
    "An empty water tank: lows that boom for four seconds.",
    |seed, rate_hz, channels| {
        Place {
            decay_s: [4.2, 4.0, 3.4, 2.6, 1.9, 1.3, 0.8, 0.4],
            first_ms: 5.0,
            dense_ms: 60.0,
            tone_db: [3.0, 2.0, 0.0, 0.0, -2.0, -4.0, -6.0, -9.0],
        }
        .sides(seed, rate_hz, channels)
    }
);
response!(
    SMALL_CABINET,
    "response-small-cabinet",
    "Small cabinet",
    "One small speaker in an open box: no lows, a hard middle.",
    |_, rate_hz, channels| {
        cabinet(
            &[(true, 140.0, 0.9), (false, 4200.0, 1.6), (false, 6000.0, 0.7)],
            &[(0.35, -0.3), (0.6, 0.15)],
            rate_hz,
            channels,
        )
    }
);
response!(
    CLOSED_CABINET,
    "response-closed-cabinet",
    "Closed cabinet",
    "Two larger speakers in a closed box: firm lows, and an end at 5 kHz.",
    |_, rate_hz, channels| {
        cabinet(
            &[(true, 85.0, 1.2), (false, 3400.0, 1.4), (false, 5000.0, 0.9)],
            &[(0.55, -0.25), (0.9, -0.1)],
            rate_hz,
            channels,
        )
    }
);
response!(
    TALL_CABINET,
    "response-tall-cabinet",
    "Tall cabinet",
    "Four speakers, heard from near one of them: dark, with a dip where the others come late.",
    |_, rate_hz, channels| {
        cabinet(
            &[(true, 75.0, 1.1), (false, 2900.0, 1.3), (false, 4600.0, 0.8)],
            &[(0.8, 0.5), (1.15, 0.25), (2.1, -0.1)],
            rate_hz,
            channels,
        )
    }
);
response!(
    BASS_CABINET,
    "response-bass-cabinet",
    "Bass cabinet",
    "A large speaker in a box with a port: lows to 45 Hz, and little over 3 kHz.",
    |_, rate_hz, channels| {
        cabinet(
            &[(true, 45.0, 1.3), (false, 2300.0, 0.9), (false, 3200.0, 0.7)],
            &[(1.3, 0.2)],
            rate_hz,
            channels,
        )
    }
);
