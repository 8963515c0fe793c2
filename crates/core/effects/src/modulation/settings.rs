//! The fields of the oscillator in the settings of an effect.

/// Declares settings with the rate before and the other parameters of the oscillator behind those of the effect itself, as
/// [`clear_bend_catalogue::settings!`] does.
macro_rules! moving_settings {
    (
        $(#[$meta:meta])*
        pub struct $name:ident {
            rate: ($rate_outcome:expr, $rate_picture:expr),
            $( $(#[$field_meta:meta])* $field:ident: $param:expr ),+ $(,)?
        }
    ) => {
        clear_bend_catalogue::settings! {
            $(#[$meta])*
            pub struct $name {
                /// Cycles per second.
                rate_hz: $crate::modulation::words::bending(
                    $crate::modulation::words::RATE_HZ, $rate_outcome, $rate_picture),
                $( $(#[$field_meta])* $field: $param, )+
                /// How far the right side is ahead, degrees.
                apart_deg: $crate::modulation::words::APART_DEG,
                /// Whether it is held still.
                hold: $crate::modulation::words::HOLD,
                /// The place at which it is held, degrees.
                hold_deg: $crate::modulation::words::HOLD_DEG,
                /// The cycle as a note, by its place among the choices.
                rate_note: $crate::modulation::words::RATE_NOTE,
                /// The tempo of the bench, beats per minute.
                tempo_bpm: $crate::modulation::words::TEMPO_BPM,
                /// Where its top lies, -1 to 1.
                lean: $crate::modulation::words::LEAN,
                /// From round to steep, 0 to 1.
                edge: $crate::modulation::words::EDGE,
                /// Share of chance, 0 to 1.
                random: $crate::modulation::words::RANDOM,
                /// What that is drawn from.
                seed: $crate::modulation::words::SEED,
                /// Where the cycle is at the beginning, degrees.
                start_deg: $crate::modulation::words::START_DEG,
            }
        }
    };
}
pub(crate) use moving_settings;

/// The block of the oscillator in a diagram: beside the signal.
pub const BLOCK: clear_bend_catalogue::Block = clear_bend_catalogue::Block {
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
