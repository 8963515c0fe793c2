//! What the makers of these sounds share: decaying modes, places in the stereo picture, the walls of the slip.

use std::f64::consts::{PI, TAU};

use rustfft::num_complex::Complex64;

use crate::SLIP_RATE_HZ;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans::{complex_backward, complex_forward};
use clear_bend_sound::level::gain_from_db;

/// Natural logarithm of 60 dB of amplitude: decay constants from times to fall by 60 dB.
pub const LN_60_DB: f64 = 6.907_755;

/// Early reflections: delay in ms, level in dB, channel.
const REFLECTIONS: [(f64, f64, usize); 6] = [
    (7.3, -15.0, 1),
    (11.9, -17.0, 0),
    (17.2, -19.0, 1),
    (23.6, -20.0, 0),
    (31.7, -23.0, 1),
    (38.3, -24.0, 0),
];

/// Peak of a finished sound, dBFS.
const PEAK_DBFS: f64 = -1.5;

/// The recorder of the crew hears less and less between these, and nothing above, Hz. So every usual rate holds all that
/// there is, and peaks are the same at each.
const RECORDED_HZ: (f64, f64) = (12_000.0, 20_000.0);

/// Brings stereo to what is recorded, to the wanted channels and to its peak level.
pub fn finish(stereo: &[Vec<f64>], channels: usize) -> Vec<Vec<f32>> {
    let [left, right] = recorded(&stereo[0], &stereo[1]);
    let mono = || left.iter().zip(&right).map(|(l, r)| (l + r) / 2.0).collect();
    let out = if channels == 1 { vec![mono()] } else { vec![left, right] };
    let peak = out.iter().flatten().fold(0.0, |peak: f64, x| peak.max(x.abs()));
    let gain = gain_from_db(PEAK_DBFS) / peak.max(1e-9);
    out.iter().map(|c| c.iter().map(|x| cast::sample(gain * x)).collect()).collect()
}

/// A loop without what no recorder hears, nothing moved in time: half a cosine from one edge to the other.
fn recorded(left: &[f64], right: &[f64]) -> [Vec<f64>; 2] {
    let frames = left.len();
    let mut both: Vec<Complex64> = left.iter().zip(right).map(|(l, r)| Complex64::new(*l, *r)).collect();
    complex_forward(frames).process(&mut both);
    let (from_hz, to_hz) = RECORDED_HZ;
    for (k, bin) in both.iter_mut().enumerate() {
        let hz = f64::from(SLIP_RATE_HZ) * cast::real(k.min(frames - k)) / cast::real(frames);
        let way = ((hz - from_hz) / (to_hz - from_hz)).clamp(0.0, 1.0);
        *bin *= (0.5 + 0.5 * (PI * way).cos()) / cast::real(frames);
    }
    complex_backward(frames).process(&mut both);
    [both.iter().map(|x| x.re).collect(), both.iter().map(|x| x.im).collect()]
}

/// Adds a decaying sine of a frequency in Hz that begins at a place of its cycle in turns, by turning a
/// pointer a little at every sample.
pub fn add_mode(out: &mut [f64], (freq_hz, turn): (f64, f64), t60_s: f64, level: f64, rate: f64) {
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
pub fn add_at_place(out: &mut [Vec<f64>], blow: &[f64], at: usize, place: f64) {
    let angle = (place + 1.0) * TAU / 8.0;
    for (channel, gain) in out.iter_mut().zip([angle.cos(), angle.sin()]) {
        let frames = channel.len();
        for (n, x) in blow.iter().enumerate() {
            channel[(at + n) % frames] += gain * x;
        }
    }
}

/// The dry sound with its early reflections, each a little darker, wrapped around the loop.
pub fn with_reflections(dry: &[Vec<f64>], rate_hz: u32) -> Vec<Vec<f64>> {
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
