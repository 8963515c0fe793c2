//! What a reverb can be set to, in the words of the screen.

use super::allpass::{ChainSettings, MOST};
use super::character::{self, Character};
use super::lengths::spread;
use super::network::METRES_PER_S;
use super::reading;
use crate::cast;
use crate::catalogue::outcomes;
use crate::catalogue::{ActsWith, Param, Picture, Scale, Unit, Usual};
use crate::effects::{OFF_ON, OUTPUT};
use crate::settings;
use crate::signals::SplitMix64;

/// The largest mean way between reflections, m.
pub const MOST_SIZE_M: f64 = 50.0;
/// The longest pre-delay, ms.
pub const MOST_PREDELAY_MS: f64 = 500.0;
/// The longest time of early reflections with their own size, ms.
pub const MOST_EARLY_MS: f64 = 600.0;
/// The longest time over which all-passes diffuse, ms.
pub const MOST_DIFFUSION_MS: f64 = 200.0;
/// From here up, a low cut is at work; up to there, a high cut is, Hz.
pub const CUT_OFF_HZ: (f64, f64) = (20.0, 20_000.0);
/// Levels at this are silence, dB.
pub const SILENT_DB: f64 = -60.0;
/// At the top, the tail is made at the full rate (Hz), and with the full word length (bits).
pub const FULL_RATE_HZ: f64 = 48_000.0;
/// The full word length, bits.
pub const FULL_BITS: f64 = 24.0;

/// Where diffusion sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    /// Ahead of the lines.
    Ahead,
    /// Inside their loop.
    Inside,
    /// Behind them.
    Behind,
}

const PLACES: &[&str] = &["ahead of the lines", "inside their loop", "behind them"];

/// What is heard.
pub const HEARD: &[&str] = &["everything", "pre-delayed", "early", "diffused", "late"];

const SEED: Param = Param {
    label: "Seed",
    max: 9999.0,
    default: 1.0,
    step: 1.0,
    outcome: Some(outcomes::COLOURATION),
    picture: Some(Picture::Impulse),
    what: "Which of the random patterns is used. The same seed always gives the same sound.",
    listen: "Another room of the same kind: the same size and decay, another grain.",
    look: "The single reflections stand elsewhere, the curves stay where they are.",
    mistake: "Taking a good seed for a good setting. If only one seed sounds well, something else is wrong.",
    usual: &[Usual { value: 1.0, purpose: "the first" }],
    ..Param::BLANK
};

const LEVEL: Param = Param {
    group: "Out",
    unit: Unit::Db,
    min: SILENT_DB,
    max: 12.0,
    outcome: Some(outcomes::LOUDNESS_CHANGE),
    picture: Some(Picture::Impulse),
    ..Param::BLANK
};

settings! {
    /// The settings of a reverb.
    pub struct Settings {
        /// Time to fall by 60 dB, s.
        decay_s: Param {
            label: "Decay",
            group: "Room",
            unit: Unit::FineS,
            min: 0.1,
            max: 60.0,
            default: 1.8,
            scale: Scale::Log,
            outcome: Some(outcomes::T30),
            picture: Some(Picture::Decay),
            what: "How long the tail takes to fall by 60 dB, between the lows and the highs.",
            listen: "Set it so that the tail is nearly gone when the next hit comes, then try twice as long.",
            look: "The slope of the decay curve: twice as long is half as steep.",
            mistake: "Making it long because it is hardly heard. That is a matter of the mix.",
            usual: &[
                Usual { value: 0.4, purpose: "a drum room" },
                Usual { value: 1.8, purpose: "a voice" },
                Usual { value: 6.0, purpose: "a pad" },
            ],
            ..Param::BLANK
        },
        /// Time between the sound and its reverb, ms.
        predelay_ms: Param {
            label: "Pre-delay",
            group: "Room",
            unit: Unit::Ms,
            max: MOST_PREDELAY_MS,
            default: 10.0,
            scale: Scale::SoftLog { knee: 10.0 },
            outcome: Some(outcomes::PREDELAY),
            picture: Some(Picture::FirstReflections),
            what: "How much later the reverb begins than the sound: 10 ms are a way of 3.4 m.",
            listen: "The first crack of a hit comes clear of the reverb; from some 50 ms on, reverb is an answer of its own.",
            look: "The gap between the direct sound and what follows.",
            mistake: "Making a room larger with it alone. The ear takes the gap for the distance of the nearest wall.",
            usual: &[
                Usual { value: 10.0, purpose: "keeps an attack clear" },
                Usual { value: 30.0, purpose: "a voice in front of its room" },
            ],
            ..Param::BLANK
        },
        /// Mean way between two reflections, m.
        size_m: Param {
            label: "Size",
            group: "Room",
            unit: Unit::M,
            min: 1.0,
            max: MOST_SIZE_M,
            default: 8.0,
            scale: Scale::Log,
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "The mean way between two reflections of the late reverb. The decay stays as it is set.",
            listen: "Small is dense at once and rings like metal; large lets single reflections be heard first.",
            look: "How soon the density reaches that of noise, and how many modes share an octave.",
            mistake: "Taking size for decay. A small room can ring for long, a large one can be dead.",
            usual: &[
                Usual { value: 2.5, purpose: "a small room" },
                Usual { value: 8.0, purpose: "a room" },
                Usual { value: 20.0, purpose: "a hall" },
            ],
            ..Param::BLANK
        },
        /// Width of the wet sound: 0 mono, 1 stereo, more is wider.
        width: Param {
            label: "Width",
            group: "Room",
            unit: Unit::Percent,
            max: 1.5,
            default: 1.0,
            outcome: Some(outcomes::CORRELATION),
            picture: Some(Picture::Correlation),
            what: "How far the reverb spreads, and the reverb alone: the dry sound is as wide as it was.",
            listen: "Narrow moves it away, behind the sound; wide puts it around the listener.",
            look: "The correlation of left and right: 1 in mono, 0 at 100 %, under 0 beyond.",
            mistake: "Going beyond 100 % without listening in mono: what is added there is gone.",
            usual: &[
                Usual { value: 0.0, purpose: "mono" },
                Usual { value: 1.0, purpose: "stereo" },
            ],
            ..Param::BLANK
        },
        /// Decay at the top, as a share of the decay.
        high_decay: Param {
            label: "Highs\u{2019} decay",
            group: "Room",
            unit: Unit::Percent,
            min: 0.05,
            max: 1.0,
            default: 0.4,
            scale: Scale::Log,
            outcome: Some(outcomes::T30_AT_8K),
            picture: Some(Picture::DecayByOctave),
            what: "Damping: the decay at the top of the range, as a share of the decay. Less is more damping.",
            listen: "The tail gets darker while it goes on; its beginning stays as bright as it was.",
            look: "The decay times of the upper octaves come down.",
            mistake: "Cutting the highs of the reverb instead. A cut takes them from the first moment on, damping lets them die sooner.",
            usual: &[
                Usual { value: 0.25, purpose: "dark, with cloth and people" },
                Usual { value: 0.5, purpose: "a usual room" },
                Usual { value: 1.0, purpose: "stone and tiles" },
            ],
            ..Param::BLANK
        },
        /// Where half of the way to the top is gone, Hz.
        high_from_hz: Param {
            label: "Highs from",
            group: "Damping",
            unit: Unit::Hz,
            min: 500.0,
            max: 16_000.0,
            default: 4000.0,
            scale: Scale::Log,
            outcome: Some(outcomes::T30_AT_8K),
            picture: Some(Picture::DecayByOctave),
            what: "The frequency at which the fall is half way between that in the middle and that at the top.",
            listen: "Low makes the whole tail dull, high takes the fizz only.",
            look: "Where the decay times begin to come down.",
            mistake: "Expecting an edge. The decay goes over within three octaves.",
            usual: &[Usual { value: 4000.0, purpose: "a usual room" }],
            ..Param::BLANK
        },
        /// Decay of the lows, as a multiple of the decay.
        low_decay: Param {
            label: "Lows\u{2019} decay",
            group: "Damping",
            unit: Unit::Percent,
            min: 0.25,
            max: 4.0,
            default: 1.0,
            scale: Scale::Log,
            outcome: Some(outcomes::T30_AT_125),
            picture: Some(Picture::DecayByOctave),
            what: "How long the lows take, against the decay in the middle.",
            listen: "Long is warm, then muddy; short keeps a bass drum out of the reverb.",
            look: "The decay times of the lower octaves.",
            mistake: "Taking boominess for too much bass in the sound. Often only its tail is too long.",
            usual: &[
                Usual { value: 0.5, purpose: "drums" },
                Usual { value: 1.2, purpose: "a warm hall" },
            ],
            ..Param::BLANK
        },
        /// Where half of the way to the bottom is gone, Hz.
        low_split_hz: Param {
            label: "Lows up to",
            group: "Damping",
            unit: Unit::Hz,
            min: 50.0,
            max: 2000.0,
            default: 250.0,
            scale: Scale::Log,
            outcome: Some(outcomes::T30_AT_125),
            picture: Some(Picture::DecayByOctave),
            what: "The frequency at which the fall is half way between that at the bottom and that in the middle.",
            listen: "High takes the body of voices into the change, low the boom only.",
            look: "Where the decay times leave their middle value.",
            mistake: "Moving it while the decay of the lows is at 100 %. Then it does nothing.",
            usual: &[Usual { value: 250.0, purpose: "the boom" }, Usual { value: 1000.0, purpose: "all that is warm" }],
            ..Param::BLANK
        },
        /// How far the sides are mixed before the reverb, 0 to 1.
        crossfeed: Param {
            label: "Crossfeed",
            group: "In",
            unit: Unit::Percent,
            default: 0.5,
            outcome: Some(outcomes::CORRELATION),
            picture: Some(Picture::Correlation),
            what: "How far the two sides are mixed ahead of the reverb and in it: at 0 % each side keeps its own, at 100 % the reverb gets mono.",
            listen: "With a sound on the left, whether its reverb comes from the left or from everywhere.",
            look: "The balance of the tail against that of the sound.",
            mistake: "Taking it for the width. That is about what comes out, this about what goes in.",
            usual: &[Usual { value: 0.0, purpose: "two rooms" }, Usual { value: 0.5, purpose: "one room" }],
            ..Param::BLANK
        },
        /// Low cut ahead of the reverb, Hz; off at 20.
        in_low_cut_hz: Param {
            label: "Low cut, in",
            group: "In",
            unit: Unit::Hz,
            min: CUT_OFF_HZ.0,
            max: 2000.0,
            default: 20.0,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "What lies under it never gets into the reverb. 12 dB per octave; off at 20 Hz.",
            listen: "A bass drum no longer sets off the room.",
            look: "The lows are missing from the first moment on, and fall as fast as before.",
            mistake: "Expecting a shorter decay of the lows. What gets in still takes its time.",
            usual: &[Usual { value: 200.0, purpose: "keeps lows clear" }],
            ..Param::BLANK
        },
        /// High cut ahead of the reverb, Hz; off at 20,000.
        in_high_cut_hz: Param {
            label: "High cut, in",
            group: "In",
            unit: Unit::Hz,
            min: 200.0,
            max: CUT_OFF_HZ.1,
            default: CUT_OFF_HZ.1,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "What lies over it never gets into the reverb. 12 dB per octave; off at 20 kHz.",
            listen: "Sibilants and cymbals stay dry.",
            look: "The highs are missing from the first moment on.",
            mistake: "Taking it for damping: it makes the tail dark, but as dark at its beginning as at its end.",
            usual: &[Usual { value: 6000.0, purpose: "keeps sibilants dry" }],
            ..Param::BLANK
        },
        /// What is pre-delayed: the late part, or both.
        predelay_on: Param {
            label: "Pre-delay of",
            group: "Pre-delay",
            choices: &["the late part", "both parts"],
            outcome: Some(outcomes::FIRST_REFLECTION),
            picture: Some(Picture::FirstReflections),
            what: "Whether the early reflections wait for the pre-delay as well, or only the late reverb does.",
            listen: "With the late part alone, the early reflections stay with the sound and it does not come loose.",
            look: "The early reflections move with the pre-delay, or stay.",
            mistake: "Wondering why a long pre-delay leaves no gap: the early reflections fill it.",
            usual: &[Usual { value: 0.0, purpose: "a room around the sound" }],
            ..Param::BLANK
        },
        /// How many early reflections there are on each side.
        early_count: Param {
            label: "Reflections",
            group: "Early",
            max: 64.0,
            default: 18.0,
            step: 1.0,
            outcome: Some(outcomes::EARLY_COUNT),
            picture: Some(Picture::FirstReflections),
            what: "How many early reflections there are on each side. All of them together are as loud, however many they are.",
            listen: "A few are echoes, many are a colour.",
            look: "The lines between the direct sound and the late reverb.",
            mistake: "Taking many for large. How far apart they are says more about a room.",
            usual: &[Usual { value: 0.0, purpose: "late reverb alone" }, Usual { value: 18.0, purpose: "a room" }],
            ..Param::BLANK
        },
        /// Over what time they come, ms.
        early_ms: Param {
            label: "Time",
            group: "Early",
            unit: Unit::Ms,
            min: 5.0,
            max: 300.0,
            default: 70.0,
            scale: Scale::Log,
            outcome: Some(outcomes::EARLY_SPAN),
            picture: Some(Picture::FirstReflections),
            what: "Over what time the early reflections come.",
            listen: "Short is a small room or a box, long is a hall.",
            look: "Where the last of the lines stands.",
            mistake: "Making it longer than the pre-delay without wanting to: then early and late overlap.",
            usual: &[Usual { value: 20.0, purpose: "small" }, Usual { value: 80.0, purpose: "a hall" }],
            ..Param::BLANK
        },
        /// By how many times the pattern is stretched.
        early_size: Param {
            label: "Own size",
            group: "Early",
            unit: Unit::Percent,
            min: 0.25,
            max: 2.0,
            default: 1.0,
            scale: Scale::Log,
            outcome: Some(outcomes::EARLY_SPAN),
            picture: Some(Picture::FirstReflections),
            what: "Stretches the whole pattern, with its first reflection, as a larger room would.",
            listen: "The sound moves away from its walls.",
            look: "All lines move out together.",
            mistake: "Forgetting it when the size of the late part is moved: the two are apart.",
            usual: &[Usual { value: 1.0, purpose: "as the time says" }],
            ..Param::BLANK
        },
        /// How far they crowd towards the end, 0 to 1.
        early_crowd: Param {
            label: "Crowding",
            group: "Early",
            unit: Unit::Percent,
            default: 0.5,
            outcome: Some(outcomes::EARLY_MIDDLE),
            picture: Some(Picture::FirstReflections),
            what: "How much denser the reflections come towards the end: 0 % is even, 100 % grows with the square of time, as in a room.",
            listen: "Even ones flutter, crowded ones melt into the late reverb.",
            look: "The lines stand closer to the right.",
            mistake: "Judging it with many reflections. With eight it can be heard.",
            usual: &[Usual { value: 1.0, purpose: "as in a room" }],
            ..Param::BLANK
        },
        /// By how much the last one is quieter than the first, dB.
        early_fade_db: Param {
            label: "Fading",
            group: "Early",
            unit: Unit::Db,
            max: 40.0,
            default: 12.0,
            outcome: Some(outcomes::EARLY_MIDDLE),
            picture: Some(Picture::FirstReflections),
            what: "By how much the last early reflection is quieter than the first.",
            listen: "Little fading is a second sound behind the first, much is a colour of the attack.",
            look: "The line over the tips of the reflections.",
            mistake: "Making the early part quieter with it. Its energy stays, and moves to the front.",
            usual: &[Usual { value: 12.0, purpose: "a room" }],
            ..Param::BLANK
        },
        /// How far they swing left and right, 0 to 1.
        early_swing: Param {
            label: "Swing",
            group: "Early",
            unit: Unit::Percent,
            default: 0.5,
            outcome: Some(outcomes::EARLY_BALANCE),
            picture: Some(Picture::FirstReflections),
            what: "How far single reflections swing to one side or the other.",
            listen: "None is a corridor, much is walls to both sides.",
            look: "The lines lean up, to the left, or down, to the right.",
            mistake: "Expecting it from a sound on one side without crossfeed: that side has nothing to swing to.",
            usual: &[Usual { value: 0.5, purpose: "a room" }],
            ..Param::BLANK
        },
        /// Smears them, 0 to 1.
        early_diffusion: Param {
            label: "Smear",
            group: "Early",
            unit: Unit::Percent,
            default: 0.4,
            outcome: Some(outcomes::EARLY_CREST),
            picture: Some(Picture::FirstReflections),
            what: "Smears every reflection: from hard clicks, as from bare walls, to a soft cloud.",
            listen: "A hard hit: grain, or a breath.",
            look: "Lines turn into humps.",
            mistake: "Using much of it on sounds that are soft already. They only get duller.",
            usual: &[Usual { value: 0.0, purpose: "bare walls" }, Usual { value: 0.6, purpose: "shelves and curtains" }],
            ..Param::BLANK
        },
        /// Over what time that smears, ms.
        early_diffusion_ms: Param {
            label: "Over",
            group: "Early",
            acts_with: Some(ActsWith::at_least("early_diffusion", 0.001)),
            unit: Unit::Ms,
            min: 1.0,
            max: 50.0,
            default: 8.0,
            scale: Scale::Log,
            outcome: Some(outcomes::EARLY_CREST),
            picture: Some(Picture::FirstReflections),
            what: "Over what time the all-passes of the early part smear.",
            listen: "Short is a grain on each reflection, long lets them run together.",
            look: "How wide the humps are.",
            mistake: "Making it longer than the reflections are apart, and then counting them.",
            usual: &[Usual { value: 8.0, purpose: "a room" }],
            ..Param::BLANK
        },
        /// Seed of the early pattern.
        early_seed: Param { label: "Early seed", group: "Early", picture: Some(Picture::FirstReflections), ..SEED },
        /// Place of the character among the choices.
        character: Param {
            label: "Character",
            group: "Late",
            choices: character::CHOICES,
            default: 1.0,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Density),
            what: "The kind of room or plate: how alike its ways are, how its highs begin and die.",
            listen: "Rooms grow dense step by step, plates are dense and bright from the start.",
            look: "How the density grows, and where the octaves begin.",
            mistake: "Choosing it last. It decides what all others sound like.",
            usual: &[Usual { value: 1.0, purpose: "most sounds" }, Usual { value: 4.0, purpose: "a voice" }],
            ..Param::BLANK
        },
        /// Place of the number of lines among the choices.
        lines: Param {
            label: "Delay lines",
            group: "Late",
            choices: &["4", "8", "16"],
            default: 2.0,
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "How many delay lines the late reverb is made of.",
            listen: "Four let single ones be heard and ring; sixteen are smooth.",
            look: "How soon the density reaches that of noise.",
            mistake: "Curing a ring of few lines with damping. More lines, or another size, cure it.",
            usual: &[Usual { value: 2.0, purpose: "smooth" }],
            ..Param::BLANK
        },
        /// Whether it is frozen.
        freeze: Param {
            label: "Freeze",
            group: "Late",
            choices: OFF_ON,
            outcome: Some(outcomes::T30),
            picture: Some(Picture::Decay),
            what: "Shuts the input and takes all losses away: what is in the late reverb goes on for ever, at the same level. Switched on from the start, it takes in half a second first.",
            listen: "The chord that sounds now becomes a floor for everything after it.",
            look: "The decay curve turns flat.",
            mistake: "Freezing a moment in which nothing sounds.",
            usual: &[Usual { value: 0.0, purpose: "a room" }],
            ..Param::BLANK
        },
        /// How much is diffused, 0 to 1.
        diffusion: Param {
            label: "Diffusion",
            group: "Late",
            unit: Unit::Percent,
            default: 0.8,
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "How far every echo is spread: between the lines, and by all-passes.",
            listen: "None lets single echoes be heard for seconds, full is a cloud at once.",
            look: "The time at which the density reaches that of noise.",
            mistake: "Turning it up on drums only because it is smooth. Some grain makes a room a room.",
            usual: &[Usual { value: 0.8, purpose: "most sounds" }, Usual { value: 0.3, purpose: "grain" }],
            ..Param::BLANK
        },
        /// Where the all-passes sit.
        diffusion_place: Param {
            label: "Place",
            group: "Late",
            choices: PLACES,
            acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "Where the all-passes sit. Ahead, they spread what enters once; inside, again with every round; behind, they spread all that comes out.",
            listen: "Ahead keeps the grain of the lines, inside grows smoother as it goes, behind is a soft cloud from the first moment.",
            look: "How the density grows after its first step.",
            mistake: "Expecting the decay to change. All-passes lose nothing.",
            usual: &[Usual { value: 0.0, purpose: "clear" }, Usual { value: 1.0, purpose: "thick" }],
            ..Param::BLANK
        },
        /// How many all-passes there are.
        all_passes: Param {
            label: "All-passes",
            group: "Late",
            acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
            min: 1.0,
            max: 8.0,
            default: 6.0,
            step: 1.0,
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "How many all-passes make the diffusion, one after the other. Inside the loop, every line has one of them.",
            listen: "One or two flutter, many are smooth.",
            look: "The first step of the density.",
            mistake: "Adding more where the time is short. They then ring at the same place.",
            usual: &[Usual { value: 6.0, purpose: "smooth" }],
            ..Param::BLANK
        },
        /// Over what time they diffuse, ms.
        diffusion_ms: Param {
            label: "Over",
            group: "Late",
            acts_with: Some(ActsWith::at_least("diffusion", 0.001)),
            unit: Unit::Ms,
            min: 2.0,
            max: MOST_DIFFUSION_MS,
            default: 25.0,
            scale: Scale::Log,
            outcome: Some(outcomes::DENSITY_TIME),
            picture: Some(Picture::Density),
            what: "The lengths of all all-passes together.",
            listen: "Short is a grain, long is a swell before the tail.",
            look: "How the level rises at the beginning.",
            mistake: "Making it longer than the lines: the beginning of the tail is then lost in it.",
            usual: &[Usual { value: 25.0, purpose: "a room" }],
            ..Param::BLANK
        },
        /// Rate at which the delays move, Hz.
        move_hz: Param {
            label: "Movement",
            group: "Late",
            unit: Unit::Hz,
            acts_with: Some(ActsWith::at_least("move_ms", 0.001)),
            min: 0.05,
            max: 5.0,
            default: 0.6,
            scale: Scale::Log,
            outcome: Some(outcomes::WOBBLE),
            picture: Some(Picture::Impulse),
            what: "How often a second the delays of the lines sway.",
            listen: "Slow breathes, fast is a tremble of the pitch.",
            look: "The wobble of a tone's tail in cents.",
            mistake: "Adding movement to hide a ring on sounds that hold a pitch. They go out of tune.",
            usual: &[Usual { value: 0.6, purpose: "hardly heard" }],
            ..Param::BLANK
        },
        /// How far they move, ms.
        move_ms: Param {
            label: "Depth",
            group: "Late",
            unit: Unit::Ms,
            max: 3.0,
            default: 0.1,
            scale: Scale::SoftLog { knee: 0.1 },
            outcome: Some(outcomes::WOBBLE),
            picture: Some(Picture::Impulse),
            what: "How far the delays of the lines sway to either side.",
            listen: "Whether the tail of a held tone stays in tune.",
            look: "The wobble of a tone's tail in cents, and the highs, of which reading between samples takes some.",
            mistake: "Turning it up on a piano. It is for pads.",
            usual: &[Usual { value: 0.0, purpose: "exact" }, Usual { value: 0.1, purpose: "alive" }],
            ..Param::BLANK
        },
        /// How moving delays are read between samples.
        reading: Param {
            label: "Reading",
            group: "Late",
            choices: reading::CHOICES,
            acts_with: Some(ActsWith::at_least("move_ms", 0.001)),
            default: 2.0,
            outcome: Some(outcomes::T30_AT_8K),
            picture: Some(Picture::DecayByOctave),
            what: "How a moving delay is read between two samples. The nearest one jumps, a straight line takes highs away, a smooth curve does neither.",
            listen: "A sharp digital edge, a dull tail, or nothing.",
            look: "The decay of the upper octaves.",
            mistake: "Hearing the dull tail of a straight line as damping.",
            usual: &[Usual { value: 2.0, purpose: "clean" }],
            ..Param::BLANK
        },
        /// Seed of the late pattern.
        seed: Param { label: "Late seed", group: "Late", ..SEED },
        /// Rise of the wet sound after an onset, ms; off at 0.
        rise_ms: Param {
            label: "Rise",
            group: "Envelope",
            unit: Unit::Ms,
            max: 2000.0,
            scale: Scale::SoftLog { knee: 20.0 },
            outcome: Some(outcomes::CENTRE_TIME),
            picture: Some(Picture::Impulse),
            what: "How long the reverb takes to come up after an onset. Off at 0.",
            listen: "A tail that comes late, as if played backwards.",
            look: "The level after the direct sound climbs before it falls.",
            mistake: "Taking it for pre-delay. The reverb begins at once, only quietly.",
            usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 300.0, purpose: "a swell" }],
            ..Param::BLANK
        },
        /// When the wet sound has gone after an onset, ms; off at 0.
        fall_ms: Param {
            label: "Fall",
            group: "Envelope",
            unit: Unit::Ms,
            max: 4000.0,
            scale: Scale::SoftLog { knee: 50.0 },
            outcome: Some(outcomes::EDT),
            picture: Some(Picture::Decay),
            what: "When the reverb has gone after an onset, whatever its decay is. Off at 0.",
            listen: "A big sound that stops short.",
            look: "The decay curve breaks off.",
            mistake: "Shortening the decay for that. A short decay is a small sound, a tail that is cut is a big one.",
            usual: &[Usual { value: 0.0, purpose: "off" }, Usual { value: 250.0, purpose: "a drum" }],
            ..Param::BLANK
        },
        /// Rate at which the tail is made, Hz; full at the top.
        tail_rate_hz: Param {
            label: "Tail rate",
            group: "Tail rate",
            unit: Unit::Hz,
            min: 4000.0,
            max: FULL_RATE_HZ,
            default: FULL_RATE_HZ,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "At how many samples a second the late reverb comes out; each stands until the next. At 48 kHz it is off.",
            listen: "Coarse, with tones above that were never played.",
            look: "What lies over half of it is mirrored.",
            mistake: "Expecting dullness alone. What is mirrored is bright.",
            usual: &[Usual { value: FULL_RATE_HZ, purpose: "off" }, Usual { value: 11_000.0, purpose: "coarse" }],
            ..Param::BLANK
        },
        /// Word length of the tail, bits; full at the top.
        tail_bits: Param {
            label: "Word length",
            group: "Tail rate",
            unit: Unit::Bits,
            min: 4.0,
            max: FULL_BITS,
            default: FULL_BITS,
            outcome: Some(outcomes::TAIL_LENGTH),
            picture: Some(Picture::Decay),
            what: "In how many bits the late reverb is written. What is smaller than half a step is silence. At 24 it is off.",
            listen: "A tail that gets rough before it ends, and ends too soon.",
            look: "Steps in the quiet part of the decay.",
            mistake: "Setting it by a loud sound. It is about what is quiet.",
            usual: &[Usual { value: FULL_BITS, purpose: "off" }, Usual { value: 8.0, purpose: "coarse" }],
            ..Param::BLANK
        },
        /// Level of the dry sound beside the mix, dB.
        dry_db: Param {
            label: "Dry",
            default: SILENT_DB,
            what: "Level of the dry sound within the reverb, beside the mix; silent at the bottom. With the mix at 100 %, the four levels rule.",
            listen: "The sound in front of its room.",
            look: "The first line of the impulse response.",
            mistake: "Using it together with a mix under 100 %. The dry sound is then there twice.",
            usual: &[Usual { value: SILENT_DB, purpose: "off: the mix decides" }],
            ..LEVEL
        },
        /// Level of the pre-delayed sound, dB.
        predelayed_db: Param {
            label: "Pre-delayed",
            default: SILENT_DB,
            what: "Level of the dry sound after its pre-delay, once; silent at the bottom.",
            listen: "A single echo.",
            look: "A line at the pre-delay.",
            mistake: "Leaving it on by accident: a short one colours like a comb.",
            usual: &[Usual { value: SILENT_DB, purpose: "off" }],
            ..LEVEL
        },
        /// Level of the early reflections, dB.
        early_db: Param {
            label: "Early",
            default: -6.0,
            what: "Level of the early reflections; silent at the bottom.",
            listen: "More of it brings the sound closer to a wall, less of it leaves it in the middle of the room.",
            look: "The lines between the direct sound and the late reverb.",
            mistake: "Taking more early part for more room. It is more wall.",
            usual: &[Usual { value: -6.0, purpose: "a room" }],
            ..LEVEL
        },
        /// Level of the late reverb, dB.
        late_db: Param {
            label: "Late",
            default: 0.0,
            what: "Level of the late reverb; silent at the bottom.",
            listen: "Less of it leaves the early reflections: a sound in a place without a tail.",
            look: "The height of the tail.",
            mistake: "Taking level for length.",
            usual: &[Usual { value: 0.0, purpose: "a room" }],
            ..LEVEL
        },
        /// Tilt of the wet sound, dB: by so much the highs are raised against the lows.
        tilt_db: Param {
            label: "Tilt",
            group: "Tone",
            unit: Unit::Db,
            min: -12.0,
            max: 12.0,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Tilts the reverb around 1 kHz: by so much the highs stand over the lows.",
            listen: "Dark behind a bright sound, or bright behind a dark one.",
            look: "All octaves begin elsewhere and fall as before.",
            mistake: "Looking for it in the decay times. Tone is not decay.",
            usual: &[Usual { value: -3.0, purpose: "behind a voice" }],
            ..Param::BLANK
        },
        /// Gain of the lows of the wet sound, dB.
        low_shelf_db: Param {
            label: "Low shelf",
            group: "Tone",
            unit: Unit::Db,
            min: -24.0,
            max: 12.0,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Raises or lowers the lows of the reverb.",
            listen: "Body, or room for a bass.",
            look: "The lower octaves begin elsewhere.",
            mistake: "Cutting here what should not have come in: the low cut ahead spares the lines.",
            usual: &[Usual { value: -6.0, purpose: "keeps lows clear" }],
            ..Param::BLANK
        },
        /// Its frequency, Hz.
        low_shelf_hz: Param {
            label: "Low shelf at",
            group: "Tone",
            acts_with: None,
            unit: Unit::Hz,
            min: 50.0,
            max: 1000.0,
            default: 200.0,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Where the low shelf begins.",
            listen: "Boom or body.",
            look: "Which octaves move.",
            mistake: "Moving it while the shelf is at 0 dB.",
            usual: &[Usual { value: 200.0, purpose: "boom" }],
            ..Param::BLANK
        },
        /// Gain of the highs of the wet sound, dB.
        high_shelf_db: Param {
            label: "High shelf",
            group: "Tone",
            unit: Unit::Db,
            min: -24.0,
            max: 12.0,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Raises or lowers the highs of the reverb.",
            listen: "Air, or a veil.",
            look: "The upper octaves begin elsewhere and fall as before.",
            mistake: "Taking it for damping.",
            usual: &[Usual { value: -6.0, purpose: "behind a voice" }],
            ..Param::BLANK
        },
        /// Its frequency, Hz.
        high_shelf_hz: Param {
            label: "High shelf at",
            group: "Tone",
            unit: Unit::Hz,
            min: 1000.0,
            max: 12_000.0,
            default: 4000.0,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Where the high shelf begins.",
            listen: "Presence or air.",
            look: "Which octaves move.",
            mistake: "Moving it while the shelf is at 0 dB.",
            usual: &[Usual { value: 4000.0, purpose: "presence" }],
            ..Param::BLANK
        },
        /// High cut of the wet sound, Hz; off at 20,000.
        high_cut_hz: Param {
            label: "High cut, out",
            group: "Tone",
            unit: Unit::Hz,
            min: 1000.0,
            max: CUT_OFF_HZ.1,
            default: CUT_OFF_HZ.1,
            scale: Scale::Log,
            outcome: Some(outcomes::WET_CENTROID),
            picture: Some(Picture::Falling),
            what: "Takes the highs of the reverb away, 12 dB per octave; off at 20 kHz.",
            listen: "The reverb steps behind the sound.",
            look: "The highs are missing from the first moment on.",
            mistake: "Taking it for damping.",
            usual: &[Usual { value: 8000.0, purpose: "behind a voice" }],
            ..Param::BLANK
        },
        /// Which part is heard.
        hear: Param {
            label: "Hear",
            group: "Hear",
            choices: HEARD,
            outcome: Some(outcomes::LOUDNESS_CHANGE),
            picture: Some(Picture::Impulse),
            what: "Everything, or one part of the reverb alone: the pre-delayed sound, the early reflections, what enters the delay lines, or what leaves them.",
            listen: "Every part by itself, then all together.",
            look: "One part of the impulse response, and nothing else.",
            mistake: "Forgetting to go back to everything.",
            usual: &[Usual { value: 0.0, purpose: "everything" }],
            ..Param::BLANK
        },
        /// Gain after the mix, dB.
        output_db: Param { group: "Hear", ..OUTPUT },
    }
}

impl Settings {
    /// The kind of room or plate.
    #[must_use]
    pub fn character(&self) -> &'static Character {
        &character::ALL[cast::count(self.character).min(character::ALL.len() - 1)]
    }

    /// How many delay lines there are.
    #[must_use]
    pub fn line_count(&self) -> usize {
        4 << cast::count(self.lines).min(2)
    }

    /// Whether it is frozen.
    #[must_use]
    pub fn is_frozen(&self) -> bool {
        self.freeze > 0.5
    }

    /// Whether all-passes are at work at a place.
    #[must_use]
    pub fn diffuses(&self, place: Place) -> bool {
        let at = match cast::count(self.diffusion_place) {
            0 => Place::Ahead,
            1 => Place::Inside,
            _ => Place::Behind,
        };
        at == place && self.diffusion > 0.0
    }

    /// The gain of the all-passes of the late part: what is set, but none that would ring on for longer than half of the decay
    /// (one of `d` seconds with a gain of `g` takes -3 d / log10 g to fall by 60 dB, Schroeder 1962).
    #[must_use]
    pub fn all_pass_gain(&self) -> f64 {
        let longest_s = self.diffusion_ms / 1000.0 / self.all_passes * self.character().all_passes.1;
        let half_s = 0.5 * super::decays::Decays::of(self).at(4000.0);
        (FULL_DIFFUSION * self.diffusion).min(10f64.powf(-3.0 * longest_s / half_s))
    }

    /// The lengths of the all-passes of the late part for one use of them, samples.
    #[must_use]
    pub fn all_passes(&self, rate_hz: f64, stream: u64) -> [usize; MOST] {
        let count = cast::count(self.all_passes).clamp(1, MOST);
        all_passes(self.seed, 10 + stream, count, self.character().all_passes, self.diffusion_ms, rate_hz)
    }

    /// The all-passes of one channel at a place.
    #[must_use]
    pub fn chain(&self, place: Place, channel: usize, rate_hz: f64) -> ChainSettings {
        let at_work = self.diffuses(place);
        let count = if at_work { cast::count(self.all_passes) } else { 0 };
        // Both sides have the same time, in other parts.
        let stream = u64::from(channel == 1) + if place == Place::Behind { 4 } else { 0 };
        ChainSettings { lengths: self.all_passes(rate_hz, stream), count, gain: self.all_pass_gain() }
    }

    /// The all-passes of the early part on one channel.
    #[must_use]
    pub fn early_chain(&self, channel: usize, rate_hz: f64) -> ChainSettings {
        let stream = 20 + u64::from(channel == 1);
        let lengths = all_passes(self.early_seed, stream, 4, (0.4, 1.9), self.early_diffusion_ms, rate_hz);
        ChainSettings { lengths, count: 4, gain: FULL_DIFFUSION * self.early_diffusion }
    }

    /// For how long a sound is heard after it has ended, s; none where it never ends.
    #[must_use]
    pub fn tail_s(&self) -> Option<f64> {
        if self.is_frozen() {
            return None;
        }
        let late = super::decays::Decays::of(self).longest_s() + 2.0 * self.size_m / METRES_PER_S;
        let early = self.early_ms * self.early_size / 1000.0;
        let diffused = (4.0 * self.diffusion_ms + 4.0 * self.early_diffusion_ms) / 1000.0;
        Some(self.predelay_ms / 1000.0 + late.max(early) + diffused)
    }
}

/// The gain of all-passes at full diffusion.
const FULL_DIFFUSION: f64 = 0.7;

/// Lengths of all-passes which make a time (ms) in all, samples, at least 1.
fn all_passes(
    seed: f64,
    stream: u64,
    count: usize,
    span: (f64, f64),
    all_ms: f64,
    rate_hz: f64,
) -> [usize; MOST] {
    let mut random = SplitMix64::new(cast::seed(seed), stream);
    let ratios: [f64; MOST] = spread(count, span, || random.bipolar());
    let mean = all_ms / 1000.0 * rate_hz / cast::real(count);
    ratios.map(|ratio| cast::count(mean * ratio).max(1))
}
