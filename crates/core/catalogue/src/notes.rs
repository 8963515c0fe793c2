//! Note values: times that go with a tempo instead of standing in milliseconds.

use super::{Param, Scale, Unit};

/// The choices of a time that may be a note, from short to long. The first is none: the time is set by itself.
pub const NOTES: &[&str] = &[
    "no note",
    "1/64",
    "1/32 triplet",
    "1/32",
    "1/16 triplet",
    "1/32 dotted",
    "1/16",
    "1/8 triplet",
    "1/16 dotted",
    "1/8",
    "1/4 triplet",
    "1/8 dotted",
    "1/4",
    "1/2 triplet",
    "1/4 dotted",
    "1/2",
    "1/2 dotted",
    "1 bar",
    "1 bar dotted",
    "2 bars",
    "4 bars",
    "8 bars",
];

/// Their lengths in beats. A beat is a quarter note and a bar has four of them; a triplet takes two thirds of its note, a dot
/// adds a half.
const BEATS: [f64; NOTES.len()] = [
    0.0,
    1.0 / 16.0,
    1.0 / 12.0,
    1.0 / 8.0,
    1.0 / 6.0,
    3.0 / 16.0,
    1.0 / 4.0,
    1.0 / 3.0,
    3.0 / 8.0,
    1.0 / 2.0,
    2.0 / 3.0,
    3.0 / 4.0,
    1.0,
    4.0 / 3.0,
    3.0 / 2.0,
    2.0,
    3.0,
    4.0,
    6.0,
    8.0,
    16.0,
    32.0,
];

/// How long a note lasts at a tempo (beats per minute), s; none where no note is chosen.
#[must_use]
pub fn note_s(choice: f64, tempo_bpm: f64) -> Option<f64> {
    let beats = BEATS.get(clear_bend_sound::cast::count(choice)).copied().filter(|beats| *beats > 0.0)?;
    Some(beats * 60.0 / tempo_bpm)
}

/// The tempo: one for the whole bench. A signal that has one brings it along.
pub const TEMPO: Param = Param {
    label: "Tempo",
    unit: Unit::Bpm,
    shared: true,
    min: 40.0,
    max: 240.0,
    default: 120.0,
    scale: Scale::Log,
    ..Param::BLANK
};

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn notes_are_fractions_of_a_bar_in_rising_order() {
        let length = |name: &str| {
            let choice = NOTES.iter().position(|note| *note == name).unwrap();
            note_s(clear_bend_sound::cast::real(choice), 120.0).unwrap()
        };
        // 120 beats per minute: a quarter lasts half a second (common practice).
        for (name, seconds) in [
            ("1/4", 0.5),
            ("1/8", 0.25),
            ("1/8 dotted", 0.375),
            ("1/8 triplet", 1.0 / 6.0),
            ("1/16", 0.125),
            ("1/2 triplet", 2.0 / 3.0),
            ("1 bar", 2.0),
            ("8 bars", 16.0),
        ] {
            assert!((length(name) - seconds).abs() < 1e-12, "{name}");
        }
        assert!(BEATS.windows(2).all(|pair| pair[0] < pair[1]));
        assert_eq!(note_s(0.0, 120.0), None);
        assert_eq!(note_s(99.0, 120.0), None);
        assert!((note_s(12.0, 90.0).unwrap() - 60.0 / 90.0).abs() < 1e-12);
    }
}
