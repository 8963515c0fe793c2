//! What is blown: the harmonium of the sail loft and the fog horn; and two takes of the harmonium that went
//! wrong, one with hum and one with wind.

use std::f64::consts::TAU;

use super::craft::finish;
use super::{BARS, TEMPO};
use crate::{Family, LEVEL, Material, SECONDS, SEED, SignalKind, SplitMix64};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

/// How a reed sounds.
struct Reed {
    freq_hz: f64,
    /// How fast its partials fall: 1/k to this power.
    dullness: f64,
    partials: usize,
    /// How far left and right are apart: cents of detuning, and turns of phase at the lowest partial.
    apart_cents: f64,
    apart_turns: f64,
    /// Time in which it speaks and falls silent, s.
    rise_s: f64,
    fall_s: f64,
}

/// Adds a reed that sounds for some frames to left and right, wrapped around the loop.
fn blow(out: &mut [Vec<f64>], reed: &Reed, at: usize, frames: usize, level: f64, rate: f64) {
    let tail = cast::count(5.0 * reed.fall_s * rate);
    for (channel, side) in out.iter_mut().zip([-1.0, 1.0]) {
        let freq = reed.freq_hz * (side * reed.apart_cents / 2400.0).exp2();
        let mut sum = vec![0.0; frames + tail];
        for k in 1..=reed.partials {
            let freq = freq * cast::real(k);
            if freq > 0.45 * rate {
                break;
            }
            let size = level / cast::real(k).powf(reed.dullness);
            let phase = cast::real(k * k % 7) / 7.0 + side * reed.apart_turns / (2.0 * cast::real(k));
            let (sin, cos) = (TAU * freq / rate).sin_cos();
            let (mut y, mut x) = (TAU * phase).sin_cos();
            for sample in &mut sum {
                *sample += size * y;
                (x, y) = (cos * x - sin * y, sin * x + cos * y);
            }
        }
        let (rise, fall) = ((-1.0 / (reed.rise_s * rate)).exp(), (-1.0 / (reed.fall_s * rate)).exp());
        let (mut missing, mut left) = (1.0, 1.0);
        let length = channel.len();
        for (n, x) in sum.into_iter().enumerate() {
            missing *= rise;
            if n >= frames {
                left *= fall;
            }
            channel[(at + n) % length] += x * (1.0 - missing) * left;
        }
    }
}

/// The four chords of the piece on the harmonium.
fn harmonium(tempo_bpm: f64, low_turns: f64, rate_hz: u32) -> Vec<Vec<f64>> {
    let rate = f64::from(rate_hz);
    let beat_s = 60.0 / tempo_bpm;
    let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
    for (bar, chord) in BARS.iter().enumerate() {
        let notes = [2.0 * chord.root_hz].into_iter().chain(chord.chord_hz);
        for (k, freq_hz) in notes.enumerate() {
            let low = k == 0;
            let reed = Reed {
                freq_hz,
                dullness: 1.3,
                partials: 14,
                apart_cents: if low { 1.0 } else { 7.0 },
                apart_turns: if low { low_turns } else { 0.1 },
                rise_s: 0.02 + 0.006 * cast::real(k),
                fall_s: 0.09,
            };
            let at = cast::frames(4.0 * cast::real(bar) * beat_s, rate_hz);
            // A chord on the beat, held for three, and a short one before the next bar.
            blow(&mut out, &reed, at, cast::frames(2.8 * beat_s, rate_hz), if low { 0.9 } else { 0.5 }, rate);
            let again = at + cast::frames(3.5 * beat_s, rate_hz);
            blow(&mut out, &reed, again, cast::frames(0.3 * beat_s, rate_hz), 0.3, rate);
        }
    }
    out
}

settings! {
    /// Settings of the harmonium.
    pub struct Keys {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// How far the lowest notes are out of phase between left and right, share of half a turn.
        low_width: Param { label: "Width of the lows", unit: Unit::Percent, default: 0.8, what: "How far left and right are out of phase in the lowest notes: 0 % is mono, 100 % cancels in mono.", ..Param::BLANK },
    }
}

/// Stereo keys with wide lows.
pub const KEYS: SignalKind = SignalKind {
    id: "slip-keys",
    label: "Harmonium",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "The harmonium of the sail loft at Pellow Slip: stereo chords whose lows are wide.",
    params: Keys::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Keys::from_values(values);
        finish(&harmonium(s.tempo_bpm, s.low_width / 2.0, rate_hz), channels)
    },
};

settings! {
    /// Settings of the short chords.
    pub struct Chords {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
        /// How long a chord is held, ms.
        length_ms: Param { label: "Length", unit: Unit::Ms, min: 40.0, max: 400.0, default: 140.0, scale: Scale::Log, what: "How long a chord is held before the keys are let go.", ..Param::BLANK },
    }
}

/// Chords that are short, and silence after each.
pub const CHORDS: SignalKind = SignalKind {
    id: "slip-chords",
    label: "Short chords",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "The harmonium at Pellow Slip, one short chord a bar and nothing after it: what rings on then is the reverb.",
    params: Chords::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Chords::from_values(values);
        let (rate, beat_s) = (f64::from(rate_hz), 60.0 / s.tempo_bpm);
        let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
        let held = cast::frames(s.length_ms / 1000.0, rate_hz);
        for (bar, chord) in BARS.iter().enumerate() {
            for freq_hz in chord.chord_hz {
                let reed = Reed {
                    freq_hz,
                    dullness: 1.1,
                    partials: 24,
                    apart_cents: 3.0,
                    apart_turns: 0.1,
                    rise_s: 0.004,
                    fall_s: 0.01,
                };
                blow(&mut out, &reed, cast::frames(cast::real(4 * bar) * beat_s, rate_hz), held, 0.2, rate);
            }
        }
        finish(&out, channels)
    },
};

settings! {
    /// Settings of the fog horn.
    pub struct Horn {
        /// Frequency, Hz.
        freq_hz: Param { label: "Frequency", unit: Unit::Hz, min: 60.0, max: 1000.0, default: 220.0, scale: Scale::Log, what: "Frequency of the horn.", ..Param::BLANK },
        /// Length, s.
        seconds: Param { max: 60.0, ..SECONDS },
    }
}

/// A held bright tone.
pub const HORN: SignalKind = SignalKind {
    id: "slip-horn",
    label: "Fog horn",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "The electric fog horn at Pellow Slip: one bright tone, held, with a resonance or two in its bell.",
    params: Horn::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Horn::from_values(values);
        let frames = cast::frames(s.seconds, rate_hz);
        let rate = f64::from(rate_hz);
        // Whole waves in the length, so that it loops.
        let freq = (s.freq_hz * s.seconds).round().max(1.0) / s.seconds;
        let mut out = vec![vec![0.0; frames]; 2];
        // The bell of the horn lifts what lies near its own frequencies: centre in Hz, Q, lift.
        let lift = |f: f64| {
            let peaks = [(1380.0, 9.0, 2.4), (3150.0, 12.0, 3.0)];
            1.0 + peaks.map(|(c, q, by)| by / (1.0 + (q * (f / c - c / f)).powi(2))).iter().sum::<f64>()
        };
        for k in 1..=cast::floor(0.42 * rate / freq).min(60) {
            let partial = freq * cast::real(k);
            let size = lift(partial) / cast::real(k).powf(0.8);
            for (channel, side) in out.iter_mut().zip([-1.0, 1.0]) {
                let (sin, cos) = (TAU * partial / rate).sin_cos();
                let (mut y, mut x) = (TAU * (cast::real(k * k % 11) / 11.0 + 0.02 * side)).sin_cos();
                for sample in channel {
                    *sample += size * y;
                    (x, y) = (cos * x - sin * y, sin * x + cos * y);
                }
            }
        }
        finish(&out, channels)
    },
};

settings! {
    /// Settings of the take with hum.
    pub struct Hum {
        /// Frequency of the mains, Hz.
        mains_hz: Param { label: "Mains", unit: Unit::Hz, min: 50.0, max: 60.0, default: 50.0, step: 10.0, what: "Frequency of the mains: 50 or 60 Hz. The hum has all its multiples.", ..Param::BLANK },
        /// Level of the hum's strongest part, dBFS.
        hum_dbfs: Param { label: "Hum", default: -32.0, max: -10.0, what: "Level of the strongest part of the hum.", ..LEVEL },
        /// Seed of the noise.
        seed: SEED,
    }
}

/// A recording with mains hum.
pub const HUM: SignalKind = SignalKind {
    id: "slip-hum",
    label: "Harmonium with hum",
    family: Family::Slip,
    material: Material::Sounds,
    purpose: "The harmonium again, on a bad cable: mains hum with its multiples, and the noise of the amplifier.",
    params: Hum::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Hum::from_values(values);
        let mut take = finish(&harmonium(120.0, 0.1, rate_hz), channels);
        let mut random = SplitMix64::new(cast::seed(s.seed), 31);
        let rate = f64::from(rate_hz);
        // Odd multiples are stronger, as a transformer has them; levels against the strongest, dB.
        let parts = [0.0, -9.0, -3.0, -14.0, -8.0, -18.0, -12.0, -22.0, -16.0, -26.0];
        // Beyond, up to 1.2 kHz and over, they go on falling.
        let more = (10..24).map(|k| -17.0 - 0.8 * cast::real(k - 10) - if k % 2 == 1 { 9.0 } else { 0.0 });
        let parts: Vec<f64> = parts.into_iter().chain(more).collect();
        let frames = take[0].len();
        let hum: Vec<f64> = (0..frames)
            .map(|n| {
                let turns = (s.mains_hz * cast::real(n) / rate).fract();
                let part = |(k, db): (usize, f64)| {
                    gain_from_db(s.hum_dbfs + db) * (TAU * turns * cast::real(k + 1)).sin()
                };
                parts.iter().copied().enumerate().map(part).sum::<f64>()
            })
            .collect();
        for channel in &mut take {
            for (x, hum) in channel.iter_mut().zip(&hum) {
                let noise = gain_from_db(-66.0) * random.bipolar();
                *x = cast::sample(0.5 * f64::from(*x) + hum + noise);
            }
        }
        take
    },
};

settings! {
    /// Settings of the take with wind.
    pub struct Rumble {
        /// RMS level of the rumble, dBFS.
        rumble_dbfs: Param { label: "Rumble", default: -24.0, max: -12.0, what: "RMS level of the rumble in each channel.", ..LEVEL },
        /// Seed.
        seed: SEED,
    }
}

/// A recording with rumble in the sides.
pub const RUMBLE: SignalKind = SignalKind {
    id: "slip-rumble",
    label: "Harmonium in the wind",
    family: Family::Slip,
    material: Material::Sounds,
    purpose: "The harmonium with the loft door open: wind shakes the two microphones against each other, so the rumble sits in the sides.",
    params: Rumble::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Rumble::from_values(values);
        let mut take = finish(&harmonium(120.0, 0.1, rate_hz), channels);
        let mut random = SplitMix64::new(cast::seed(s.seed), 37);
        let frames = take[0].len();
        // Noise through three gentle cuts at 36 Hz and two under 16 Hz, twice round so that it loops: a wind that is
        // felt, and still moves a loudspeaker.
        let keep = (-TAU * 36.0 / f64::from(rate_hz)).exp();
        let lose = (-TAU * 16.0 / f64::from(rate_hz)).exp();
        let white: Vec<f64> = (0..frames).map(|_| random.bipolar()).collect();
        let mut states = [0.0; 3];
        let mut lows = [0.0; 2];
        let mut rumble = vec![0.0; frames];
        for n in 0..2 * frames {
            let mut x = white[n % frames];
            for state in &mut states {
                *state = x + keep * (*state - x);
                x = *state;
            }
            for low in &mut lows {
                *low = x + lose * (*low - x);
                x -= *low;
            }
            rumble[n % frames] = x;
        }
        let rms = (rumble.iter().map(|x| x * x).sum::<f64>() / cast::real(frames.max(1))).sqrt();
        let gain = gain_from_db(s.rumble_dbfs) / rms.max(1e-12);
        for (channel, side) in take.iter_mut().zip([1.0, -1.0]) {
            for (x, rumble) in channel.iter_mut().zip(&rumble) {
                *x = cast::sample(0.5 * f64::from(*x) + side * gain * rumble);
            }
        }
        take
    },
};

settings! {
    /// Settings of the held chord.
    pub struct Pad {
        /// Tempo, beats per minute.
        tempo_bpm: TEMPO,
    }
}

/// A soft, wide, held part high over the others.
pub const PAD: SignalKind = SignalKind {
    id: "slip-bottles",
    label: "Blown bottles",
    family: Family::Slip,
    material: Material::Notes,
    purpose: "Bottles blown in turn at Pellow Slip: a soft, wide, held part with hardly any attack.",
    params: Pad::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Pad::from_values(values);
        let rate = f64::from(rate_hz);
        let beat_s = 60.0 / s.tempo_bpm;
        let mut out = vec![vec![0.0; cast::frames(16.0 * beat_s, rate_hz)]; 2];
        for (bar, chord) in BARS.iter().enumerate() {
            for (k, freq) in chord.chord_hz.iter().enumerate() {
                let reed = Reed {
                    freq_hz: 2.0 * freq,
                    dullness: 2.6,
                    partials: 5,
                    apart_cents: 9.0,
                    apart_turns: 0.3,
                    rise_s: 0.18 + 0.04 * cast::real(k),
                    fall_s: 0.25,
                };
                let at = cast::frames((4.0 * cast::real(bar) + 0.2 * cast::real(k)) * beat_s, rate_hz);
                blow(&mut out, &reed, at, cast::frames(3.2 * beat_s, rate_hz), 0.5, rate);
            }
        }
        finish(&out, channels)
    },
};
