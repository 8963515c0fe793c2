//! What a band does, and the numbers of it that move.

use clear_bend_sound::cast;

/// What a band does, in the order of the choices.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Kind {
    /// No band.
    #[default]
    None,
    /// Takes what lies below.
    LowCut,
    /// Takes what lies above.
    HighCut,
    /// Turns the phase and leaves the magnitude alone.
    AllPass,
    /// Leaves only what is around.
    BandPass,
    /// Takes one frequency out.
    Notch,
    /// Raises or lowers what is around.
    Bell,
    /// Raises or lowers a range evenly.
    FlatBell,
    /// Raises or lowers what lies below.
    LowShelf,
    /// Raises or lowers what lies above.
    HighShelf,
    /// Raises one side and lowers the other.
    Tilt,
}

impl Kind {
    /// All of them, in the order of the choices.
    pub const ALL: [Self; 11] = [
        Self::None,
        Self::LowCut,
        Self::HighCut,
        Self::AllPass,
        Self::BandPass,
        Self::Notch,
        Self::Bell,
        Self::FlatBell,
        Self::LowShelf,
        Self::HighShelf,
        Self::Tilt,
    ];

    /// Its place among the choices.
    #[must_use]
    pub const fn choice(self) -> f64 {
        cast::real(self as usize)
    }

    /// Whether it has copies at multiples or intervals.
    #[must_use]
    pub fn repeats(self) -> bool {
        matches!(self, Self::Notch | Self::Bell | Self::FlatBell)
    }

    /// Sections of one copy.
    #[must_use]
    pub fn sections(self, order: usize) -> usize {
        match self {
            Self::None => 0,
            Self::LowCut | Self::HighCut => order.div_ceil(2),
            Self::FlatBell => 3,
            _ => 1,
        }
    }
}

/// What moves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shape {
    /// Frequency, Hz.
    pub freq_hz: f64,
    /// Gain, dB.
    pub gain_db: f64,
    /// Q, as it acts.
    pub q: f64,
}
