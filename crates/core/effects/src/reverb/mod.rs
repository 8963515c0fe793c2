//! Reverb: early reflections, and a late part that falls as it is set at every frequency.
//!
//! A sound gets in (`tone.rs` of all effects), waits (pre-delay), is reflected a few times (`early.rs`), is spread by all-passes (`allpass.rs`)
//! and goes round in delay lines (`network.rs`) that lose what `decays.rs` says. What comes out may rise and fall with every onset
//! (`envelope.rs`), be coarse (`coarse.rs`), and has a tone and a width of its own. Each of these files names the
//! published work it is made after.

// Where something fades, the sum of both shares is written out: it is exact at both ends, wherever a block ends.
mod allpass;
mod character;
mod coarse;
mod decays;
mod early;
mod envelope;
mod glide;
mod lengths;
mod limits;
mod network;
mod processor;
mod reading;
mod ringing;
mod settings;
mod starting;
mod words;

pub use processor::Reverb;
pub use settings::Settings;

use super::{Ability, Effect, MIX, Part, PartKind};
use clear_bend_catalogue::{
    Block, Diagram, Hold, METRES_PER_S, Param, Picture, Unit, Usual, note_s, outcomes,
};
use decays::Decays;

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "reverb",
    label: "Reverb",
    purpose: "Lets a sound ring on, as in a room.",
    params: Settings::PARAMS,
    mix: Param {
        group: "Room",
        default: 0.25,
        outcome: Some(outcomes::WET_SHARE),
        picture: Some(Picture::Impulse),
        what: "How much of the reverb is heard against the dry sound: at 100 %, the reverb alone, as on a send. One is faded into the other in a straight line: at 25 % the dry sound stands at 75 %, 2.5 dB down.",
        listen: "Turn it up until it is plainly heard, then back until it is only missed when it is off.",
        look: "The direct sound against all that follows.",
        mistake: "Setting it alone. Among the other parts it is heard less.",
        usual: &[
            Usual { value: 0.1, purpose: "hardly heard" },
            Usual { value: 0.25, purpose: "plainly heard" },
            Usual { value: 1.0, purpose: "on a send" },
        ],
        ..MIX
    },
    pictures: &[
        Picture::Decay,
        Picture::DecayByOctave,
        Picture::Impulse,
        Picture::FirstReflections,
        Picture::Falling,
        Picture::FallingOverTime,
        Picture::UnderHits,
        Picture::Density,
        Picture::Correlation,
        Picture::OverTime,
        Picture::Spectrogram,
    ],
    diagram: Diagram {
        joins: Some("Shape"),
        blocks: &[
            Block { label: "In", params: &["crossfeed", "in_low_cut_hz", "in_high_cut_hz"], beside: false },
            Block {
                label: "Wait",
                params: &["predelay_ms", "predelay_note", "tempo_bpm", "predelay_on"],
                beside: false,
            },
            Block {
                label: "Early",
                params: &[
                    "early_count",
                    "early_ms",
                    "early_size",
                    "early_crowd",
                    "early_fade_db",
                    "early_swing",
                    "early_diffusion",
                    "early_diffusion_ms",
                    "early_seed",
                ],
                beside: true,
            },
            Block {
                label: "Diffuse",
                params: &["diffusion", "diffusion_place", "all_passes", "diffusion_ms"],
                beside: false,
            },
            Block {
                label: "Lines",
                params: &[
                    "size_m",
                    "character",
                    "lines",
                    "freeze",
                    "decay_s",
                    "high_decay",
                    "high_from_hz",
                    "low_decay",
                    "low_split_hz",
                    "move_hz",
                    "move_ms",
                    "reading",
                    "seed",
                ],
                beside: false,
            },
            Block {
                label: "Shape",
                params: &[
                    "tail_rate_hz",
                    "tail_bits",
                    "rise_ms",
                    "fall_ms",
                    "dry_db",
                    "predelayed_db",
                    "early_db",
                    "late_db",
                    "hear",
                ],
                beside: false,
            },
            Block {
                label: "Tone",
                params: &[
                    "tilt_db",
                    "low_shelf_db",
                    "low_shelf_hz",
                    "high_shelf_db",
                    "high_shelf_hz",
                    "high_cut_hz",
                    "width",
                ],
                beside: false,
            },
            Block { label: "Out", params: &["mix", "output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Reverb::new(plan)),
    form: |_, _| 0,
    idle: |values, _| idle(&Settings::from_values(values)),
    remark: |values, _| remark(&Settings::from_values(values)),
    abilities: &[
        Ability::Decay(|values, freq_hz| {
            let settings = Settings::from_values(values);
            if settings.is_frozen() { f64::INFINITY } else { Decays::of(&settings).at(freq_hz) }
        }),
        Ability::DelaysMove(|values| {
            let settings = Settings::from_values(values);
            if settings.move_ms > 0.0 && !settings.is_frozen() { settings.move_hz } else { 0.0 }
        }),
        Ability::Parts(&[
            Part {
                kind: PartKind::Predelayed,
                alone: |values| alone(values, 1.0, |settings| settings.predelayed_db),
            },
            Part { kind: PartKind::Early, alone: |values| alone(values, 2.0, |settings| settings.early_db) },
            Part { kind: PartKind::Late, alone: |values| alone(values, 4.0, |settings| settings.late_db) },
        ]),
    ],
    sounds: &[],
    holds: &[Hold::Hear { param: "hear", band: None }],
    order: starting::ORDER,
    begins: &[],
    starting: starting::POINTS,
};

/// The same settings with one part heard alone; none where its level is silence.
fn alone(values: &[f64], part: f64, level_db: fn(&Settings) -> f64) -> Option<Vec<f64>> {
    if level_db(&Settings::from_values(values)) <= settings::SILENT_DB {
        return None;
    }
    let place = |id: &str| Settings::PARAMS.iter().position(|param| param.id == id);
    let mut values = values.to_vec();
    if let Some(hear) = place("hear").and_then(|at| values.get_mut(at)) {
        *hear = part;
    }
    Some(values)
}

/// Why nothing is heard of it.
fn idle(settings: &Settings) -> Option<String> {
    let silent = |db: f64| db <= settings::SILENT_DB;
    let all = [settings.dry_db, settings.predelayed_db, settings.early_db, settings.late_db];
    (settings.hear == 0.0 && all.into_iter().all(silent))
        .then(|| "The levels of all its parts are at silence.".to_owned())
}

/// What no control shows.
fn remark(settings: &Settings) -> Option<String> {
    let mut said = Vec::new();
    if settings.is_frozen() {
        said.push(
            "It is frozen: what is in the late reverb never ends, and nothing more gets in.".to_owned(),
        );
    }
    let rounds = settings.decay_s / (settings.size_m / METRES_PER_S);
    if rounds < FEW_ROUNDS {
        said.push(format!(
            "With this size, sound is reflected only *{rounds:.0}* times before it is 60 dB down: single echoes, and no even decay."
        ));
    }
    let note_ms = note_s(settings.predelay_note, settings.tempo_bpm).map(|seconds| 1000.0 * seconds);
    if let Some(note_ms) = note_ms.filter(|note_ms| *note_ms > settings.wait_ms()) {
        let (note, most) = (Unit::Ms.text(note_ms), Unit::Ms.text(settings.wait_ms()));
        said.push(format!("At this tempo the note lasts *{note}*; the reverb waits for {most} at most."));
    }
    let early = settings.early_count > 0.0 && settings.early_db > settings::SILENT_DB && settings.hear == 0.0;
    if early && settings.predelay_on == 0.0 && settings.wait_ms() >= WORTH_A_WORD_MS {
        let wait = Unit::Ms.text(settings.wait_ms());
        said.push(format!("The pre-delay of {wait} holds back the late part alone; the early reflections stay with the sound."));
    }
    (!said.is_empty()).then(|| said.join(" "))
}

/// A shorter pre-delay than this leaves no gap that the early reflections could fill, ms.
const WORTH_A_WORD_MS: f64 = 20.0;

/// Fewer reflections than these until it has fallen by 60 dB are single echoes.
const FEW_ROUNDS: f64 = 12.0;
