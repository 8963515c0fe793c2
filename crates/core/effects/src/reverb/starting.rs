//! The order in which a reverb is explained, and settings to start from (common practice; the numbers are ours).

use clear_bend_catalogue::{StartingPoint, Step};

const fn step(param: &'static str, plain: &'static [(&'static str, f64)]) -> Step {
    Step { param, plain }
}

/// Everything but the late part is off.
const LATE_ALONE: &[(&str, f64)] = &[("early_count", 0.0), ("predelay_ms", 0.0)];
const EARLY_ALONE: &[(&str, f64)] = &[("late_db", -60.0), ("early_db", 0.0), ("early_diffusion", 0.0)];

/// The order of the trade: how much, how long, how far, how wide, how large; then what makes it.
pub const ORDER: &[Step] = &[
    step("mix", &[]),
    step("decay_s", LATE_ALONE),
    step("predelay_ms", &[("early_count", 0.0), ("decay_s", 0.8)]),
    step("width", LATE_ALONE),
    step("size_m", &[("early_count", 0.0), ("predelay_ms", 0.0), ("move_ms", 0.0), ("diffusion", 0.5)]),
    step("early_count", EARLY_ALONE),
    step("early_ms", EARLY_ALONE),
    step("early_crowd", EARLY_ALONE),
    step("early_swing", EARLY_ALONE),
    step("early_diffusion", &[("late_db", -60.0), ("early_db", 0.0), ("early_count", 8.0)]),
    step("diffusion", &[("early_count", 0.0), ("predelay_ms", 0.0), ("size_m", 12.0), ("move_ms", 0.0)]),
    step(
        "diffusion_place",
        &[("early_count", 0.0), ("predelay_ms", 0.0), ("size_m", 12.0), ("move_ms", 0.0)],
    ),
    step("high_decay", LATE_ALONE),
    step("low_decay", LATE_ALONE),
    step("in_low_cut_hz", LATE_ALONE),
    step("in_high_cut_hz", &[("early_count", 0.0), ("predelay_ms", 0.0), ("high_decay", 1.0)]),
    step("move_ms", &[("early_count", 0.0), ("predelay_ms", 0.0), ("decay_s", 4.0)]),
    step("rise_ms", &[("decay_s", 3.0)]),
    step("fall_ms", &[("decay_s", 3.0)]),
    step("tail_rate_hz", &[("decay_s", 3.0)]),
    step("freeze", &[("decay_s", 3.0)]),
];

/// The settings to start from.
pub const POINTS: &[StartingPoint] = &[
    StartingPoint {
        name: "Drum room",
        purpose: "A short, bright room around a kit, with its lows kept out. Listen to the snare: it gets a body, the bass drum stays dry.",
        values: &[
            ("decay_s", 0.5),
            ("size_m", 3.5),
            ("predelay_ms", 4.0),
            ("high_decay", 0.55),
            ("low_decay", 0.7),
            ("in_low_cut_hz", 150.0),
            ("character", 0.0),
            ("early_ms", 30.0),
            ("early_db", -3.0),
            ("diffusion", 1.0),
            ("all_passes", 8.0),
            ("diffusion_ms", 12.0),
        ],
        mix: 0.25,
    },
    StartingPoint {
        name: "Voice plate",
        purpose: "Dense and bright from the start, set off from the voice by its pre-delay. Words stay clear.",
        values: &[
            ("decay_s", 1.6),
            ("size_m", 5.0),
            ("predelay_ms", 25.0),
            ("high_decay", 0.6),
            ("in_low_cut_hz", 200.0),
            ("character", 4.0),
            ("early_count", 0.0),
            ("diffusion", 1.0),
            ("all_passes", 8.0),
        ],
        mix: 0.2,
    },
    StartingPoint {
        name: "Long pad",
        purpose: "A dark hall of many seconds that moves a little. For chords that stand; on drums it is a fog.",
        values: &[
            ("decay_s", 8.0),
            ("size_m", 20.0),
            ("predelay_ms", 20.0),
            ("high_decay", 0.3),
            ("high_from_hz", 3000.0),
            ("low_decay", 0.8),
            ("character", 2.0),
            ("early_count", 24.0),
            ("early_ms", 120.0),
            ("early_db", -12.0),
            ("diffusion", 1.0),
            ("diffusion_place", 1.0),
            ("move_ms", 0.4),
        ],
        mix: 0.4,
    },
    StartingPoint {
        name: "Size by pre-delay alone",
        purpose: "A short reverb that comes 45 ms late: the ear makes a large room of it, and nothing is washed out.",
        values: &[
            ("decay_s", 0.9),
            ("predelay_ms", 45.0),
            ("predelay_on", 1.0),
            ("size_m", 6.0),
            ("early_count", 0.0),
            ("diffusion", 0.9),
            ("diffusion_ms", 15.0),
        ],
        mix: 0.25,
    },
    StartingPoint {
        name: "Stops short",
        purpose: "A long, loud tail that is gone after a quarter of a second. For single drums; every hit starts it again.",
        values: &[
            ("decay_s", 3.0),
            ("size_m", 6.0),
            ("predelay_ms", 0.0),
            ("high_decay", 0.8),
            ("diffusion", 1.0),
            ("all_passes", 8.0),
            ("fall_ms", 250.0),
            ("early_db", -12.0),
        ],
        mix: 0.4,
    },
    StartingPoint {
        name: "Coarse tail",
        purpose: "Few samples a second and eight bits: the tail is rough and ends before its time. Listen above the notes: there are tones that nobody played.",
        values: &[("decay_s", 2.5), ("tail_rate_hz", 11_000.0), ("tail_bits", 8.0), ("early_count", 0.0)],
        mix: 0.35,
    },
    StartingPoint {
        name: "Hardly heard",
        purpose: "A small room, low in level: not heard until it is switched off, and then missed.",
        values: &[
            ("decay_s", 0.35),
            ("size_m", 3.0),
            ("predelay_ms", 2.0),
            ("high_decay", 0.4),
            ("character", 0.0),
            ("early_count", 24.0),
            ("early_ms", 25.0),
            ("diffusion", 1.0),
            ("diffusion_ms", 6.0),
        ],
        mix: 0.1,
    },
    StartingPoint {
        name: "Metal",
        purpose: "A very small size with a long decay and few lines: it rings at fixed tones, whatever is played into it.",
        values: &[
            ("decay_s", 2.5),
            ("size_m", 1.0),
            ("predelay_ms", 0.0),
            ("high_decay", 1.0),
            ("lines", 0.0),
            ("early_count", 0.0),
            ("diffusion", 0.5),
            ("move_ms", 0.0),
        ],
        mix: 0.3,
    },
];
