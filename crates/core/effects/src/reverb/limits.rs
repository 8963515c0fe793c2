//! Between which ends a reverb can be set, and the names of what is chosen.

/// The largest mean way between reflections, m.
pub const MOST_SIZE_M: f64 = 50.0;
/// The longest pre-delay, ms.
pub const MOST_PREDELAY_MS: f64 = 500.0;
/// The longest time of early reflections with their own size, ms.
pub const MOST_EARLY_MS: f64 = 600.0;
/// The longest time over which all-passes diffuse, ms.
pub const MOST_DIFFUSION_MS: f64 = 200.0;
/// Levels at this are silence, dB.
pub const SILENT_DB: f64 = -60.0;
/// At the top, the tail is made at the full rate (Hz), and with the full word length (bits).
pub const FULL_RATE_HZ: f64 = 48_000.0;
/// The full word length, bits.
pub const FULL_BITS: f64 = 24.0;

/// Where diffusion sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    /// Ahead of the lines.
    Ahead,
    /// Inside their loop.
    Inside,
    /// Behind them.
    Behind,
}

/// The names of the places.
pub const PLACES: &[&str] = &["ahead of the lines", "inside their loop", "behind them"];

/// What is heard.
pub const HEARD: &[&str] = &["everything", "pre-delayed", "early", "diffused", "late"];
