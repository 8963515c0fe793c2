//! The demo scenario: the evening crew of the boatyard at Pellow Slip, an invented place, plays on what
//! lies around while the tide is out. Here: a struck hull, a bailing tin and a rigging chain.
//!
//! Every sound is a physical sketch: a blow excites decaying modes, softer blows excite fewer high ones,
//! and the slip's stone walls answer with a few early reflections. The loop is circular: what rings past
//! its end is heard at its start.

use std::f64::consts::TAU;

use super::{SEED, SignalKind, SplitMix64};
use crate::cast;
use crate::catalogue::{Param, Scale, Unit};
use crate::level::gain_from_db;
use crate::settings;

settings! {
    /// Settings of the boatyard loop.
    pub struct BoatyardLoop {
        /// Tempo, beats per minute.
        tempo_bpm: Param { label: "Tempo", min: 60.0, max: 180.0, default: 120.0, scale: Scale::Log, what: "Beats per minute. Four bars of four beats: 8 s at 120.", ..Param::BLANK },
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
    purpose: "Struck hull, bailing tin and chain at Pellow Slip: dry hits, some loud and some quiet.",
    params: BoatyardLoop::PARAMS,
    make: |values, rate_hz, channels| make(&BoatyardLoop::from_values(values), rate_hz, channels),
};

/// What is struck.
#[derive(Clone, Copy, PartialEq)]
enum Body {
    Hull,
    Tin,
    Chain,
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

/// Early reflections: delay in ms, level in dB, channel.
const REFLECTIONS: [(f64, f64, usize); 6] = [
    (7.3, -15.0, 1),
    (11.9, -17.0, 0),
    (17.2, -19.0, 1),
    (23.6, -20.0, 0),
    (31.7, -23.0, 1),
    (38.3, -24.0, 0),
];

/// Peak of the finished loop, dBFS.
const PEAK_DBFS: f64 = -1.5;

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
            let blow = strike(body, level_db, rate_hz, &mut random);
            let place = match body {
                Body::Hull => -0.05,
                Body::Tin => 0.22 + 0.05 * random.bipolar(),
                Body::Chain => -0.5 + 0.1 * random.bipolar(),
            };
            add_at_place(&mut out, &blow, cast::frames(at_s, rate_hz), place);
        }
    }
    let mut out = with_reflections(&out, rate_hz);
    if channels == 1 {
        let right = out.pop().unwrap_or_default();
        out[0].iter_mut().zip(right).for_each(|(l, r)| *l = (*l + r) / 2.0);
    }
    let peak = out.iter().flatten().fold(0.0, |peak: f64, x| peak.max(x.abs()));
    let gain = gain_from_db(PEAK_DBFS) / peak.max(1e-9);
    out.iter().map(|c| c.iter().map(|x| cast::sample(gain * x)).collect()).collect()
}

/// What a body sounds like when it is struck.
struct Voice {
    /// Frequency in Hz, time to fall by 60 dB in s, share.
    modes: &'static [(f64, f64, f64)],
    /// Noise of the contact: its level, its time to fall by 60 dB in s, and where its low end is cut, Hz.
    noise: (f64, f64, f64),
    /// How long the blow takes to build up, s: a hull gives way slowly, a chain hardly.
    rise_s: f64,
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
};

const CHAIN: Voice = Voice {
    modes: &[(3100.0, 0.10, 0.8), (4700.0, 0.12, 1.0), (6900.0, 0.10, 0.9), (9400.0, 0.08, 0.6)],
    noise: (1.6, 0.16, 5200.0),
    rise_s: 0.001,
};

/// Natural logarithm of 60 dB of amplitude: decay constants from times to fall by 60 dB.
const LN_60_DB: f64 = 6.907_755;

/// One blow on a body, at about full scale for 0 dB.
fn strike(body: Body, level_db: f64, rate_hz: u32, random: &mut SplitMix64) -> Vec<f64> {
    let voice = match body {
        Body::Hull => HULL,
        Body::Tin => TIN,
        Body::Chain => CHAIN,
    };
    let rate = f64::from(rate_hz);
    let gain = gain_from_db(level_db);
    // A softer blow stays in contact longer and excites high modes less: one octave per 18 dB.
    let brightness_hz = 5000.0 * (level_db / 18.0).exp2();
    let tilt = |freq: f64| 1.0 / (1.0 + (freq / brightness_hz).powi(2)).sqrt();
    let mut out = vec![0.0; cast::frames(0.9, rate_hz)];
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
        let landing = if body == Body::Chain && (n / link) % 3 == 2 { 0.35 } else { 1.0 };
        *x += size * landing * (white - low);
        size *= fall;
        missing *= rising;
        *x *= 1.0 - missing;
    }
    out
}

/// Adds a decaying sine of a frequency in Hz that begins at a place of its cycle in turns, by turning a
/// pointer a little at every sample.
fn add_mode(out: &mut [f64], (freq_hz, turn): (f64, f64), t60_s: f64, level: f64, rate: f64) {
    let fall = (-LN_60_DB / (t60_s * rate)).exp();
    let (sin, cos) = (TAU * freq_hz / rate).sin_cos();
    let (mut y, mut x) = (TAU * turn).sin_cos();
    (x, y) = (level * x, level * y);
    for sample in out {
        *sample += y;
        (x, y) = (fall * (cos * x - sin * y), fall * (sin * x + cos * y));
    }
}

/// Adds a blow at a frame, wrapped around the loop; place -1 is left, +1 right, by equal power.
fn add_at_place(out: &mut [Vec<f64>], blow: &[f64], at: usize, place: f64) {
    let angle = (place + 1.0) * TAU / 8.0;
    for (channel, gain) in out.iter_mut().zip([angle.cos(), angle.sin()]) {
        let frames = channel.len();
        for (n, x) in blow.iter().enumerate() {
            channel[(at + n) % frames] += gain * x;
        }
    }
}

/// The dry sound with its early reflections, each a little darker, wrapped around the loop.
fn with_reflections(dry: &[Vec<f64>], rate_hz: u32) -> Vec<Vec<f64>> {
    let frames = dry[0].len();
    let mono: Vec<f64> = dry[0].iter().zip(&dry[1]).map(|(l, r)| (l + r) / 2.0).collect();
    let soften = (-TAU * 3500.0 / f64::from(rate_hz)).exp();
    let mut dark = vec![0.0; frames];
    let mut state = 0.0;
    // Twice round, so that the filter has settled where the loop closes.
    for n in 0..2 * frames {
        state = mono[n % frames] + soften * (state - mono[n % frames]);
        dark[n % frames] = state;
    }
    let mut out = dry.to_vec();
    for (delay_ms, level_db, channel) in REFLECTIONS {
        let delay = cast::frames(delay_ms / 1000.0, rate_hz);
        let gain = gain_from_db(level_db);
        for (n, x) in dark.iter().enumerate() {
            out[channel][(n + delay) % frames] += gain * x;
        }
    }
    out
}
