//! Rooms and plates: what their sound has of its own, before anything is set.

/// What a kind of room or plate brings along.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Character {
    /// The shortest and the longest way between reflections, as shares of the mean one.
    pub ways: (f64, f64),
    /// The shortest and the longest of the all-passes, as shares of their mean.
    pub all_passes: (f64, f64),
    /// The decay of the highs, as a share of what is set.
    pub high: f64,
    /// How much louder the highs are from the start, dB, and from which frequency, Hz.
    pub tone_db: f64,
    /// Where half of that is reached, Hz.
    pub tone_hz: f64,
}

/// The kinds, in the order in which they are offered.
pub const CHOICES: &[&str] = &["small room", "room", "hall", "dark plate", "bright plate"];

/// What each of them is. Rooms have ways of many lengths, and air and walls that take the highs; plates have ways that are alike,
/// and sound as bright as their metal is thin. Common practice; the numbers are ours.
pub const ALL: [Character; 5] = [
    Character { ways: (0.55, 1.6), all_passes: (0.4, 2.0), high: 0.9, tone_db: -2.0, tone_hz: 5610.0 },
    Character { ways: (0.5, 1.7), all_passes: (0.35, 2.2), high: 1.0, tone_db: -3.0, tone_hz: 7131.0 },
    Character { ways: (0.45, 1.8), all_passes: (0.3, 2.4), high: 0.85, tone_db: -4.0, tone_hz: 6295.0 },
    Character { ways: (0.65, 1.45), all_passes: (0.5, 1.8), high: 0.7, tone_db: -5.0, tone_hz: 4001.0 },
    Character { ways: (0.65, 1.45), all_passes: (0.5, 1.8), high: 1.0, tone_db: 3.0, tone_hz: 3366.0 },
];
