//! The start of a low note through a stage.

use serde::Serialize;

use clear_bend_effects::Setup;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::cast;

/// A low note that begins at once, before and after a stage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Attack {
    /// Frequency of the note, Hz.
    pub freq_hz: f64,
    /// Time of the first value, ms; the note begins at 0.
    pub from_ms: f64,
    /// Time from one value to the next, ms.
    pub step_ms: f64,
    /// Samples before.
    pub before: Vec<f32>,
    /// Samples after, the latency of the stage taken out.
    pub after: Vec<f32>,
    /// Peak level of what is heard before the note begins, against the note, dB; none where nothing is.
    pub ahead_db: Option<f64>,
}

/// The note: A1.
const FREQ_HZ: f64 = 55.0;
/// How much is shown before its beginning, ms.
const LEAD_MS: f64 = 100.0;
/// How much after it, ms.
const SHOWN_MS: f64 = 150.0;
/// Values that are shown.
const VALUES: usize = 1000;
/// Less than this against the note counts as nothing.
const NOTHING: f32 = 1e-6;

/// Sends a note of 55 Hz at full scale through a stage, on both channels alike.
#[must_use]
pub fn measure_attack(stage: &Stage, rate_hz: u32) -> Attack {
    let path = Path { stages: vec![stage.by_itself()] };
    let mut chain = Chain::new(&path, Setup { rate_hz, max_block: 512 });
    let latency = chain.latency();
    let [lead, shown] = [LEAD_MS, SHOWN_MS].map(|ms| cast::frames(ms / 1000.0, rate_hz));
    let turn = std::f64::consts::TAU * FREQ_HZ / f64::from(rate_hz);
    let note = |i: usize| if i < lead { 0.0 } else { cast::sample((turn * cast::real(i - lead)).sin()) };
    let before: Vec<f32> = (0..lead + shown + latency).map(note).collect();
    let (mut after, mut other) = (before.clone(), before.clone());
    chain.process(&mut [&mut after, &mut other], 0);
    after.drain(..latency);
    let ahead = after[..lead].iter().fold(0.0f32, |a, x| a.max(x.abs()));
    let step = ((lead + shown) / VALUES).max(1);
    let thinned = |samples: &[f32]| samples[..lead + shown].iter().step_by(step).copied().collect();
    Attack {
        freq_hz: FREQ_HZ,
        from_ms: -LEAD_MS,
        step_ms: 1000.0 * cast::real(step) / f64::from(rate_hz),
        before: thinned(&before),
        after: thinned(&after),
        ahead_db: (ahead > NOTHING).then(|| clear_bend_sound::level::db_from_gain(f64::from(ahead))),
    }
}
