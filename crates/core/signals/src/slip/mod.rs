//! The demo scenario: the evening crew of the boatyard at Pellow Slip, an invented place, plays on what lies
//! around while the tide is out. They strike hulls and drums, pluck mooring ropes and rigging wires, blow the
//! harmonium of the sail loft, and one of them speaks the tide table. Every sound is a physical sketch. Those of
//! the piece "Low water" share its tempo and its four bars, and each is a loop: what rings past the end is heard
//! at the start.

mod craft;
mod percussion;
mod reeds;
mod strings;

use clear_bend_catalogue::{self as catalogue, Param};

pub use percussion::{HITS, LOOP, LOW_DRUM};
pub use reeds::{CHORDS, HORN, HUM, KEYS, PAD, RUMBLE};
pub use strings::{BASS, DRIVEN, WIRES_ONE, WIRES_TWO};

/// Tempo of the piece.
const TEMPO: Param = Param {
    min: 60.0,
    max: 180.0,
    what: "Beats per minute. Four bars of four beats: 8 s at 120.",
    ..catalogue::TEMPO
};

/// One bar of the piece: the root of the bass, Hz, and the chord above it, Hz.
struct Bar {
    root_hz: f64,
    chord_hz: [f64; 4],
}

/// D minor, B flat, F, C: frequencies in equal temperament from A4 = 440 Hz.
const BARS: [Bar; 4] = [
    Bar { root_hz: 73.416, chord_hz: [146.832, 220.0, 293.665, 349.228] },
    Bar { root_hz: 58.270, chord_hz: [146.832, 233.082, 293.665, 349.228] },
    Bar { root_hz: 87.307, chord_hz: [174.614, 220.0, 261.626, 349.228] },
    Bar { root_hz: 65.406, chord_hz: [164.814, 195.998, 261.626, 329.628] },
];

/// The stems of the piece "Low water" that the core makes: identifier, level in dB, pan. The voice, which is a
/// recording, is added by whoever has it.
pub const LOW_WATER: [(&str, f64, f64); 7] = [
    ("boatyard-loop", -4.0, 0.0),
    ("slip-drum", -6.0, 0.0),
    ("slip-bass", -12.0, 0.0),
    ("slip-wires-1", -13.0, -0.3),
    ("slip-wires-2", -13.0, 0.3),
    ("slip-keys", -21.0, 0.0),
    ("slip-bottles", -25.0, 0.0),
];
