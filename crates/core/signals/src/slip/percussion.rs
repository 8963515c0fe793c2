//! What is struck: the hull, a bailing tin, a rigging chain, planks, a bell, an oil drum.
//!
//! A blow excites decaying modes, and softer blows excite fewer high ones.

use std::f64::consts::TAU;

use super::TEMPO;
use super::craft::{LN_60_DB, add_at_place, add_mode, finish, with_reflections};
use crate::{Family, Material, SEED, SignalKind, SplitMix64};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

settings! {
    /// Settings of the boatyard loop.
    pub struct BoatyardLoop {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// How far the quiet hits lie under the loud ones, dB.
        contrast_db: Param { label: "Contrast", unit: Unit::Db, min: 6.0, max: 36.0, default: 18.0, what: "How far the quiet hits lie under the loud ones.", ..Param::BLANK },
        /// Seed of the small differences between hits.
        seed: SEED,
    }
}

/// A percussive loop of loud and quiet hits.
pub const LOOP: SignalKind = SignalKind {
    id: "boatyard-loop",
    label: "Boatyard loop",
    family: Family::Slip,
    material: Material::Hits,
    purpose: "Struck hull, bailing tin and chain at Pellow Slip: dry hits, some loud and some quiet.",
    params: BoatyardLoop::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| make(&BoatyardLoop::from_values(values), rate_hz, channels),
};

settings! {
    /// Settings of the single hits.
    pub struct Hits {
        /// Time from hit to hit, s.
        interval_s: Param { label: "Interval", unit: Unit::S, min: 0.5, max: 4.0, default: 1.0, scale: Scale::Log, what: "Time from one hit to the next.", ..Param::BLANK },
        /// How far apart they stand from left to right: 0 all in the middle.
        spread: Param { label: "Spread", unit: Unit::Percent, what: "How far apart the hits stand from left to right: at 0 % they are mono.", ..Param::BLANK },
        /// Seed of the small differences between hits.
        seed: SEED,
    }
}

/// One dry hit after another, each of another body.
pub const HITS: SignalKind = SignalKind {
    id: "slip-hits",
    label: "Single hits",
    family: Family::Slip,
    material: Material::Hits,
    purpose: "Hull, tin, chain, plank, bell and oil drum at Pellow Slip, one dry hit of each, left to die away.",
    params: Hits::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Hits::from_values(values);
        let mut random = SplitMix64::new(cast::seed(s.seed), 11);
        let bodies = [&HULL, &TIN, &CHAIN, &PLANK, &BELL, &DRUM];
        let bodies_apart = bodies.len() - 1;
        let frames = cast::frames(s.interval_s, rate_hz);
        let mut out = vec![vec![0.0; frames * bodies.len()]; 2];
        for (k, body) in bodies.into_iter().enumerate() {
            let side = 2.0 * cast::real(k) / cast::real(bodies_apart) - 1.0;
            let blow = strike(body, 0.0, rate_hz, &mut random);
            add_at_place(&mut out, &blow, k * frames, s.spread * side);
        }
        finish(&out, channels)
    },
};

settings! {
    /// Settings of the oil drum.
    pub struct LowDrum {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// Seed of the small differences between hits.
        seed: SEED,
    }
}

/// A low drum on every beat.
pub const LOW_DRUM: SignalKind = SignalKind {
    id: "slip-drum",
    label: "Oil drum",
    family: Family::Slip,
    material: Material::Hits,
    purpose: "An empty oil drum at Pellow Slip, struck with the flat hand on every beat: a key for ducking.",
    params: LowDrum::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = LowDrum::from_values(values);
        let beat_s = 60.0 / s.tempo_bpm;
        let mut random = SplitMix64::new(cast::seed(s.seed), 13);
        let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
        for beat in 0..16 {
            let at_s = cast::real(beat) * beat_s + 0.002 * random.bipolar().abs();
            let level_db = random.bipolar() - if beat % 4 == 0 { 0.0 } else { 1.5 };
            let blow = strike(&DRUM, level_db, rate_hz, &mut random);
            add_at_place(&mut out, &blow, cast::frames(at_s, rate_hz), 0.04 * random.bipolar());
        }
        finish(&with_reflections(&out, rate_hz), channels)
    },
};

/// What is struck in the loop.
#[derive(Clone, Copy, PartialEq)]
enum Body {
    Hull,
    Tin,
    Chain,
}

impl Body {
    fn voice(self) -> &'static Voice {
        match self {
            Self::Hull => &HULL,
            Self::Tin => &TIN,
            Self::Chain => &CHAIN,
        }
    }
}

/// One blow: sixteenth of the bar, what is struck, and whether it is a loud one.
type Blow = (usize, Body, bool);

const BARS: [&[Blow]; 4] = [
    &[
        (0, Body::Hull, true),
        (2, Body::Chain, false),
        (4, Body::Tin, true),
        (6, Body::Chain, false),
        (7, Body::Tin, false),
        (10, Body::Hull, true),
        (12, Body::Tin, true),
        (14, Body::Chain, false),
    ],
    &[
        (0, Body::Hull, true),
        (2, Body::Chain, false),
        (4, Body::Tin, true),
        (6, Body::Hull, true),
        (9, Body::Tin, false),
        (10, Body::Chain, false),
        (12, Body::Tin, true),
        (14, Body::Chain, false),
        (15, Body::Tin, false),
    ],
    &[
        (0, Body::Hull, true),
        (2, Body::Chain, false),
        (4, Body::Tin, true),
        (6, Body::Chain, false),
        (7, Body::Tin, false),
        (8, Body::Hull, false),
        (10, Body::Hull, true),
        (12, Body::Tin, true),
        (14, Body::Chain, false),
    ],
    &[
        (0, Body::Hull, true),
        (3, Body::Hull, false),
        (4, Body::Tin, true),
        (6, Body::Chain, false),
        (8, Body::Hull, true),
        (10, Body::Tin, false),
        (12, Body::Tin, true),
        (13, Body::Tin, false),
        (14, Body::Chain, false),
    ],
];

fn make(s: &BoatyardLoop, rate_hz: u32, channels: usize) -> Vec<Vec<f32>> {
    let beat_s = 60.0 / s.tempo_bpm;
    let frames = cast::frames(16.0 * beat_s, rate_hz);
    let mut random = SplitMix64::new(cast::seed(s.seed), 7);
    let mut out = vec![vec![0.0; frames]; 2];
    for (bar, blows) in BARS.iter().enumerate() {
        for &(sixteenth, body, loud) in *blows {
            // Hands are not machines: a few milliseconds, a decibel or so.
            let at_s = (cast::real(bar) * 4.0 + cast::real(sixteenth) / 4.0) * beat_s
                + 0.003 * random.bipolar().abs();
            let level_db = 1.2 * random.bipolar() - if loud { 0.0 } else { s.contrast_db };
            let blow = strike(body.voice(), level_db, rate_hz, &mut random);
            let place = match body {
                Body::Hull => -0.05,
                Body::Tin => 0.22 + 0.05 * random.bipolar(),
                Body::Chain => -0.5 + 0.1 * random.bipolar(),
            };
            add_at_place(&mut out, &blow, cast::frames(at_s, rate_hz), place);
        }
    }
    finish(&with_reflections(&out, rate_hz), channels)
}

/// What a body sounds like when it is struck.
struct Voice {
    /// Frequency in Hz, time to fall by 60 dB in s, share.
    modes: &'static [(f64, f64, f64)],
    /// Noise of the contact: its level, its time to fall by 60 dB in s, and where its low end is cut, Hz.
    noise: (f64, f64, f64),
    /// How long the blow takes to build up, s: a hull gives way slowly, a chain hardly.
    rise_s: f64,
    /// Whether links land one after the other.
    links: bool,
}

const HULL: Voice = Voice {
    modes: &[
        // The hull gives way: its lowest mode is struck together with a higher, short one.
        (118.0, 0.10, 0.6),
        (61.0, 0.75, 1.0),
        (93.0, 0.55, 0.6),
        (148.0, 0.40, 0.45),
        (231.0, 0.26, 0.3),
        (402.0, 0.16, 0.22),
        (760.0, 0.08, 0.14),
        (1480.0, 0.05, 0.08),
    ],
    noise: (0.2, 0.05, 300.0),
    rise_s: 0.004,
    links: false,
};

const TIN: Voice = Voice {
    modes: &[
        (203.0, 0.42, 0.9),
        (337.0, 0.36, 0.7),
        (518.0, 0.31, 0.6),
        (811.0, 0.28, 0.5),
        (1290.0, 0.25, 0.4),
        (2040.0, 0.22, 0.3),
        (3310.0, 0.18, 0.22),
        (5120.0, 0.14, 0.16),
    ],
    noise: (0.45, 0.3, 1400.0),
    rise_s: 0.003,
    links: false,
};

const CHAIN: Voice = Voice {
    modes: &[(3100.0, 0.10, 0.8), (4700.0, 0.12, 1.0), (6900.0, 0.10, 0.9), (9400.0, 0.08, 0.6)],
    noise: (1.6, 0.16, 5200.0),
    rise_s: 0.001,
    links: true,
};

const PLANK: Voice = Voice {
    // A free bar: modes at 1, 2.76, 5.40 and 8.93 times the lowest (Fletcher and Rossing, "The Physics of
    // Musical Instruments", 2.15).
    modes: &[(312.0, 0.16, 1.0), (861.0, 0.10, 0.7), (1685.0, 0.06, 0.5), (2786.0, 0.04, 0.35)],
    noise: (0.5, 0.03, 900.0),
    rise_s: 0.0008,
    links: false,
};

const BELL: Voice = Voice {
    // Hum, prime, minor third, fifth, octave and above, each split in two that beat slowly.
    modes: &[
        (392.0, 2.6, 0.5),
        (784.6, 2.2, 0.7),
        (785.9, 2.2, 0.4),
        (932.5, 1.9, 0.6),
        (1175.0, 1.2, 0.35),
        (1568.8, 1.6, 0.8),
        (1571.2, 1.6, 0.4),
        (2352.0, 0.9, 0.4),
        (3240.0, 0.6, 0.3),
        (4730.0, 0.4, 0.2),
    ],
    noise: (0.15, 0.01, 3000.0),
    rise_s: 0.0005,
    links: false,
};

const DRUM: Voice = Voice {
    // A round skin of steel: modes at 1, 1.59, 2.14 and 2.30 times the lowest, which gives way at first.
    modes: &[
        (86.0, 0.07, 0.7),
        (52.0, 0.50, 1.0),
        (82.9, 0.24, 0.35),
        (111.0, 0.18, 0.25),
        (119.6, 0.16, 0.2),
        (640.0, 0.05, 0.12),
    ],
    noise: (0.25, 0.03, 600.0),
    rise_s: 0.002,
    links: false,
};

/// One blow on a body, at about full scale for 0 dB.
fn strike(voice: &Voice, level_db: f64, rate_hz: u32, random: &mut SplitMix64) -> Vec<f64> {
    let rate = f64::from(rate_hz);
    let gain = gain_from_db(level_db);
    // A softer blow stays in contact longer and excites high modes less: one octave per 18 dB.
    let brightness_hz = 5000.0 * (level_db / 18.0).exp2();
    let tilt = |freq: f64| 1.0 / (1.0 + (freq / brightness_hz).powi(2)).sqrt();
    let longest = voice.modes.iter().map(|mode| mode.1).fold(0.9, f64::max);
    let mut out = vec![0.0; cast::frames(longest, rate_hz)];
    for &(freq, t60, share) in voice.modes.iter().filter(|mode| mode.0 < 0.45 * rate) {
        let freq = freq * (1.0 + 0.004 * random.bipolar());
        let turn = random.bipolar() / 2.0;
        add_mode(&mut out, (freq, turn), t60, gain * share * tilt(freq), rate);
    }
    let (noise, noise_s, cut_hz) = voice.noise;
    let smooth = (-TAU * cut_hz / rate).exp();
    let fall = (-LN_60_DB / (noise_s * rate)).exp();
    let link = cast::frames(0.008, rate_hz).max(1);
    let rising = (-1.0 / (voice.rise_s * rate)).exp();
    let (mut low, mut size, mut missing) = (0.0, noise * gain * tilt(cut_hz), 1.0);
    for (n, x) in out.iter_mut().enumerate() {
        let white = random.bipolar();
        low = white + smooth * (low - white);
        // Links of the chain land one after the other.
        let landing = if voice.links && (n / link) % 3 == 2 { 0.35 } else { 1.0 };
        *x += size * landing * (white - low);
        size *= fall;
        missing *= rising;
        *x *= 1.0 - missing;
    }
    out
}
