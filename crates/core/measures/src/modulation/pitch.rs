//! Delays that sway over time, and the pitch that follows from them.

use serde::Serialize;

use super::tone::{OVER_S, TONE_HZ, lead_s, pitches, turns};
use clear_bend_playing::path::Stage;
use clear_bend_sound::cast;

/// A passage with more cycles than this is shown only as far as the first few.
const MOST_CYCLES: f64 = 12.0;
const SHOWN_CYCLES: f64 = 8.0;
/// Nor more than this, s.
const LONGEST_S: f64 = 8.0;

/// The delay of a voice, and its pitch.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct VoiceView {
    /// How late it is at every place of the view, ms.
    pub delay_ms: Vec<f64>,
    /// How far its pitch is off for that, cents.
    pub cents: Vec<f64>,
}

/// Delays and pitches of an effect over time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct PitchView {
    /// How much of the passage is shown, from its beginning, s.
    pub seconds: f64,
    /// Whether that is all of it.
    pub whole: bool,
    /// By the formula: every voice on the left at evenly spread times.
    pub voices: Vec<VoiceView>,
    /// How far the pitch of a tone of 1 kHz is off of which only the first voice is heard, cents, measured by its phase; the first
    /// of them at a time (s), and then one every so many seconds; none where it runs backwards.
    pub measured_cents: Vec<Option<f64>>,
    /// Where they begin, s.
    pub from_s: f64,
    /// How far they are apart, s.
    pub every_s: f64,
}

impl PitchView {
    /// Measures a stage over a passage of so many seconds, at so many places; none where its delays do not sway.
    #[must_use]
    pub fn of(stage: &Stage, seconds: f64, places: usize, rate_hz: u32) -> Option<Self> {
        let (sway, alone) = stage.effect.delays(&stage.values)?;
        let cycles = seconds * sway.swing.rate_hz;
        let shown_s = if cycles > MOST_CYCLES { SHOWN_CYCLES / sway.swing.rate_hz } else { seconds };
        let shown_s = shown_s.min(LONGEST_S);
        let at = |k: usize| shown_s * (cast::real(k) + 0.5) / cast::real(places.max(1));
        let voice = |voice: usize| {
            // No delay is shorter than a sample.
            let least_ms = 1000.0 / f64::from(rate_hz) - sway.late_ms;
            let delay_ms = |s: f64| sway.delay_ms_at(s, voice, 0).max(least_ms);
            // As it is measured: over the same time.
            let cents = |s: f64| {
                let moved = (delay_ms(s + 0.5 * OVER_S) - delay_ms(s - 0.5 * OVER_S)) / 1000.0;
                1200.0 * (1.0 - moved / OVER_S).max(1e-3).log2()
            };
            VoiceView {
                delay_ms: (0..places).map(|k| delay_ms(at(k))).collect(),
                cents: (0..places).map(|k| cents(at(k))).collect(),
            }
        };
        let alone = Stage { mix: 1.0, values: alone, ..stage.by_itself() };
        // What has been delayed must be there.
        let before_s = lead_s(&alone, rate_hz);
        let heard = turns(&alone, rate_hz, (shown_s - before_s).max(before_s), TONE_HZ);
        let every_s = cast::real(cast::frames(OVER_S, rate_hz).max(1)) / f64::from(rate_hz);
        Some(Self {
            seconds: shown_s,
            whole: shown_s >= seconds,
            voices: (0..sway.voices).map(voice).collect(),
            measured_cents: pitches(&heard[alone.scope.heard_on()], rate_hz),
            // A pair of stretches says it of its middle.
            from_s: before_s + every_s,
            every_s,
        })
    }
}
