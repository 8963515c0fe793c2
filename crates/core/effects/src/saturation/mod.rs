//! Saturation: bends the wave where it passes a level, and adds harmonics by that.

use super::dynamics::{Rounder, drive};
use super::{Around, Effect, MIX, MOVE_S, OUTPUT, Processor, Setup};
use clear_bend_catalogue::outcomes;
use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Block, Diagram, Param, Picture, StartingPoint, Step, Unit, Usual};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;

settings! {
    /// The settings of a saturation.
    pub struct Settings {
        /// Gain into the bend, dB.
        drive_db: Param {
            label: "Drive",
            unit: Unit::Db,
            min: -12.0,
            max: 36.0,
            default: 6.0,
            outcome: Some(outcomes::TONE_DISTORTION),
            picture: Some(Picture::Harmonics),
            what: "Gain in front of the bend: how much of the wave reaches it.",
            listen: "First warmth, then grit, then a square wave.",
            look: "Harmonics rise one by one; the highest come last.",
            mistake: "Judging it without the level match: it gets louder long before it gets better.",
            usual: &[
                Usual { value: 6.0, purpose: "warmth" },
                Usual { value: 18.0, purpose: "plain distortion" },
            ],
            ..Param::BLANK
        },
        /// The level that the bent wave cannot pass at eight times the rate, dBFS.
        level_db: Param {
            label: "Level",
            unit: Unit::Dbfs,
            min: -24.0,
            max: 0.0,
            default: -6.0,
            outcome: Some(outcomes::PEAK_CHANGE),
            picture: Some(Picture::InToOut),
            what: "The level at which the wave is bent, at eight times the rate: nothing passes it there. Back at the rate of the sound, without what lies over the audible range, samples do: by up to 4 dB on a tone and 5 dB on noise, with a sharp edge.",
            listen: "Lower reaches quieter sound.",
            look: "The height at which the curve of input against output turns flat.",
            mistake: "Moving it together with the drive: 6 dB more of one is 6 dB less of the other, but for the loudness.",
            usual: &[
                Usual { value: 0.0, purpose: "full scale" },
                Usual { value: -6.0, purpose: "with room above" },
            ],
            ..Param::BLANK
        },
        /// From 0, very round, to 1, a sharp edge.
        corner: Param {
            label: "Corner",
            unit: Unit::Percent,
            outcome: Some(outcomes::TONE_DISTORTION),
            picture: Some(Picture::Harmonics),
            what: "How the wave is bent: 0 % is very round and begins at once, 100 % is a sharp edge and leaves all below it alone.",
            listen: "Round adds little and early, mostly the third harmonic; an edge adds nothing, then everything.",
            look: "Few harmonics that fall quickly, or many that fall slowly.",
            mistake: "Taking a sharp corner for more level. It clips less of the wave, only harder.",
            usual: &[
                Usual { value: 0.0, purpose: "warm" },
                Usual { value: 1.0, purpose: "a clipper" },
            ],
            ..Param::BLANK
        },
        /// Gain after the mix, dB.
        output_db: OUTPUT,
    }
}

/// The catalogue entry.
pub const EFFECT: Effect = Effect {
    id: "saturation",
    label: "Saturation",
    purpose: "Bends the wave itself, from warm to broken, and adds harmonics.",
    params: Settings::PARAMS,
    mix: Param {
        what: "How much of the bent wave is heard; the rest is the untouched one.",
        listen: "Grit under a clean sound.",
        look: "The harmonics sink together, the fundamental stays.",
        mistake: "Expecting half the drive at 50 %. It is half of each wave, added.",
        usual: &[
            Usual { value: 1.0, purpose: "plain saturation" },
            Usual { value: 0.3, purpose: "grit under a bass" },
        ],
        outcome: Some(outcomes::CREST_CHANGE),
        ..MIX
    },
    pictures: &[Picture::Harmonics, Picture::OverTime, Picture::InToOut, Picture::Levels],
    diagram: Diagram {
        joins: None,
        blocks: &[
            Block { label: "Drive", params: &["drive_db"], beside: false },
            Block { label: "Corner", params: &["level_db", "corner"], beside: false },
            Block { label: "Mix", params: &["mix"], beside: false },
            Block { label: "Output", params: &["output_db"], beside: false },
        ],
    },
    build: |plan| Box::new(Saturation::new(plan.setup, &Settings::from_values(plan.values))),
    form: |_, _| 0,
    idle: |values, passed| {
        let settings = Settings::from_values(values);
        let driven = passed.peak_dbfs + settings.drive_db;
        // The bend begins at this share of the level; a wave that is round all the way is bent from its first dB.
        let begins = settings.corner * clear_bend_sound::level::gain_from_db(settings.level_db);
        let straight = clear_bend_sound::level::gain_from_db(driven) <= begins;
        (straight && passed.is_gain_of(settings.drive_db, settings.output_db)).then(|| {
            format!(
                "Nothing is bent: the loudest peak, {}, stays under the corner at {}.{}",
                Unit::Dbfs.text(driven),
                Unit::Dbfs.text(clear_bend_sound::level::db_from_gain(begins)),
                passed.only_gain(),
            )
        })
    },
    remark: |_, _| None,
    abilities: &[],
    sounds: &[],
    holds: &[],
    order: &[
        Step { param: "drive_db", plain: &[("level_db", -6.0), ("corner", 0.0)] },
        Step { param: "corner", plain: &[("level_db", -12.0), ("drive_db", 9.0)] },
        Step { param: "level_db", plain: &[("drive_db", 0.0), ("corner", 0.5)] },
        Step { param: "mix", plain: &[("drive_db", 18.0), ("corner", 0.3), ("level_db", -12.0)] },
    ],
    begins: &[],
    starting: &[
        StartingPoint {
            name: "Warmth",
            purpose: "A round bend that adds a little third harmonic. Listen with level match on: it should be hard to say what has changed.",
            values: &[("drive_db", 4.0), ("level_db", -3.0), ("corner", 0.0)],
            mix: 1.0,
        },
        StartingPoint {
            name: "Clipped tops",
            purpose: "An edge that takes only the highest tips of hits. Listen for crackle; there should be none.",
            values: &[("drive_db", 0.0), ("level_db", -6.0), ("corner", 0.9)],
            mix: 1.0,
        },
        StartingPoint {
            name: "Grit under a bass",
            purpose: "Much distortion, mixed low, lets a bass be heard on small loudspeakers. Listen for its notes, not for its grit.",
            values: &[("drive_db", 24.0), ("level_db", -12.0), ("corner", 0.4)],
            mix: 0.3,
        },
    ],
};

/// A drive and a bend.
pub struct Saturation {
    drive: Ramp,
    rounder: Rounder,
    room: Vec<f32>,
}

impl Saturation {
    /// A saturation at rest at these settings.
    #[must_use]
    pub fn new(setup: Setup, settings: &Settings) -> Self {
        Self {
            drive: Ramp::new(settings.drive_db, cast::frames(MOVE_S, setup.rate_hz)),
            rounder: Rounder::new(setup, true, settings.level_db, settings.corner),
            room: vec![0.0; setup.max_block],
        }
    }
}

impl Processor for Saturation {
    fn set(&mut self, values: &[f64]) {
        let settings = Settings::from_values(values);
        self.drive.set(settings.drive_db);
        self.rounder.set(true, settings.level_db, settings.corner);
    }

    fn process(&mut self, io: &mut [&mut [f32]], _: &Around) {
        let n = io.first().map_or(0, |c| c.len());
        drive(io, &mut self.drive, &mut self.room[..n]);
        self.rounder.process(io);
    }

    fn reset(&mut self) {
        self.drive.settle();
        self.rounder.reset();
    }

    fn latency(&self) -> usize {
        Rounder::LATENCY
    }
}
