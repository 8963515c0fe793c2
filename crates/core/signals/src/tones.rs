//! Tones and clicks.

use std::f64::consts::TAU;

use super::{FREQUENCY, Family, LEVEL, Material, SECONDS, SignalKind};
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Param, Scale, Unit};
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

settings! {
    /// Settings of a steady sine.
    pub struct Sine {
        /// Frequency, Hz.
        freq_hz: FREQUENCY,
        /// Peak level, dBFS.
        level_dbfs: LEVEL,
        /// Where in its cycle the sine begins, degrees.
        phase_deg: Param { label: "Phase", max: 360.0, what: "Where in its cycle the tone begins, in degrees.", ..Param::BLANK },
        /// Length, s.
        seconds: SECONDS,
    }
}

/// A steady sine.
pub const SINE: SignalKind = SignalKind {
    id: "sine",
    label: "Sine",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "A steady tone: one level, one frequency. Good for reading gains.",
    params: Sine::PARAMS,
    highest: |values| Some(("freq_hz", Sine::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Sine::from_values(values);
        let gain = gain_from_db(s.level_dbfs);
        let turn = s.phase_deg / 360.0;
        repeated(channels, cast::frames(s.seconds, rate_hz), |n| gain * sine(s.freq_hz, turn, n, rate_hz))
    },
};

settings! {
    /// Settings of a tone whose level climbs stairs and comes down again.
    pub struct Staircase {
        /// Frequency, Hz.
        freq_hz: FREQUENCY,
        /// Level of the lowest step, dBFS.
        from_dbfs: Param { label: "Lowest level", default: -60.0, what: "Peak level of the lowest step.", ..LEVEL },
        /// Level of the highest step, dBFS.
        to_dbfs: Param { label: "Highest level", default: 0.0, what: "Peak level of the highest step.", ..LEVEL },
        /// Height of a step, dB.
        step_db: Param { label: "Step", unit: Unit::Db, min: 0.5, max: 40.0, default: 6.0, what: "How much louder each step is than the one before.", ..Param::BLANK },
        /// Length of a step, s.
        hold_s: Param { label: "Step length", unit: Unit::S, min: 0.1, max: 10.0, default: 0.4, scale: Scale::Log, what: "How long each step lasts.", ..Param::BLANK },
    }
}

impl Staircase {
    /// The peak level of every step in dBFS: up, and down again without repeating the top.
    #[must_use]
    pub fn levels_dbfs(&self) -> Vec<f64> {
        let (low, high) = (self.from_dbfs.min(self.to_dbfs), self.from_dbfs.max(self.to_dbfs));
        let steps = cast::floor((high - low) / self.step_db + 1e-9);
        let up = (0..=steps).map(|k| low + cast::real(k) * self.step_db);
        up.clone().chain(up.rev().skip(1)).collect()
    }
}

/// A tone whose level climbs stairs and comes down again.
pub const STAIRCASE: SignalKind = SignalKind {
    id: "staircase",
    label: "Tone staircase",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "A tone that grows step by step and falls again: shows which levels an effect changes.",
    params: Staircase::PARAMS,
    highest: |values| Some(("freq_hz", Staircase::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Staircase::from_values(values);
        let gains: Vec<f64> = s.levels_dbfs().iter().map(|&level| gain_from_db(level)).collect();
        let step = cast::frames(s.hold_s, rate_hz);
        repeated(channels, step * gains.len(), |n| gains[n / step] * sine(s.freq_hz, 0.0, n, rate_hz))
    },
};

settings! {
    /// Settings of a tone that is quiet, loud and quiet again.
    pub struct Burst {
        /// Frequency, Hz.
        freq_hz: Param { default: 1000.0, ..FREQUENCY },
        /// Level before the burst, dBFS.
        before_dbfs: Param { label: "Level before", default: -35.0, what: "Peak level before the burst.", ..LEVEL },
        /// Level in the burst, dBFS.
        in_dbfs: Param { label: "Level within", default: -10.0, what: "Peak level in the burst.", ..LEVEL },
        /// Level after the burst, dBFS.
        after_dbfs: Param { label: "Level after", default: -35.0, what: "Peak level after the burst.", ..LEVEL },
        /// Length before the burst, s.
        lead_s: Param { label: "Time before", default: 0.5, min: 0.1, max: 10.0, what: "How long the tone lasts before the burst.", ..SECONDS },
        /// Length of the burst, s.
        burst_s: Param { label: "Time within", default: 0.5, min: 0.1, max: 10.0, what: "How long the burst lasts.", ..SECONDS },
        /// Length after the burst, s.
        tail_s: Param { label: "Time after", default: 1.0, min: 0.1, max: 10.0, what: "How long the tone lasts after the burst.", ..SECONDS },
    }
}

/// A tone that is quiet, loud and quiet again.
pub const BURST: SignalKind = SignalKind {
    id: "burst",
    label: "Tone burst",
    family: Family::Test,
    material: Material::Sounds,
    purpose: "A tone that jumps up and back: shows how fast an effect follows.",
    params: Burst::PARAMS,
    highest: |values| Some(("freq_hz", Burst::from_values(values).freq_hz)),
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Burst::from_values(values);
        let gains = [s.before_dbfs, s.in_dbfs, s.after_dbfs].map(gain_from_db);
        let begin = cast::frames(s.lead_s, rate_hz);
        let end = begin + cast::frames(s.burst_s, rate_hz);
        repeated(channels, end + cast::frames(s.tail_s, rate_hz), |n| {
            gains[usize::from(n >= begin) + usize::from(n >= end)] * sine(s.freq_hz, 0.0, n, rate_hz)
        })
    },
};

settings! {
    /// Settings of a click train.
    pub struct Clicks {
        /// Level of each click, dBFS.
        level_dbfs: Param { default: -6.0, ..LEVEL },
        /// Time from click to click, ms.
        interval_ms: Param { label: "Interval", unit: Unit::Ms, min: 1.0, max: 5000.0, default: 500.0, scale: Scale::Log, what: "Time from one click to the next.", ..Param::BLANK },
        /// Length, s.
        seconds: SECONDS,
    }
}

/// Single samples at even distances.
pub const CLICKS: SignalKind = SignalKind {
    id: "clicks",
    label: "Click train",
    family: Family::Test,
    material: Material::Clicks,
    purpose: "Single samples at even distances: the shortest sound there is, for delays and reflections.",
    params: Clicks::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Clicks::from_values(values);
        let gain = gain_from_db(s.level_dbfs);
        // Each lies at the sample that is nearest to its time, so that their mean distance is exact.
        let interval = (s.interval_ms / 1000.0 * f64::from(rate_hz)).max(1.0);
        let is_click = |n: usize| {
            let click = (cast::real(n) / interval).round();
            (click * interval).round() == cast::real(n)
        };
        repeated(channels, cast::frames(s.seconds, rate_hz), |n| if is_click(n) { gain } else { 0.0 })
    },
};

settings! {
    /// Settings of an impulse.
    pub struct Impulse {
        /// Level, dBFS.
        level_dbfs: Param { default: 0.0, ..LEVEL },
        /// When it comes, ms.
        at_ms: Param { label: "At", unit: Unit::Ms, max: 1000.0, default: 10.0, scale: Scale::SoftLog { knee: 10.0 }, what: "When the impulse comes.", ..Param::BLANK },
        /// Length, s.
        seconds: Param { default: 2.0, ..SECONDS },
    }
}

/// One single sample.
pub const IMPULSE: SignalKind = SignalKind {
    id: "impulse",
    label: "Impulse",
    family: Family::Test,
    material: Material::Clicks,
    purpose: "One single sample: what comes out is the impulse response.",
    params: Impulse::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        let s = Impulse::from_values(values);
        let at = cast::frames(s.at_ms / 1000.0, rate_hz);
        repeated(channels, cast::frames(s.seconds, rate_hz), |n| {
            if n == at { gain_from_db(s.level_dbfs) } else { 0.0 }
        })
    },
};

/// Sample `n` of a sine, its phase counted in turns so that it stays exact after hours.
pub(super) fn sine(freq_hz: f64, start_turn: f64, n: usize, rate_hz: u32) -> f64 {
    let turns = freq_hz * cast::real(n) / f64::from(rate_hz);
    (TAU * (turns.fract() + start_turn)).sin()
}

/// The same signal on every channel.
pub(super) fn repeated(channels: usize, frames: usize, f: impl Fn(usize) -> f64) -> Vec<Vec<f32>> {
    vec![(0..frames).map(|n| cast::sample(f(n))).collect(); channels]
}
