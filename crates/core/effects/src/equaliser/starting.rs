//! Where to begin with an equaliser. All values are common practice.

use super::design::Kind;
use super::settings::Settings;
use clear_bend_catalogue::{StartingPoint, Step};

const LOW_CUT: f64 = Kind::LowCut.choice();
const HIGH_CUT: f64 = Kind::HighCut.choice();
const NOTCH: f64 = Kind::Notch.choice();
const BELL: f64 = Kind::Bell.choice();
const LOW_SHELF: f64 = Kind::LowShelf.choice();
const HIGH_SHELF: f64 = Kind::HighShelf.choice();
const MULTIPLES: f64 = 1.0;
const SIDE: f64 = 4.0;

/// The parameters in the order in which they are best explained, each at a setting at which it shows.
pub const ORDER: &[Step] = &[
    step("gain_1_db", &[("kind_1", BELL), ("freq_1_hz", 1000.0), ("q_1", 1.0)]),
    step("freq_1_hz", &[("kind_1", BELL), ("gain_1_db", 12.0), ("q_1", 2.0)]),
    step("q_1", &[("kind_1", BELL), ("gain_1_db", 12.0), ("freq_1_hz", 1000.0)]),
    step("q_rule", &[("kind_1", BELL), ("gain_1_db", 3.0), ("q_1", 4.0)]),
    step("kind_1", &[("gain_1_db", 9.0), ("freq_1_hz", 1000.0)]),
    step("slope_1", &[("kind_1", LOW_CUT), ("freq_1_hz", 150.0)]),
    step("scope_1", &[("kind_1", LOW_CUT), ("freq_1_hz", 400.0), ("slope_1", 24.0)]),
    step("series_1", &[("kind_1", NOTCH), ("freq_1_hz", 50.0), ("q_1", 20.0)]),
    step("copies_1", &[("kind_1", NOTCH), ("freq_1_hz", 50.0), ("q_1", 20.0), ("series_1", MULTIPLES)]),
    step("formula", &[("kind_1", BELL), ("freq_1_hz", 14_000.0), ("gain_1_db", 12.0), ("q_1", 1.0)]),
    step("phase", &[("kind_1", LOW_CUT), ("freq_1_hz", 60.0), ("slope_1", 48.0)]),
    step("hear", &[("kind_1", BELL), ("freq_1_hz", 500.0), ("gain_1_db", -6.0), ("q_1", 2.0)]),
];

/// Named usual settings.
pub const POINTS: &[StartingPoint] = &[
    StartingPoint {
        name: "Clean up a voice",
        purpose: "Takes rumble and some mud, adds a little presence. Listen in the mix: alone, it seems thin.",
        values: &[
            ("kind_1", LOW_CUT),
            ("freq_1_hz", 80.0),
            ("slope_1", 12.0),
            ("kind_2", BELL),
            ("freq_2_hz", 300.0),
            ("gain_2_db", -3.0),
            ("q_2", 1.2),
            ("kind_3", BELL),
            ("freq_3_hz", 4000.0),
            ("gain_3_db", 2.0),
            ("q_3", 0.9),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Room for the bass",
        purpose: "Takes the lows out of a part that does not need them, so that the bass has them for itself.",
        values: &[
            ("kind_1", LOW_CUT),
            ("freq_1_hz", 120.0),
            ("slope_1", 24.0),
            ("kind_2", LOW_SHELF),
            ("freq_2_hz", 250.0),
            ("gain_2_db", -2.0),
            ("q_2", 0.7),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Telephone",
        purpose: "Only the range of a telephone is left, with a lift between 1 and 2 kHz.",
        values: &[
            ("kind_1", LOW_CUT),
            ("freq_1_hz", 300.0),
            ("slope_1", 48.0),
            ("kind_2", HIGH_CUT),
            ("freq_2_hz", 3400.0),
            ("slope_2", 48.0),
            ("kind_3", BELL),
            ("freq_3_hz", 1500.0),
            ("gain_3_db", 6.0),
            ("q_3", 1.2),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Mains hum, 50 Hz",
        purpose: "Notches at 50 Hz and its multiples to 500 Hz. Hear only the range of the band to find out whether there is hum at all.",
        values: &[
            ("kind_1", NOTCH),
            ("freq_1_hz", 50.0),
            ("q_1", 30.0),
            ("series_1", MULTIPLES),
            ("copies_1", 10.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Mains hum, 60 Hz",
        purpose: "Notches at 60 Hz and its multiples to 600 Hz.",
        values: &[
            ("kind_1", NOTCH),
            ("freq_1_hz", 60.0),
            ("q_1", 30.0),
            ("series_1", MULTIPLES),
            ("copies_1", 10.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Rumble out of the sides",
        purpose: "A low cut on the side alone: what rumbles left and right goes, the middle keeps its lows.",
        values: &[("kind_1", LOW_CUT), ("freq_1_hz", 150.0), ("slope_1", 24.0), ("scope_1", SIDE)],
        mix: 1.0,
    },
    StartingPoint {
        name: "Mono lows",
        purpose: "No side under 120 Hz, steeply: lows play from the middle. The width above stays.",
        values: &[("kind_1", LOW_CUT), ("freq_1_hz", 120.0), ("slope_1", 48.0), ("scope_1", SIDE)],
        mix: 1.0,
    },
    StartingPoint {
        name: "More brightness",
        purpose: "A wide, gentle shelf. Match the level before you decide: brighter mostly seems better.",
        values: &[("kind_1", HIGH_SHELF), ("freq_1_hz", 8000.0), ("gain_1_db", 3.0), ("q_1", 0.7)],
        mix: 1.0,
    },
    StartingPoint {
        name: "Pair: the airy part",
        purpose: "One of two similar parts: up at 13 kHz, down at 5.5 kHz. The other one takes \u{201c}Pair: the near part\u{201d}.",
        values: &[
            ("kind_1", BELL),
            ("freq_1_hz", 13_000.0),
            ("gain_1_db", 3.0),
            ("q_1", 1.0),
            ("kind_2", BELL),
            ("freq_2_hz", 5500.0),
            ("gain_2_db", -3.0),
            ("q_2", 1.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Pair: the near part",
        purpose: "The other of two similar parts: up at 5 kHz, where the airy one steps back.",
        values: &[("kind_1", BELL), ("freq_1_hz", 5000.0), ("gain_1_db", 3.0), ("q_1", 1.0)],
        mix: 1.0,
    },
    StartingPoint {
        name: "Under samples",
        purpose: "Takes only what nobody hears and every meter sees.",
        values: &[("kind_1", LOW_CUT), ("freq_1_hz", 30.0), ("slope_1", 12.0)],
        mix: 1.0,
    },
];

/// Why these values do nothing; none if they do something.
#[must_use]
pub fn idle(values: &[f64]) -> Option<String> {
    let settings = Settings::from_values(values);
    let output = values.get(6).copied().unwrap_or(0.0);
    if settings.input_db != 0.0 || output != 0.0 || settings.audition().is_some() {
        return None;
    }
    if settings.bands.iter().all(|band| band.build.kind == Kind::None) {
        return Some("The equaliser has no band, so it changes nothing.".to_owned());
    }
    let flat = |kind: Kind| {
        matches!(kind, Kind::Bell | Kind::FlatBell | Kind::LowShelf | Kind::HighShelf | Kind::Tilt)
    };
    let working: Vec<_> = settings.working().collect();
    if working.is_empty() {
        return Some("All bands of the equaliser are switched off, so it changes nothing.".to_owned());
    }
    let resting = working.iter().all(|band| flat(band.build.kind) && band.shape.gain_db == 0.0);
    resting.then(|| "All bands of the equaliser stand at 0.0 dB, so it changes nothing.".to_owned())
}

/// A step of the guided order.
const fn step(param: &'static str, plain: &'static [(&'static str, f64)]) -> Step {
    Step { param, plain }
}
