//! The second way to say a value: the note of a frequency, the octaves of a Q, the way of a delay.

use super::{Param, Unit, decimal};

/// Names of the notes from C on.
const NOTES: [&str; 12] = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/// Semitones from C0 to A4, which is 440 Hz (ISO 16).
const A4: f64 = 57.0;

/// Speed of sound, m/s.
pub const METRES_PER_S: f64 = 343.0;

/// The way of sound in so many milliseconds, m.
#[must_use]
pub fn way_m(ms: f64) -> f64 {
    ms / 1000.0 * METRES_PER_S
}

/// The width of a band in octaves for its Q, 1/Q = 2 sinh(N ln 2 / 2) ("Audio EQ Cookbook").
#[must_use]
pub fn octaves_of_q(q: f64) -> f64 {
    2.0 / std::f64::consts::LN_2 * (0.5 / q).asinh()
}

/// The Q of a band for its width in octaves.
#[must_use]
pub fn q_of_octaves(octaves: f64) -> f64 {
    0.5 / (0.5 * std::f64::consts::LN_2 * octaves).sinh()
}

/// The nearest note in equal temperament and the distance from it, e.g. "A4 +12 ct".
#[must_use]
pub fn note_of(freq_hz: f64) -> String {
    let semitones = A4 + 12.0 * (freq_hz / 440.0).log2();
    if !semitones.is_finite() {
        return String::new();
    }
    let nearest = semitones.round();
    let cents = (100.0 * (semitones - nearest)).round();
    let name = NOTES[clear_bend_sound::cast::count(nearest.rem_euclid(12.0)) % 12];
    let octave = decimal((nearest / 12.0).floor(), 0);
    let sign = if cents > 0.0 { "+" } else { "" };
    if cents == 0.0 {
        format!("{name}{octave}")
    } else {
        format!("{name}{octave} {sign}{} ct", decimal(cents, 0))
    }
}

/// The frequency of a note, "a4" or "c#3+20", with or without "ct"; lower case, no spaces.
fn freq_of(text: &str) -> Option<f64> {
    let letters = text.find(|c: char| c.is_ascii_digit() || c == '-')?;
    let (name, rest) = text.split_at(letters);
    let (name, flat) = match name.strip_suffix('b').filter(|name| !name.is_empty()) {
        Some(name) => (name, 1.0),
        None => (name, 0.0),
    };
    let place = NOTES.iter().position(|note| note.to_lowercase() == name)?;
    let split = rest[1..].find(['+', '-']).map_or(rest.len(), |i| i + 1);
    let octave: f64 = rest[..split].parse().ok()?;
    let cents = rest[split..].trim_end_matches("ct").trim_end_matches("cents");
    let cents: f64 = if cents.is_empty() { 0.0 } else { cents.parse().ok()? };
    let semitones = 12.0 * octave + clear_bend_sound::cast::real(place) - flat + cents / 100.0;
    Some(440.0 * ((semitones - A4) / 12.0).exp2())
}

/// Reads a value that is typed the second way; lower case, no spaces.
pub(super) fn parse(unit: Unit, text: &str) -> Option<f64> {
    match unit {
        Unit::Hz => freq_of(text),
        Unit::Q => Some(q_of_octaves(text.strip_suffix("oct")?.parse().ok()?)),
        Unit::DelayMs => Some(text.strip_suffix('m')?.parse::<f64>().ok()? / METRES_PER_S * 1000.0),
        _ => None,
    }
}

impl Param {
    /// Reads a value that is typed the second way; where units are left out, octaves are meant, not Q, and metres, not
    /// milliseconds.
    ///
    /// # Errors
    /// As [`Param::parse`].
    pub fn parse_aside(&self, typed: &str) -> Result<f64, clear_bend_sound::Refusal> {
        let bare = typed.trim().parse::<f64>().is_ok();
        match self.unit {
            Unit::Q if bare => self.parse(&format!("{typed} oct")),
            Unit::DelayMs if bare => self.parse(&format!("{typed} m")),
            _ => self.parse(typed),
        }
    }

    /// A value the second way: the nearest note and cents of a frequency, the octaves of a Q, the way of sound in a delay; none for
    /// other units.
    #[must_use]
    pub fn aside(&self, value: f64) -> Option<String> {
        match self.unit {
            // Under C0 nothing is a note.
            Unit::Hz if value >= 16.0 => Some(note_of(value)),
            Unit::Q => Some(Unit::Octaves.text(octaves_of_q(value))),
            Unit::DelayMs => Some(Unit::M.text(way_m(value))),
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Scale;

    /// Equal temperament from A4 = 440 Hz (ISO 16); E4 = 329.63 Hz.
    #[test]
    fn notes_are_said_and_read() {
        let said = [
            (440.0, "A4"),
            (329.63, "E4"),
            (261.63, "C4"),
            (27.5, "A0"),
            (16.0, "C0 \u{2212}38 ct"),
            (1000.0, "B5 +21 ct"),
        ];
        for (freq_hz, note) in said {
            assert_eq!(note_of(freq_hz), note);
        }
        let freq = Param { unit: Unit::Hz, min: 5.0, max: 24_000.0, scale: Scale::Log, ..Param::BLANK };
        for (typed, hz) in [
            ("A4", 440.0),
            ("e4", 329.63),
            ("Bb3", 233.08),
            ("B5 +21", 999.83),
            ("a4 -100 ct", 415.30),
            ("C#3", 138.59),
        ] {
            assert!((freq.parse(typed).unwrap() - hz).abs() < 0.01, "{typed}");
        }
        assert!(freq.parse("H4").is_err() && freq.parse("A").is_err() && freq.parse("A-9").is_err());
    }

    /// Check values from the cookbook's formula, as in docs/measures.md.
    #[test]
    fn q_and_octaves_are_one_value() {
        for (octaves, q) in [(2.0, 0.667), (1.0, 1.414), (0.5, 2.871), (1.0 / 3.0, 4.318), (1.0 / 6.0, 8.651)]
        {
            assert!((q_of_octaves(octaves) - q).abs() < 6e-4);
            assert!((octaves_of_q(q_of_octaves(octaves)) - octaves).abs() < 1e-12);
        }
        let q = Param { unit: Unit::Q, min: 0.1, max: 100.0, scale: Scale::Log, ..Param::BLANK };
        assert!((q.parse("1 oct").unwrap() - 2f64.sqrt()).abs() < 1e-12);
        assert_eq!(q.aside(1.41).as_deref(), Some("1.00 oct"));
    }
}
