//! The fields of the oscillator in the settings of an effect.

/// Declares settings with the rate before and the other parameters of the oscillator behind those of the effect itself, as
/// [`crate::settings!`] does.
macro_rules! moving_settings {
    (
        $(#[$meta:meta])*
        pub struct $name:ident {
            rate: ($rate_outcome:expr, $rate_picture:expr),
            $( $(#[$field_meta:meta])* $field:ident: $param:expr ),+ $(,)?
        }
    ) => {
        $crate::settings! {
            $(#[$meta])*
            pub struct $name {
                /// Cycles per second.
                rate_hz: $crate::effects::modulation::words::bending(
                    $crate::effects::modulation::words::RATE_HZ, $rate_outcome, $rate_picture),
                $( $(#[$field_meta])* $field: $param, )+
                /// How far the right side is ahead, degrees.
                apart_deg: $crate::effects::modulation::words::APART_DEG,
                /// Whether it is held still.
                hold: $crate::effects::modulation::words::HOLD,
                /// The place at which it is held, degrees.
                hold_deg: $crate::effects::modulation::words::HOLD_DEG,
                /// The cycle as a note, by its place among the choices.
                rate_note: $crate::effects::modulation::words::RATE_NOTE,
                /// The tempo of the bench, beats per minute.
                tempo_bpm: $crate::effects::modulation::words::TEMPO_BPM,
                /// Where its top lies, -1 to 1.
                lean: $crate::effects::modulation::words::LEAN,
                /// From round to steep, 0 to 1.
                edge: $crate::effects::modulation::words::EDGE,
                /// Share of chance, 0 to 1.
                random: $crate::effects::modulation::words::RANDOM,
                /// What that is drawn from.
                seed: $crate::effects::modulation::words::SEED,
                /// Where the cycle is at the beginning, degrees.
                start_deg: $crate::effects::modulation::words::START_DEG,
            }
        }
    };
}
pub(crate) use moving_settings;

/// The block of the oscillator in a diagram: beside the signal.
pub const BLOCK: crate::catalogue::Block = crate::catalogue::Block {
    label: "Oscillator",
    params: &[
        "rate_hz",
        "rate_note",
        "tempo_bpm",
        "apart_deg",
        "hold",
        "hold_deg",
        "lean",
        "edge",
        "random",
        "seed",
        "start_deg",
    ],
    beside: true,
};
