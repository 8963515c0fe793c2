//! Sources made by the core: test signals, exact at any rate, and the demo scenario; one line each in [`ALL`]. What a signal is stands
//! in [`kind`], how it is named and made in [`source`].

pub mod design;
pub mod kind;
mod noise;
mod responses;
pub mod room;
#[cfg(feature = "schema")]
mod schema;
mod slip;
pub mod source;
mod tones;
mod waves;

use clear_bend_sound::Refusal;

use design::DESIGNED;
use kind::{FREQUENCY, LEVEL, SECONDS, SEED};
use responses::at_peak;

pub use kind::SLIP_RATE_HZ;
pub use kind::{Family, LONGEST_RESPONSE_S, Material, SignalKind};
pub use noise::SplitMix64;
pub use slip::LOW_WATER;
pub use source::{MOST_STEMS, SENT, STEM, Source, SourceDocument, TRACK, check_hash};
pub use waves::{SWEEP, Sweep};

/// All kinds of signal, in the order in which they are offered. In one place of memory, whoever asks for them.
pub static ALL: &[&SignalKind] = &[
    &slip::LOOP,
    &slip::HITS,
    &slip::CHORDS,
    &slip::LOW_DRUM,
    &slip::BASS,
    &slip::WIRES_ONE,
    &slip::WIRES_TWO,
    &slip::DRIVEN,
    &slip::KEYS,
    &slip::PAD,
    &slip::HORN,
    &slip::HUM,
    &slip::RUMBLE,
    &tones::SINE,
    &waves::TWO_TONES,
    &tones::STAIRCASE,
    &tones::BURST,
    &SWEEP,
    &waves::STACK,
    &waves::SQUARE,
    &waves::SAW,
    &waves::TRIANGLE,
    &tones::IMPULSE,
    &tones::CLICKS,
    &noise::WHITE_NOISE,
    &noise::PINK_NOISE,
    &noise::NOISE_BURST,
    &responses::CHART_ROOM,
    &responses::NET_LOFT,
    &responses::SAIL_LOFT,
    &responses::TIDE_HALL,
    &responses::BRIGHT_PLATE,
    &responses::DAMPED_PLATE,
    &responses::SPRING,
    &responses::HULL,
    &responses::TANK,
    &responses::SMALL_CABINET,
    &responses::CLOSED_CABINET,
    &responses::TALL_CABINET,
    &responses::BASS_CABINET,
    &room::ROOM,
    &design::DESIGNED,
];

/// The responses that are made by recipes of this project and have nothing to draw.
pub fn shipped_responses() -> impl Iterator<Item = &'static SignalKind> {
    let drawn = [room::ROOM.id, DESIGNED.id];
    ALL.iter().copied().filter(move |kind| kind.family == Family::Response && !drawn.contains(&kind.id))
}

/// Finds a kind of signal by its identifier.
///
/// # Errors
/// Refuses an unknown one, naming those that are known.
pub fn find(id: &str) -> Result<&'static SignalKind, Refusal> {
    ALL.iter().copied().find(|kind| kind.id == id).ok_or_else(|| {
        let known: Vec<_> = ALL.iter().map(|kind| kind.id).collect();
        Refusal::new("kind", format!("\u{201c}{id}\u{201d}"), known.join(", "))
    })
}
