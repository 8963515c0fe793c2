//! What is plucked: a mooring rope as a bass, rigging wires as two rhythm parts, and a wire driven hard.
//!
//! Strings after Karplus and Strong, "Digital Synthesis of Plucked-String and Drum Timbres", Computer Music
//! Journal 7(2), 1983, with the tuning all-pass and the pick position of Jaffe and Smith, same volume.

use std::f64::consts::{PI, TAU};

use super::craft::{LN_60_DB, add_at_place, finish, with_reflections};
use super::{BARS, TEMPO};
use crate::{Family, Material, SEED, SignalKind, SplitMix64};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Unit};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

/// How a string is plucked.
struct Pluck {
    freq_hz: f64,
    /// How long it sounds before it is damped, s.
    seconds: f64,
    /// Time to fall by 60 dB at its lowest partial, s.
    t60_s: f64,
    /// 0 dull to 1 bright.
    brightness: f64,
    /// Where it is plucked, share of its length.
    pick: f64,
    level: f64,
}

/// The samples of one plucked string.
fn pluck(p: &Pluck, rate: f64, random: &mut SplitMix64) -> Vec<f64> {
    let period = rate / p.freq_hz;
    // The loop filter (1-s) + s z^-1 delays low partials by s samples; the all-pass makes up the rest.
    let smooth = 0.5 - 0.4 * p.brightness;
    let whole = cast::floor(period - smooth - 0.3);
    let rest = period - smooth - cast::real(whole);
    let tune = (1.0 - rest) / (1.0 + rest);
    let loss = (-LN_60_DB / (p.t60_s * p.freq_hz)).exp();
    // A blow of noise, softened twice by finger or nail, as heard from the place where it is plucked.
    let keep = (-TAU * p.freq_hz * (3.0 + 40.0 * p.brightness * p.brightness) / rate).exp();
    let white: Vec<f64> = (0..whole).map(|_| random.bipolar()).collect();
    let (mut once, mut twice) = (0.0, 0.0);
    let mut blow = vec![0.0; whole];
    for n in 0..3 * whole {
        once = white[n % whole] + keep * (once - white[n % whole]);
        twice = once + keep * (twice - once);
        blow[n % whole] = twice;
    }
    let mean = blow.iter().sum::<f64>() / cast::real(whole.max(1));
    let place = cast::count(p.pick * cast::real(whole)).max(1);
    let mut string: Vec<f64> =
        (0..whole).map(|n| p.level * (blow[n] - mean - (blow[(n + whole - place) % whole] - mean))).collect();
    let frames = cast::count(p.seconds * rate);
    let damping = cast::count(0.03 * rate).min(frames);
    let (mut last, mut passed_in, mut passed_out) = (0.0, 0.0, 0.0);
    (0..frames)
        .map(|n| {
            let at = n % whole;
            let x = string[at];
            let filtered = loss * ((1.0 - smooth) * x + smooth * last);
            last = x;
            passed_out = tune * (filtered - passed_out) + passed_in;
            passed_in = filtered;
            string[at] = passed_out;
            let left = frames - n;
            if left < damping { x * cast::real(left) / cast::real(damping) } else { x }
        })
        .collect()
}

settings! {
    /// Settings of the rope bass.
    pub struct Bass {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// 0 dull to 1 bright.
        brightness: Param { label: "Brightness", unit: Unit::Percent, default: 0.35, what: "How bright the rope sounds: from a thumb to a fingernail.", ..Param::BLANK },
        /// Seed.
        seed: SEED,
    }
}

/// A plucked bass line.
pub const BASS: SignalKind = SignalKind {
    id: "slip-bass",
    label: "Rope bass",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "A mooring rope at Pellow Slip, plucked over an empty hold: a bass line with uneven notes.",
    params: Bass::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Bass::from_values(values);
        let rate = f64::from(rate_hz);
        let beat_s = 60.0 / s.tempo_bpm;
        let mut random = SplitMix64::new(cast::seed(s.seed), 17);
        let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
        // Place in eighths, interval over the root, length in eighths, level in dB.
        let line = [
            (0, 1.0, 2.6, 0.0),
            (3, 1.0, 0.9, -7.0),
            (4, 1.5, 1.8, -3.0),
            (6, 1.0, 0.9, -1.0),
            (7, 2.0, 0.8, -9.0),
        ];
        for (bar, chord) in BARS.iter().enumerate() {
            for (eighth, interval, length, level_db) in line {
                let note = Pluck {
                    freq_hz: chord.root_hz * interval,
                    seconds: length * beat_s / 2.0,
                    t60_s: 3.5,
                    brightness: s.brightness,
                    pick: 0.21,
                    level: gain_from_db(level_db + 1.5 * random.bipolar()),
                };
                let at_s = (cast::real(8 * bar + eighth) / 2.0) * beat_s + 0.004 * random.bipolar().abs();
                let samples = pluck(&note, rate, &mut random);
                add_at_place(&mut out, &samples, cast::frames(at_s, rate_hz), 0.0);
            }
        }
        finish(&out, channels)
    },
};

settings! {
    /// Settings of a rhythm part.
    pub struct Wires {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// Seed.
        seed: SEED,
    }
}

/// How a rhythm part is strummed.
struct Strum {
    stream: u64,
    /// The eighths of a bar that are strummed, and how hard, dB.
    pattern: &'static [(usize, f64)],
    /// Factor on the chord's frequencies.
    voicing: [f64; 4],
    brightness: f64,
    pick: f64,
    place: f64,
}

fn strum(how: &Strum, values: &[f64], rate_hz: u32, channels: usize) -> Vec<Vec<f32>> {
    let s = Wires::from_values(values);
    let beat_s = 60.0 / s.tempo_bpm;
    let mut random = SplitMix64::new(cast::seed(s.seed), how.stream);
    let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
    for (bar, chord) in BARS.iter().enumerate() {
        for &(eighth, level_db) in how.pattern {
            let at_s = cast::real(8 * bar + eighth) / 2.0 * beat_s;
            for (k, (freq, factor)) in chord.chord_hz.iter().zip(how.voicing).enumerate() {
                // The hand takes some milliseconds from wire to wire, down on the beat and up off it.
                let order = if eighth % 2 == 0 { k } else { 3 - k };
                let late_s = 0.007 * cast::real(order) + 0.002 * random.bipolar().abs();
                let note = Pluck {
                    freq_hz: freq * factor,
                    seconds: 0.75,
                    t60_s: 1.4,
                    brightness: how.brightness,
                    pick: how.pick,
                    level: gain_from_db(level_db + 2.0 * random.bipolar()),
                };
                let samples = pluck(&note, f64::from(rate_hz), &mut random);
                let place = how.place + 0.08 * random.bipolar();
                add_at_place(&mut out, &samples, cast::frames(at_s + late_s, rate_hz), place);
            }
        }
    }
    finish(&with_reflections(&out, rate_hz), channels)
}

/// The first of two rhythm parts.
pub const WIRES_ONE: SignalKind = SignalKind {
    id: "slip-wires-1",
    label: "Rigging wires 1",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "Strummed rigging wires at Pellow Slip: the first of two similar parts that mask each other.",
    params: Wires::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let how = Strum {
            stream: 19,
            pattern: &[(0, 0.0), (2, -5.0), (3, -8.0), (4, -1.0), (6, -4.0), (7, -9.0)],
            voicing: [1.0, 1.0, 1.0, 1.0],
            brightness: 0.55,
            pick: 0.13,
            place: -0.35,
        };
        strum(&how, values, rate_hz, channels)
    },
};

/// The second one, an answer in nearly the same range.
pub const WIRES_TWO: SignalKind = SignalKind {
    id: "slip-wires-2",
    label: "Rigging wires 2",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "The second pair of hands on the wires: nearly the same range as the first, so each hides the other.",
    params: Wires::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let how = Strum {
            stream: 23,
            pattern: &[(0, -2.0), (1, -9.0), (3, -3.0), (4, -4.0), (5, -7.0), (6, -1.0)],
            voicing: [2.0, 1.0, 1.0, 1.0],
            brightness: 0.5,
            pick: 0.17,
            place: 0.3,
        };
        strum(&how, values, rate_hz, channels)
    },
};

/// A wire driven hard, straight from the pickup: no cabinet takes off its top.
pub const DRIVEN: SignalKind = SignalKind {
    id: "slip-driven-wire",
    label: "Driven wire",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "A rigging wire with a pickup, distorted and without a cabinet: all its fizz is still there.",
    params: Wires::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Wires::from_values(values);
        let beat_s = 60.0 / s.tempo_bpm;
        let rate = f64::from(rate_hz * OVERSAMPLING);
        let mut random = SplitMix64::new(cast::seed(s.seed), 29);
        let frames = cast::frames(16.0 * beat_s, rate_hz);
        let mut fast = vec![vec![0.0; frames * cast::count(f64::from(OVERSAMPLING))]; 2];
        for (bar, chord) in BARS.iter().enumerate() {
            for (eighth, length, level_db) in [(0, 3.0, 0.0), (3, 2.6, -2.0), (6, 1.8, -1.0)] {
                for interval in [1.0, 1.5, 2.0] {
                    let note = Pluck {
                        freq_hz: 2.0 * chord.root_hz * interval,
                        seconds: length * beat_s / 2.0,
                        t60_s: 5.0,
                        brightness: 0.9,
                        pick: 0.11,
                        level: gain_from_db(level_db),
                    };
                    let at = cast::count(cast::real(8 * bar + eighth) / 2.0 * beat_s * rate);
                    add_at_place(&mut fast, &pluck(&note, rate, &mut random), at, -1.0);
                }
            }
        }
        let driven: Vec<f64> = fast[0].iter().map(|x| (12.0 * x).tanh()).collect();
        let mono = decimated(&driven, frames);
        finish(&[mono.clone(), mono], channels)
    },
};

/// The drive bends the wave at this multiple of the rate, so that few of its harmonics fold back.
const OVERSAMPLING: u32 = 4;

/// Every fourth sample of a loop, after a windowed sinc that cuts at 0.45 of the new rate.
fn decimated(fast: &[f64], frames: usize) -> Vec<f64> {
    const HALF: usize = 96;
    let step = fast.len() / frames;
    let cut = 0.45 / cast::real(step);
    let taps: Vec<f64> = (0..=2 * HALF)
        .map(|n| {
            let t = cast::real(n) - cast::real(HALF);
            let sinc = if t == 0.0 { 2.0 * cut } else { (TAU * cut * t).sin() / (PI * t) };
            let turn = TAU * cast::real(n) / cast::real(2 * HALF);
            sinc * (0.42 - 0.5 * turn.cos() + 0.08 * (2.0 * turn).cos())
        })
        .collect();
    let n = fast.len();
    (0..frames)
        .map(|k| taps.iter().enumerate().map(|(i, tap)| tap * fast[(k * step + n + i - HALF) % n]).sum())
        .collect()
}
