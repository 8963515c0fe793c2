//! All that is read off a response, for reports and pictures.

use serde::Serialize;

use super::decay::{Decay, DecayTimes, Ground, TwoSlopes};
use super::density::Density;
use super::energy::{Energies, correlation, correlation_of};
use super::modes::ringing_db;
use super::record::RoomResponse;
use super::reflections::{Reflection, reflections};
use super::sides::{energies, first_heard, first_heard_ms};
use clear_bend_catalogue::way_m;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans::Precision;
use clear_bend_sound::dsp::{InOctaves, OCTAVES_HZ, Octave, has_octave, octaves};

/// Reflections are listed for so long, s.
pub(super) const LISTED_S: f64 = 0.3;
/// The density is followed for so long, s.
pub const DENSITY_S: f64 = 3.0;

/// The decay in one octave.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct OctaveDecay {
    /// Nominal middle, Hz.
    pub freq_hz: f64,
    /// Its times.
    pub times: DecayTimes,
    /// By how much T30 of one response scatters around the mean of many like it, as a share (one standard deviation):
    /// 0.55 / sqrt(bandwidth times decay time) for one side (ISO 3382-1, Annex A, from memory), by the root of 2 less for both.
    pub scatter: Option<f64>,
    /// Level of the reverberant sound in it against the direct one's, dB.
    pub level_db: f64,
    /// Correlation of left and right.
    pub correlation: Option<f64>,
}

/// All that is read off a response.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Room {
    /// How long the record is, s.
    pub seconds: f64,
    /// The times over all frequencies, of the reverberant sound.
    pub times: DecayTimes,
    /// The two slopes in which it falls, where it does.
    pub slopes: Option<TwoSlopes>,
    /// T30 of the left and of the right side, s, where they differ by more than is heard as the same.
    pub sides_s: Option<[f64; 2]>,
    /// Whether it never falls, as far as it was recorded.
    pub stays: bool,
    /// The mean of T30 at 500 Hz and 1 kHz, s: the single number of ISO 3382-1.
    pub middle_t30_s: Option<f64>,
    /// By octave.
    pub octaves: Vec<OctaveDecay>,
    /// Clarity and the like, of what is heard.
    pub energies: Energies,
    /// When the first reverberant sound comes, ms after the direct one; none where there is none.
    pub gap_ms: Option<f64>,
    /// The way of sound in that time, m.
    pub gap_m: Option<f64>,
    /// Reflections within the first 300 ms.
    pub reflections: Vec<Reflection>,
    /// When the echo density first is that of noise, ms after the first echo; none where it never is.
    pub dense_ms: Option<f64>,
    /// Correlation of left and right.
    pub correlation: Option<f64>,
    /// By how much single modes stand out, dB.
    pub ringing_db: Option<f64>,
}

/// The width of an octave (IEC 61260-1, base ten), as a share of its middle.
const WIDTH: f64 = 0.704_592;

/// How T30 scatters: this over the root of bandwidth times decay time.
const SCATTER: f64 = 0.55 * std::f64::consts::FRAC_1_SQRT_2;

impl Room {
    /// The decay time of an octave (nominal Hz), T30, s.
    #[must_use]
    pub fn t30_at(&self, freq_hz: f64) -> Option<f64> {
        t30_of(&self.octaves, freq_hz)
    }

    /// What is read in an octave (nominal Hz).
    #[must_use]
    pub fn octave(&self, freq_hz: f64) -> Option<&OctaveDecay> {
        octave_of(&self.octaves, freq_hz)
    }

    /// Reads everything off a response.
    #[must_use]
    pub fn of(response: &RoomResponse) -> Self {
        let rate_hz = response.rate_hz;
        let sides = response.reverberant();
        let octaves = octave_decays(&sides, rate_hz, response.ground);
        let decay = response.decay();
        let gap_ms = first_heard_ms(&sides, rate_hz);
        Self {
            middle_t30_s: t30_of(&octaves, 500.0)
                .zip(t30_of(&octaves, 1000.0))
                .map(|(low, high)| 0.5 * (low + high)),
            seconds: cast::real(response.frames()) / f64::from(rate_hz),
            times: decay.times(),
            slopes: decay.slopes(),
            sides_s: sides_apart(&sides, rate_hz, response.ground),
            stays: decay.stays(),
            octaves,
            energies: Energies::of(response),
            gap_ms,
            gap_m: gap_ms.map(way_m),
            reflections: reflections_of(response),
            dense_ms: Density::reaches_noise_ms(&sides, rate_hz, DENSITY_S),
            correlation: correlation(&sides),
            ringing_db: ringing_db(&sides, rate_hz),
        }
    }
}

/// What is read in every octave of the sound on both sides.
pub(super) fn octave_decays(sides: &[Vec<f32>; 2], rate_hz: u32, ground: Ground) -> Vec<OctaveDecay> {
    let begins = first_heard(sides);
    let found: Vec<Octave> = octaves(sides, rate_hz, &OCTAVES_HZ);
    found.iter().map(|octave| octave_decay(octave, begins, rate_hz, ground)).collect()
}

/// T30 of both sides, s, where they differ by more than twice the just noticeable difference of 5 % (ISO 3382-1); none where one of them
/// has none.
fn sides_apart(sides: &[Vec<f32>; 2], rate_hz: u32, ground: Ground) -> Option<[f64; 2]> {
    let begins = first_heard(sides);
    let t30 = |side: &Vec<f32>| {
        let energies: Vec<f64> = side.iter().skip(begins).map(|x| f64::from(*x).powi(2)).collect();
        Some(Decay::of(&energies, f64::from(rate_hz), ground).fit(-5.0, -35.0)?.seconds)
    };
    let both = [t30(&sides[0])?, t30(&sides[1])?];
    ((both[0] / both[1]).ln().abs() > APART).then_some(both)
}

/// The natural logarithm of the ratio over which two decay times are told apart.
const APART: f64 = 0.1;

/// The reflections of a response, against its direct sound.
pub(super) fn reflections_of(response: &RoomResponse) -> Vec<Reflection> {
    let direct = f64::from(response.sides[0].first().copied().unwrap_or(0.0)).abs();
    let direct = if direct > 0.0 { direct } else { 1.0 };
    let over = direct / response.heard[1].max(1e-6);
    reflections(&response.reverberant(), response.rate_hz, LISTED_S, over)
}

fn octave_of(octaves: &[OctaveDecay], freq_hz: f64) -> Option<&OctaveDecay> {
    octaves.iter().find(|octave| octave.freq_hz == freq_hz)
}

fn t30_of(octaves: &[OctaveDecay], freq_hz: f64) -> Option<f64> {
    Some(octave_of(octaves, freq_hz)?.times.t30?.seconds)
}

impl RoomResponse {
    /// The decay of the reverberant sound on both sides, from its first sound on.
    #[must_use]
    pub fn decay(&self) -> Decay {
        let sides = self.reverberant();
        let energies: Vec<f64> = energies(&sides, first_heard(&sides)).collect();
        Decay::of(&energies, f64::from(self.rate_hz), self.ground)
    }
}

/// The decay of an octave, from the first sound of the whole on.
#[must_use]
pub fn decay_of_octave<F: Precision>(
    octave: &Octave<F>,
    begins: usize,
    rate_hz: u32,
    ground: Ground,
) -> Decay {
    let from =
        cast::count(cast::real(begins) * octave.rate_hz / f64::from(rate_hz)).min(octave.samples.len());
    let energies: Vec<f64> = octave.samples[from..].iter().map(|x| x.norm_sqr().wide()).collect();
    Decay::of(&energies, octave.rate_hz, ground)
}

/// T30 of the reverberant part of a response in some octaves, s; none where it does not fall so far.
#[must_use]
pub fn t30s_of(response: &RoomResponse, freqs_hz: &[f64]) -> Vec<Option<f64>> {
    t30s(response, freqs_hz, InOctaves::octave)
}

/// The same by filters of sixth order, where one of third order had a part in making the response.
#[must_use]
pub fn t30s_by_steep_octaves(response: &RoomResponse, freqs_hz: &[f64]) -> Vec<Option<f64>> {
    t30s(response, freqs_hz, InOctaves::steep_octave)
}

fn t30s(
    response: &RoomResponse,
    freqs_hz: &[f64],
    octave: fn(&InOctaves<f32>, f64) -> Octave<f32>,
) -> Vec<Option<f64>> {
    let (sides, rate_hz) = (&response.reverberant(), response.rate_hz);
    let begins = first_heard(sides);
    // T30 ends at -35 dB: 32 bits are enough, and follow a hand.
    let whole = InOctaves::<f32>::of(sides, rate_hz);
    let t30 = |hz: &f64| {
        let octave = has_octave(*hz, rate_hz).then(|| octave(&whole, *hz))?;
        Some(decay_of_octave(&octave, begins, rate_hz, response.ground).fit(-5.0, -35.0)?.seconds)
    };
    freqs_hz.iter().map(t30).collect()
}

/// By how much T30 of one response scatters in an octave (Hz) with a decay time (s), as [`OctaveDecay::scatter`] says.
#[must_use]
pub fn scatter(freq_hz: f64, decay_s: f64) -> f64 {
    SCATTER / (WIDTH * freq_hz * decay_s).sqrt()
}

fn octave_decay(octave: &Octave, begins: usize, rate_hz: u32, ground: Ground) -> OctaveDecay {
    let decay = decay_of_octave(octave, begins, rate_hz, ground);
    let times = decay.times();
    let scatter = times.t30.map(|t30| scatter(octave.freq_hz, t30.seconds));
    let energy: f64 = octave.samples.iter().map(|x| x.norm_sqr()).sum::<f64>() / octave.rate_hz;
    // An impulse has the energy of its bandwidth on each side.
    let of_impulse = 2.0 * 2.0 * WIDTH * octave.freq_hz / f64::from(rate_hz) / f64::from(rate_hz);
    OctaveDecay {
        freq_hz: octave.freq_hz,
        scatter,
        level_db: 10.0 * (energy / of_impulse).log10(),
        correlation: correlation_of(&octave.samples),
        times,
    }
}
