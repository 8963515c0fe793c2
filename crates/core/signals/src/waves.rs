//! Tones with more than one partial: two tones, a sweep, a detuned stack, band-limited square, saw and triangle.

use std::f64::consts::{PI, TAU};

use super::tones::{repeated, sine};
use super::{FREQUENCY, Family, LEVEL, Material, SECONDS, SignalKind};
use clear_bend_catalogue::Param;
use clear_bend_catalogue::settings;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

settings! {
    /// Settings of two tones.
    pub struct TwoTones {
        /// Frequency of the first, Hz.
        freq_hz: Param { label: "First frequency", default: 220.0, what: "Frequency of the first tone.", ..FREQUENCY },
        /// Peak level of the first, dBFS.
        level_dbfs: Param { label: "First level", default: -12.0, what: "Peak level of the first tone.", ..LEVEL },
        /// Frequency of the second, Hz.
        second_hz: Param { label: "Second frequency", default: 3000.0, what: "Frequency of the second tone.", ..FREQUENCY },
        /// Peak level of the second, dBFS.
        second_dbfs: Param { label: "Second level", default: -12.0, what: "Peak level of the second tone.", ..LEVEL },
        /// Length, s.
        seconds: SECONDS,
    }
}

/// Two steady sines at once.
pub const TWO_TONES: SignalKind = SignalKind {
    id: "two-tones",
    label: "Two tones",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "A low and a high tone at once: shows whether the one moves the other.",
    params: TwoTones::PARAMS,
    highest: |values| {
        let s = TwoTones::from_values(values);
        Some(if s.second_hz > s.freq_hz { ("second_hz", s.second_hz) } else { ("freq_hz", s.freq_hz) })
    },
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = TwoTones::from_values(values);
        let gains = [s.level_dbfs, s.second_dbfs].map(gain_from_db);
        repeated(channels, cast::frames(s.seconds, rate_hz), |n| {
            gains[0] * sine(s.freq_hz, 0.0, n, rate_hz) + gains[1] * sine(s.second_hz, 0.0, n, rate_hz)
        })
    },
};

settings! {
    /// Settings of a logarithmic sweep.
    pub struct Sweep {
        /// First frequency, Hz.
        from_hz: Param { label: "From", default: 20.0, what: "Frequency at the start.", ..FREQUENCY },
        /// Last frequency, Hz.
        to_hz: Param { label: "To", default: 20_000.0, what: "Frequency at the end.", ..FREQUENCY },
        /// Peak level, dBFS.
        level_dbfs: LEVEL,
        /// Length, s.
        seconds: SECONDS,
    }
}

/// A sine that takes the same time for every octave. Its phase after Farina, "Simultaneous Measurement of
/// Impulse Response and Distortion with a Swept-Sine Technique", AES 108th Convention, 2000.
pub const SWEEP: SignalKind = SignalKind {
    id: "sweep",
    label: "Sweep",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "One tone from low to high, the same time for every octave: hears every frequency once.",
    params: Sweep::PARAMS,
    highest: |values| {
        let s = Sweep::from_values(values);
        Some(if s.to_hz > s.from_hz { ("to_hz", s.to_hz) } else { ("from_hz", s.from_hz) })
    },
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Sweep::from_values(values);
        let gain = gain_from_db(s.level_dbfs);
        let rate = f64::from(rate_hz);
        let octaves = (s.to_hz / s.from_hz).ln();
        repeated(channels, cast::frames(s.seconds, rate_hz), |n| {
            let t = cast::real(n) / rate;
            let turns = if octaves.abs() < 1e-9 {
                s.from_hz * t
            } else {
                s.from_hz * s.seconds / octaves * (t / s.seconds * octaves).exp_m1()
            };
            gain * (TAU * turns.fract()).sin()
        })
    },
};

settings! {
    /// Settings of a stack of detuned tones.
    pub struct Stack {
        /// Middle frequency, Hz.
        freq_hz: Param { label: "Frequency", default: 440.0, what: "Frequency in the middle of the stack.", ..FREQUENCY },
        /// How many tones.
        tones: Param { label: "Tones", min: 2.0, max: 9.0, default: 5.0, step: 1.0, what: "How many tones there are.", ..Param::BLANK },
        /// From the lowest to the highest, cents.
        spread_cents: Param { label: "Spread", min: 1.0, max: 200.0, default: 30.0, what: "From the lowest tone to the highest, in cents: 100 cents are a semitone.", ..Param::BLANK },
        /// Level where all waves meet, dBFS.
        level_dbfs: Param { what: "Peak level where all waves meet.", default: -12.0, ..LEVEL },
        /// Length, s.
        seconds: SECONDS,
    }
}

/// Several tones of nearly the same frequency, spread over left and right.
pub const STACK: SignalKind = SignalKind {
    id: "detuned-stack",
    label: "Detuned stack",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "A few tones of nearly the same frequency: what a chorus imitates with a single one.",
    params: Stack::PARAMS,
    highest: |values| {
        let s = Stack::from_values(values);
        Some(("freq_hz", s.freq_hz * (s.spread_cents / 2400.0).exp2()))
    },
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Stack::from_values(values);
        let count = cast::count(s.tones).max(2);
        let gain = gain_from_db(s.level_dbfs) / cast::real(count);
        let frames = cast::frames(s.seconds, rate_hz);
        let freqs: Vec<f64> = (0..count)
            .map(|k| {
                let place = cast::real(k) / cast::real(count - 1) - 0.5;
                s.freq_hz * (place * s.spread_cents / 1200.0).exp2()
            })
            .collect();
        let channel = |c: usize| {
            (0..frames)
                .map(|n| {
                    // Each channel begins with other phases: wide, and equal in level.
                    let tone = |(k, freq): (usize, &f64)| {
                        sine(*freq, cast::real(k * (1 + 2 * c) % count) / cast::real(count), n, rate_hz)
                    };
                    cast::sample(gain * freqs.iter().enumerate().map(tone).sum::<f64>())
                })
                .collect()
        };
        (0..channels).map(channel).collect()
    },
};

settings! {
    /// Settings of a band-limited wave.
    pub struct Wave {
        /// Frequency, Hz.
        freq_hz: Param { label: "Frequency", min: 20.0, default: 220.0, what: "Frequency of the wave. All its harmonics under half the sample rate are there, and none above.", ..FREQUENCY },
        /// Level of the ideal wave, dBFS.
        level_dbfs: Param { what: "Peak level of the ideal wave. Without the harmonics above half the sample rate, square and saw overshoot by up to 1.4 dB.", default: -12.0, ..LEVEL },
        /// Length, s.
        seconds: SECONDS,
    }
}

/// The harmonics of a wave under half the rate: each every `step`-th, with the size that `size` gives.
fn harmonics(
    values: &[f64],
    rate_hz: u32,
    channels: usize,
    step: usize,
    size: fn(usize) -> f64,
) -> Vec<Vec<f32>> {
    let s = Wave::from_values(values);
    let gain = gain_from_db(s.level_dbfs);
    let highest = cast::floor((f64::from(rate_hz) / 2.0 - 1e-6) / s.freq_hz);
    let sizes: Vec<f64> = (1..=highest).step_by(step).map(size).collect();
    repeated(channels, cast::frames(s.seconds, rate_hz), |n| {
        let x = TAU * (s.freq_hz * cast::real(n) / f64::from(rate_hz)).fract();
        // sin((k + step) x) = 2 cos(step x) sin(k x) - sin((k - step) x).
        let turn = 2.0 * (cast::real(step) * x).cos();
        let (mut last, mut now) = ((x - cast::real(step) * x).sin(), x.sin());
        let mut sum = 0.0;
        for size in &sizes {
            sum += size * now;
            (last, now) = (now, turn * now - last);
        }
        gain * sum
    })
}

/// A square wave without aliasing.
pub const SQUARE: SignalKind = SignalKind {
    id: "square",
    label: "Square wave",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "Odd harmonics only, band-limited: hollow and bright, with the smallest crest factor there is.",
    params: Wave::PARAMS,
    highest: |values| Some(("freq_hz", Wave::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| harmonics(values, rate_hz, channels, 2, |k| 4.0 / (PI * cast::real(k))),
};

/// A sawtooth without aliasing.
pub const SAW: SignalKind = SignalKind {
    id: "saw",
    label: "Saw wave",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "All harmonics, band-limited: the brightest of the simple waves.",
    params: Wave::PARAMS,
    highest: |values| Some(("freq_hz", Wave::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| harmonics(values, rate_hz, channels, 1, |k| 2.0 / (PI * cast::real(k))),
};

/// A triangle without aliasing.
pub const TRIANGLE: SignalKind = SignalKind {
    id: "triangle",
    label: "Triangle wave",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "Odd harmonics that fall fast, band-limited: close to a sine, a little brighter.",
    params: Wave::PARAMS,
    highest: |values| Some(("freq_hz", Wave::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        harmonics(values, rate_hz, channels, 2, |k| {
            let sign = if k % 4 == 1 { 1.0 } else { -1.0 };
            sign * 8.0 / (PI * PI * cast::real(k * k))
        })
    },
};
