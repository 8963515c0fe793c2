//! Gain, phase and group delay over frequency, measured by sending an impulse through a stage.

use std::cell::OnceCell;

use rustfft::num_complex::Complex64;
use serde::Serialize;

use clear_bend_effects::{DrawnAt, Setup};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::audio::frames_alike;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans;
use clear_bend_sound::level::db_from_gain;
use clear_bend_sound::scope::Scope;

/// The response of a stage on one channel, measured with an impulse.
#[derive(Debug, Clone, PartialEq)]
pub struct Response {
    /// Sample rate, Hz.
    pub rate_hz: u32,
    /// Frames by which the stage is late; taken out of everything below.
    pub latency: usize,
    /// The impulse response; the time 0 stands at `zero`.
    pub impulse: Vec<f32>,
    /// Place of the time 0 in the impulse response, frames.
    pub zero: usize,
    spectrum: Vec<Complex64>,
    /// The spectrum of the impulse response weighted by time, for the group delay, once it is asked for.
    weighted: OnceCell<Vec<Complex64>>,
    highest: OnceCell<f64>,
}

/// Least length of the impulse responses, frames at 48 kHz: 1.4 s.
const LENGTH: usize = 65_536;

/// For how long what rings on is followed, at the most. Narrower peaks need longer: their tails, and a spectrum many
/// times finer than they are wide.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tail {
    /// 1.4 s, for outcomes that are read many times over.
    Short,
    /// 5.6 s: exact for peaks of 3 Hz and wider.
    Usual,
    /// 22 s: exact for peaks of half a hertz and wider.
    Long,
}

impl Tail {
    /// So many times the least length.
    fn lengths(self) -> usize {
        match self {
            Self::Short => 1,
            Self::Usual => 4,
            Self::Long => 16,
        }
    }
}

/// An impulse response has died away where less than this share of its energy is left: -130 dB.
const DIED: f64 = 1e-13;

/// What lies so far under the highest has no group delay: -80 dB.
const FAINT: f64 = 1e-4;

/// The spectrum of a long kernel is taken over so many times half its length.
const CLOSER: usize = 16;

/// Gains under this are not told apart from silence, dB.
const FLOOR_DB: f64 = -200.0;

/// The scopes of a stage that have a response of their own: those of its curves, or the only one that it works on.
#[must_use]
pub fn scopes_of(stage: &Stage, rate_hz: u32) -> Vec<Scope> {
    match stage.scope {
        Scope::Stereo => {
            let curves = stage.effect.curves(&stage.values, rate_hz, &[]);
            curves.map_or_else(|| vec![Scope::Stereo], |c| c.sums.iter().map(|sum| sum.scope).collect())
        }
        scope => vec![scope],
    }
}

/// Sends an impulse through one stage, switched on and at its scope and mix, and reads a scope.
#[must_use]
pub fn measure_response(stage: &Stage, rate_hz: u32, scope: Scope, tail: Tail) -> Response {
    let path = Path { stages: vec![stage.by_itself()] };
    measure_path_response(&path, rate_hz, scope, tail)
}

/// Sends an impulse at full scale through a path and reads a scope.
#[must_use]
pub fn measure_path_response(path: &Path, rate_hz: u32, scope: Scope, tail: Tail) -> Response {
    // The impulse of mid or side, or on both channels alike, is one on both sides.
    let (left, right) = match scope {
        Scope::Left => (1.0, 0.0),
        Scope::Right => (0.0, 1.0),
        Scope::Stereo | Scope::Mid => (1.0, 1.0),
        Scope::Side => (1.0, -1.0),
    };
    let mut chain = Chain::new(path, Setup { rate_hz, max_block: 512 });
    let latency = chain.latency();
    let mut impulse = Vec::new();
    let least = frames_alike(LENGTH, rate_hz);
    for lengths in (0..).map(|doubled| 1 << doubled).take_while(|lengths| *lengths <= tail.lengths()) {
        let more = latency + lengths * least - impulse.len();
        let mut sides = [vec![0.0f32; more], vec![0.0f32; more]];
        if impulse.is_empty() {
            (sides[0][0], sides[1][0]) = (left, right);
        }
        let [l, r] = &mut sides;
        chain.process(&mut [l, r], 0);
        let [l, r] = &sides;
        impulse.extend(l.iter().zip(r).map(|(l, r)| cast::sample(scope.of(*l, *r))));
        // Narrow peaks ring on: bins must be many times closer than they are narrow.
        let energy = |part: &[f32]| part.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>();
        if energy(&impulse[latency + lengths * least / 4..]) <= DIED * energy(&impulse) {
            break;
        }
    }
    // What comes before the time 0 is kept: half the length, for ringing before.
    let zero = latency.min(least / 2);
    let mut impulse = impulse.split_off(latency - zero);
    if zero == least / 2 {
        // A long kernel ends in the middle of its ringing: bins must be closer for that to be read between them.
        impulse.resize(impulse.len().max(CLOSER * zero), 0.0);
    }
    Response::new(impulse, zero, latency, rate_hz)
}

impl Response {
    fn new(impulse: Vec<f32>, zero: usize, latency: usize, rate_hz: u32) -> Self {
        let spectrum = transformed(&impulse, zero, |_, x| x);
        Self {
            rate_hz,
            latency,
            zero,
            spectrum,
            weighted: OnceCell::new(),
            highest: OnceCell::new(),
            impulse,
        }
    }

    fn weighted(&self) -> &[Complex64] {
        let by_time = |i, x| (cast::real(i) - cast::real(self.zero)) * x;
        self.weighted.get_or_init(|| transformed(&self.impulse, self.zero, by_time))
    }

    /// The response at a frequency, by the spectrum between the nearest bins.
    #[must_use]
    pub fn at(&self, freq_hz: f64) -> Complex64 {
        between(&self.spectrum, self.bin(freq_hz))
    }

    fn bin(&self, freq_hz: f64) -> f64 {
        freq_hz * cast::real(self.impulse.len()) / f64::from(self.rate_hz)
    }

    /// The gain at a frequency, dB; not under -200 dB.
    #[must_use]
    pub fn gain_db(&self, freq_hz: f64) -> f64 {
        db_from_gain(self.at(freq_hz).norm()).max(FLOOR_DB)
    }

    /// The phase at some rising frequencies, degrees, without jumps; where the gain is highest, it lies within half a
    /// turn of 0. Where hardly anything comes out, there is no phase, and the last one stands.
    #[must_use]
    pub fn phases_deg(&self, freqs_hz: &[f64]) -> Vec<f64> {
        let mut last = 0.0;
        let mut turned = 0.0;
        let (mut from, mut phases) = (0.0, Vec::with_capacity(freqs_hz.len()));
        for freq_hz in freqs_hz {
            // Bin by bin, so that no turn is missed.
            let to = self.bin(*freq_hz);
            let mut bin = from;
            while bin < to {
                bin = (bin + 1.0).min(to);
                let h = between(&self.spectrum, bin);
                if h.norm_sqr() > 1e-8 {
                    let phase = h.arg();
                    turned += (phase - last + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU)
                        - std::f64::consts::PI;
                    last = phase;
                }
            }
            from = to;
            phases.push(turned.to_degrees());
        }
        let gain = |i: &usize| self.at(freqs_hz[*i]).norm_sqr();
        let highest = (0..freqs_hz.len()).max_by(|a, b| gain(a).total_cmp(&gain(b)));
        let turns = highest.map_or(0.0, |i| (phases[i] / 360.0).round());
        phases.iter_mut().for_each(|phase| *phase -= 360.0 * turns);
        phases
    }

    /// The group delay at a frequency, ms, without the latency: -d(phase)/d(omega), from the impulse response weighted
    /// by time. None where hardly anything comes out: in the middle of a notch the phase jumps.
    #[must_use]
    pub fn group_delay_ms(&self, freq_hz: f64) -> Option<f64> {
        let bin = self.bin(freq_hz);
        let h = between(&self.spectrum, bin);
        let delay = (between(self.weighted(), bin) / h).re;
        (h.norm() > FAINT * self.highest()).then(|| 1000.0 * delay / f64::from(self.rate_hz))
    }

    /// The largest magnitude at any bin, linear.
    fn highest(&self) -> f64 {
        *self.highest.get_or_init(|| self.spectrum.iter().map(|h| h.norm()).fold(0.0, f64::max))
    }

    /// How much rings before and after the main pulse.
    #[must_use]
    pub fn ringing(&self) -> Ringing {
        let size = |x: &f32| f64::from(x.abs());
        let main = (0..self.impulse.len())
            .max_by(|a, b| size(&self.impulse[*a]).total_cmp(&size(&self.impulse[*b])));
        let main = main.unwrap_or(0);
        let energy = |part: &[f32]| part.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>();
        let whole = energy(&self.impulse).max(f64::MIN_POSITIVE);
        let share_db = |part: &[f32]| (10.0 * (energy(part) / whole).log10()).max(FLOOR_DB);
        let per_ms = f64::from(self.rate_hz) / 1000.0;
        let heard = |x: &f32| size(x) >= size(&self.impulse[main]) * RINGS;
        let first = self.impulse.iter().position(heard).unwrap_or(main);
        let last = self.impulse.iter().rposition(heard).unwrap_or(main);
        Ringing {
            before_db: share_db(&self.impulse[..main]),
            after_db: share_db(&self.impulse[main + 1..]),
            before_ms: cast::real(main - first) / per_ms,
            after_ms: cast::real(last - main) / per_ms,
            latency_ms: cast::real(self.latency) / per_ms,
        }
    }
}

/// The gain of a measured response, read at some frequencies.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct GainView {
    /// The scope.
    pub scope: Scope,
    /// The gain at every frequency, dB.
    pub gains_db: Vec<f64>,
}

impl GainView {
    /// Reads the gain of a response where a curve is drawn.
    #[must_use]
    pub fn of(response: &Response, scope: Scope, at: &DrawnAt) -> Self {
        let gains_db: Vec<f64> = at.all_hz().iter().map(|f| response.gain_db(*f)).collect();
        Self { scope, gains_db: at.drawn(&gains_db) }
    }
}

/// A measured response, read at some rising frequencies.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ResponseView {
    /// The scope.
    pub scope: Scope,
    /// The gain at every frequency, dB.
    pub gains_db: Vec<f64>,
    /// The phase at every frequency, degrees, without jumps from the first one on.
    pub phases_deg: Vec<f64>,
    /// The group delay at every frequency, ms, without the latency; none where nothing comes out.
    pub group_delays_ms: Vec<Option<f64>>,
    /// How much rings before and after the main pulse.
    pub ringing: Ringing,
    /// The impulse response around the time 0.
    pub impulse: Vec<f32>,
    /// Time of its first sample, ms.
    pub impulse_from_ms: f64,
    /// Time from one sample to the next, ms.
    pub impulse_step_ms: f64,
}

/// How much of an impulse response is shown before and after the time 0, ms.
const SHOWN_MS: f64 = 60.0;

impl ResponseView {
    /// Reads a response at some rising frequencies, Hz.
    #[must_use]
    pub fn of(response: &Response, scope: Scope, freqs_hz: &[f64]) -> Self {
        let shown = cast::frames(SHOWN_MS / 1000.0, response.rate_hz);
        let from = response.zero - shown.min(response.zero);
        let to = (response.zero + shown).min(response.impulse.len());
        let step_ms = 1000.0 / f64::from(response.rate_hz);
        Self {
            scope,
            gains_db: freqs_hz.iter().map(|f| response.gain_db(*f)).collect(),
            phases_deg: response.phases_deg(freqs_hz),
            group_delays_ms: freqs_hz.iter().map(|f| response.group_delay_ms(*f)).collect(),
            ringing: response.ringing(),
            impulse: response.impulse[from..to].to_vec(),
            impulse_from_ms: -cast::real(response.zero - from) * step_ms,
            impulse_step_ms: step_ms,
        }
    }
}

/// What is more than 80 dB under the main pulse does not count as ringing.
const RINGS: f64 = 1e-4;

/// How much of an impulse response lies before and after its main pulse.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Ringing {
    /// Energy before the main pulse over all energy, dB; not under -200 dB.
    pub before_db: f64,
    /// Energy after it over all energy, dB.
    pub after_db: f64,
    /// For how long before it more than -80 dB of it is heard, ms.
    pub before_ms: f64,
    /// For how long after it, ms.
    pub after_ms: f64,
    /// By how much the stage is late, ms.
    pub latency_ms: f64,
}

/// The spectrum of an impulse response, of which each sample is weighed by its place; the time 0 lies at `zero`.
fn transformed(impulse: &[f32], zero: usize, weigh: impl Fn(usize, f64) -> f64) -> Vec<Complex64> {
    let forward = plans::forward(impulse.len());
    let mut time: Vec<f64> = impulse.iter().enumerate().map(|(i, x)| weigh(i, f64::from(*x))).collect();
    // The time 0 goes first, what comes before it last.
    time.rotate_left(zero);
    let mut spectrum = forward.make_output_vec();
    let done = forward.process(&mut time, &mut spectrum);
    debug_assert!(done.is_ok(), "the lengths fit");
    spectrum
}

/// A spectrum between its bins, by the cubic through the four nearest (Lagrange).
fn between(spectrum: &[Complex64], bin: f64) -> Complex64 {
    let last = spectrum.len() - 1;
    let low = cast::floor(bin).min(last);
    let t = (bin - cast::real(low)).clamp(0.0, 1.0);
    if t == 0.0 {
        return spectrum[low];
    }
    // Beyond both ends it is mirrored.
    let below = if low == 0 { spectrum[1.min(last)].conj() } else { spectrum[low - 1] };
    let above = if low + 2 > last { spectrum[last].conj() } else { spectrum[low + 2] };
    below * (-t * (t - 1.0) * (t - 2.0) / 6.0)
        + spectrum[low] * ((t + 1.0) * (t - 1.0) * (t - 2.0) / 2.0)
        + spectrum[(low + 1).min(last)] * (-(t + 1.0) * t * (t - 2.0) / 2.0)
        + above * ((t + 1.0) * t * (t - 1.0) / 6.0)
}

/// Frequencies at equal ratios, ends included, Hz.
#[must_use]
pub fn log_freqs(from_hz: f64, to_hz: f64, count: usize) -> Vec<f64> {
    let last = cast::real(count.max(2) - 1);
    (0..count.max(2)).map(|i| from_hz * (to_hz / from_hz).powf(cast::real(i) / last)).collect()
}
