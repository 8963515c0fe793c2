//! Usual settings of a compressor. All values are common practice.

use clear_bend_catalogue::StartingPoint;

/// The starting points, the gentlest first.
pub const POINTS: &[StartingPoint] = &[
    StartingPoint {
        name: "Gentle levelling of a voice",
        purpose: "Brings words closer together by a couple of dB. Listen for the ends of sentences: they should be as clear as the beginnings. Lower the threshold until 2 to 3 dB are taken.",
        values: &[
            ("threshold_db", -24.0),
            ("ratio", 4.0),
            ("knee_db", 12.0),
            ("attack_ms", 10.0),
            ("release_ms", 120.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Keys behind a voice",
        purpose: "Holds a keyboard part so that it stays behind. Listen to the voice while you lower the threshold: stop when the keys no longer jump in front of it.",
        values: &[
            ("threshold_db", -28.0),
            ("ratio", 3.0),
            ("knee_db", 6.0),
            ("attack_ms", 15.0),
            ("release_ms", 200.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Firm bass",
        purpose: "Makes every note of a bass equally strong and leaves its pluck. Listen for notes that stick out or sink; lengthen the release if low notes turn rough.",
        values: &[
            ("threshold_db", -26.0),
            ("ratio", 10.0),
            ("knee_db", 6.0),
            ("attack_ms", 30.0),
            ("hold_ms", 30.0),
            ("release_ms", 180.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Tight drums",
        purpose: "A low ratio over much of the range pulls a kit together. Listen to whether loud and quiet hits belong to one player.",
        values: &[
            ("threshold_db", -22.0),
            ("ratio", 1.6),
            ("knee_db", 6.0),
            ("attack_ms", 10.0),
            ("release_ms", 100.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "More attack",
        purpose: "A long attack lets the crack through and holds what rings after it. Listen to the first instant of each hit: it stands out more.",
        values: &[
            ("threshold_db", -30.0),
            ("ratio", 6.0),
            ("knee_db", 3.0),
            ("attack_ms", 30.0),
            ("release_ms", 80.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Less attack",
        purpose: "A short attack with lookahead takes the crack and leaves the body. Listen for hits that move back into the room.",
        values: &[
            ("threshold_db", -24.0),
            ("ratio", 4.0),
            ("knee_db", 3.0),
            ("attack_ms", 0.5),
            ("release_ms", 40.0),
            ("lookahead_ms", 1.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Parallel squeeze",
        purpose: "Much compression laid under the untouched sound lifts what is quiet and leaves the hits. Listen to the room between hits, then take the mix down until you miss it.",
        values: &[
            ("threshold_db", -40.0),
            ("ratio", 10.0),
            ("knee_db", 6.0),
            ("attack_ms", 1.0),
            ("release_ms", 120.0),
            ("makeup_db", 10.0),
        ],
        mix: 0.5,
    },
    StartingPoint {
        name: "Peaks only",
        purpose: "Touches nothing but what sticks out. Listen to whether you can hear it at all; if you can, raise the threshold.",
        values: &[
            ("threshold_db", -10.0),
            ("ratio", 8.0),
            ("knee_db", 0.0),
            ("attack_ms", 1.0),
            ("release_ms", 50.0),
        ],
        mix: 1.0,
    },
    StartingPoint {
        name: "Ducking under a voice",
        purpose: "With the voice as its key, the music steps back while someone speaks. Choose the key first. Listen for the music to come back without being noticed.",
        values: &[
            ("threshold_db", -36.0),
            ("ratio", 4.0),
            ("knee_db", 6.0),
            ("attack_ms", 40.0),
            ("hold_ms", 150.0),
            ("release_ms", 500.0),
            ("range_db", 9.0),
        ],
        mix: 1.0,
    },
];
