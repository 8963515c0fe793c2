//! The order in which a convolution reverb is explained, and settings to start from (common practice; the numbers are ours).

use clear_bend_catalogue::{StartingPoint, Step};

const fn step(param: &'static str, plain: &'static [(&'static str, f64)]) -> Step {
    Step { param, plain }
}

/// How much, how large, how far, how wide; then what is done to the response.
pub const ORDER: &[Step] = &[
    step("mix", &[]),
    step("stretch", &[("predelay_ms", 0.0)]),
    step("pitch", &[("stretch", 2.0)]),
    step("predelay_ms", &[("rise_ms", 0.0)]),
    step("width", &[]),
    step("level", &[]),
    step("cut_s", &[("fall_ms", 0.0)]),
    step("fall_ms", &[("rise_ms", 0.0)]),
    step("rise_ms", &[("fall_ms", 0.0)]),
    step("reverse", &[("cut_s", 0.5)]),
    step("low_cut_hz", &[("tilt_db", 0.0)]),
    step("tilt_db", &[("high_cut_hz", 20_000.0)]),
    step("high_cut_hz", &[("tilt_db", 0.0)]),
];

/// The settings to start from.
pub const POINTS: &[StartingPoint] = &[
    StartingPoint {
        name: "Behind a voice",
        purpose: "The place begins after the word and leaves its lows alone. Listen to the first letter of every word: it stays in front.",
        values: &[("predelay_ms", 25.0), ("low_cut_hz", 180.0), ("tilt_db", -3.0)],
        mix: 0.2,
    },
    StartingPoint {
        name: "Short around a drum",
        purpose: "A place that stops before the next hit. Listen to the gap between two hits: it is clear again.",
        values: &[("cut_s", 0.35), ("fall_ms", 150.0), ("low_cut_hz", 120.0)],
        mix: 0.3,
    },
    StartingPoint {
        name: "Swell before the sound",
        purpose: "The response from its end to its beginning, half a second of it. Listen how every hit is answered by a swell that breaks off.",
        values: &[("reverse", 1.0), ("cut_s", 0.5), ("rise_ms", 200.0)],
        mix: 0.4,
    },
    StartingPoint {
        name: "Speaker cabinet",
        purpose: "A response as it was recorded, and nothing past it. Choose one of the cabinets: highs and lows of a bare wire go.",
        values: &[("level", 1.0)],
        mix: 1.0,
    },
];
