//! A made-up effect that comes late, has a tail, takes a sound, moves with the passage, reports what it moves and shows a
//! picture: what an effect needs is said here, in one place, and everything that renders, measures, explains and plays knows it.

use std::f64::consts::TAU;
use std::sync::Arc;

use clear_bend_catalogue::settings;
use clear_bend_catalogue::{Block, Diagram, KEY, Param, Picture, SoundSlot, Unit, outcomes};
use clear_bend_effects::{Ability, Around, Effect, MIX, Plan, Processor, Quantity, Setup};
use clear_bend_explaining::bend::BendOf;
use clear_bend_explaining::fan::FanOf;
use clear_bend_explaining::report::{Looking, report};
use clear_bend_measures::MatchBy;
use clear_bend_measures::export::{Part, export};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::live::Live;
use clear_bend_playing::path::{Path, Play, Stage};
use clear_bend_playing::render::render_with;
use clear_bend_sound::Buffer;

use clear_bend_testing::{RATE, demo_loop, near, signal, source, with_sound};

settings! {
    /// What it can be set to.
    pub struct Settings {
        /// The middle of its delay, ms.
        delay_ms: Param { label: "Delay", unit: Unit::Ms, min: 20.0, max: 200.0, default: 100.0, outcome: Some(outcomes::LOUDNESS_CHANGE), picture: Some(Picture::OverTime), what: "How far the echoes are apart.", ..Param::BLANK },
        /// How much comes back, 0 to 0.9.
        feedback: Param { label: "Feedback", unit: Unit::Percent, min: 0.0, max: 0.9, default: 0.5, outcome: Some(outcomes::CREST_CHANGE), picture: Some(Picture::OverTime), what: "How much of an echo comes back.", ..Param::BLANK },
    }
}

/// How late it is, frames; how far its delay sways, ms; over how many frames once.
const LATE: usize = 100;
const SWAY_MS: f64 = 5.0;
const SWAYS_FRAMES: f64 = 6000.0;

static SWAYING_ECHO: Effect = Effect {
    id: "swaying-echo",
    label: "Swaying echo",
    purpose: "Shows what an effect needs.",
    params: Settings::PARAMS,
    mix: MIX,
    pictures: &[Picture::OverTime],
    diagram: Diagram {
        joins: None,
        blocks: &[Block { label: "Echo", params: &["delay_ms", "feedback"], beside: false }],
    },
    build: |plan| Box::new(SwayingEcho::new(plan)),
    form: |_, _| 0,
    abilities: &[Ability::Bands(|_| vec![1000.0])],
    idle: |_, _| None,
    remark: |_, _| Some("It sways by *5.0 ms*.".to_owned()),
    sounds: &[KEY, ROUGHNESS],
    holds: &[],
    order: &[],
    begins: &[],
    starting: &[],
};

/// A sound that it needs whole: its largest sample is what the echoes are multiplied by.
const ROUGHNESS: SoundSlot =
    SoundSlot { id: "roughness", label: "Roughness", channels: 1, whole: true, ..KEY };

struct SwayingEcho {
    settings: Settings,
    roughness: f32,
    rate_hz: f64,
    past: [Vec<f32>; 2],
    late: [Vec<f32>; 2],
    written: usize,
    delay_ms: Vec<f32>,
    frames: usize,
}

impl SwayingEcho {
    fn new(&Plan { setup, values, sounds, .. }: &Plan) -> Self {
        let largest = |sound: &Arc<Buffer>| sound.channels()[0].iter().copied().fold(0.0, f32::max);
        let room = |seconds: f64| vec![0.0; (seconds * f64::from(setup.rate_hz)) as usize];
        Self {
            settings: Settings::from_values(values),
            roughness: sounds[1].as_ref().map_or(1.0, largest),
            rate_hz: f64::from(setup.rate_hz),
            past: [room(0.3), room(0.3)],
            late: [vec![0.0; LATE], vec![0.0; LATE]],
            written: 0,
            delay_ms: vec![0.0; setup.max_block],
            frames: 0,
        }
    }
}

/// Its delay where the passage has come to a frame, ms.
fn delay_ms(settings: &Settings, frame: f64) -> f64 {
    settings.delay_ms + SWAY_MS * (TAU * frame / SWAYS_FRAMES).sin()
}

impl Processor for SwayingEcho {
    fn set(&mut self, values: &[f64]) {
        self.settings = Settings::from_values(values);
    }

    fn process(&mut self, io: &mut [&mut [f32]], around: &Around) {
        self.frames = io[0].len();
        for i in 0..self.frames {
            let frame = around.at as f64 + i as f64 - LATE as f64;
            let now = delay_ms(&self.settings, frame);
            self.delay_ms[i] = now as f32;
            let delay = (now / 1000.0 * self.rate_hz).round() as usize;
            let quiet = around.sound(0).map_or(1.0, |key| 1.0 - key.channels()[0][i].abs().min(1.0));
            for (c, channel) in io.iter_mut().enumerate() {
                let slot = (self.written + i) % LATE;
                let x = std::mem::replace(&mut self.late[c][slot], channel[i]);
                let length = self.past[c].len();
                let at = (self.written + i) % length;
                let echo = self.past[c][(at + length - delay) % length];
                self.past[c][at] = x + self.settings.feedback as f32 * echo;
                channel[i] = x + self.roughness * quiet * self.settings.feedback as f32 * echo;
            }
        }
        self.written += self.frames;
    }

    fn reset(&mut self) {
        self.past.iter_mut().chain(&mut self.late).for_each(|room| room.fill(0.0));
        self.written = 0;
    }

    fn latency(&self) -> usize {
        LATE
    }

    /// So many echoes until one is 80 dB down.
    fn tail(&self) -> usize {
        let echoes = (1e-4f64.ln() / self.settings.feedback.max(1e-3).ln()).ceil();
        (echoes * (self.settings.delay_ms + SWAY_MS) / 1000.0 * self.rate_hz) as usize
    }

    fn trace(&self, quantity: Quantity, part: usize) -> Option<&[f32]> {
        (quantity == Quantity::DelayMs && part == 0).then(|| &self.delay_ms[..self.frames])
    }
}

fn path(params: &[(&str, f64)]) -> Path {
    Path { stages: vec![Stage::new(&SWAYING_ECHO, params).unwrap()] }
}

/// Played once: one click becomes a row of clicks, where the swaying delay puts them, worked out here sample by sample; it is
/// over where they are 60 dB down.
#[test]
fn its_echoes_are_where_they_belong_and_end_where_they_are_too_quiet() {
    let mut click = vec![0.0; 4800];
    click[480..484].fill(1.0);
    let before = Buffer::new(RATE, vec![click.clone(); 2]).unwrap();
    let rendered = render_with(&path(&[]), &before, Play::Once, |_| {});
    let whole = rendered.with_tail();
    let settings = Settings::from_values(&[100.0, 0.5]);
    let mut expected = vec![0.0f32; 96_000];
    for n in 0..expected.len() {
        let delay = (delay_ms(&settings, n as f64) * 48.0).round() as usize;
        let echo = n.checked_sub(delay).map_or(0.0, |at| expected[at]);
        expected[n] = click.get(n).copied().unwrap_or(0.0) + 0.5 * echo;
    }
    // 60 dB under the loudest that is left after the end, which is the echo of the click, half of it.
    let left = expected[4800..].iter().fold(0.0f32, |most, x| most.max(*x));
    let end = expected.iter().rposition(|x| *x > 1e-3 * left).unwrap() + 1;
    assert!(end > 40_000);
    assert!(whole.channels()[0] == expected[..end], "{} frames, {end} expected", whole.frames());
    assert_eq!(export(Part::After, &before, &path(&[]), Play::Once, MatchBy::Off, |_| {}).frames(), end);
}

/// What it reports of its delay follows the passage: the same place always has the same delay, in every round.
#[test]
fn what_it_moves_is_reported_for_every_frame_of_the_passage() {
    let before = demo_loop().slice(0..24_000);
    for play in [Play::Once, Play::Round] {
        let rendered = render_with(&path(&[]), &before, play, |_| {});
        let (quantity, part, values) = rendered.moved(0).next().unwrap();
        assert_eq!((quantity, part, values.len()), (Quantity::DelayMs, 0, 24_000));
        let settings = Settings::from_values(&[100.0, 0.5]);
        for (i, found) in values.iter().enumerate() {
            near(f64::from(*found), delay_ms(&settings, i as f64), 1e-4);
        }
        assert!(rendered.gain_db(0).is_none() && rendered.band_gains_db(0).next().is_none());
    }
}

/// The live bench plays what is rendered: in a loop the settled round, wherever one has jumped to.
#[test]
fn it_is_heard_as_it_is_rendered() {
    const BLOCK: usize = 128;
    let before = demo_loop().slice(0..24_000);
    let settled = render_with(&path(&[]), &before, Play::Round, |_| {}).after;
    for jump in [false, true] {
        let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
        live.set_source(before.clone());
        live.set_path(&path(&[]));
        live.set_playing(true);
        let mut heard = Vec::new();
        for block in 0..24_000 * 6 / BLOCK {
            if jump && block == 300 {
                live.seek(0.123);
            }
            let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
            live.process(&mut left, &mut right);
            heard.extend_from_slice(&left);
        }
        // What is left of the start is 100 dB down after 17 echoes: the last round is looked at.
        let last = &heard[heard.len() - 24_000..];
        let looped = &settled.channels()[0];
        let away = |start: usize, n: usize| {
            let expected = looped.iter().cycle().skip(start);
            last.iter().zip(expected).take(n).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
        };
        let start = (0..24_000).min_by(|a, b| away(*a, 300).total_cmp(&away(*b, 300))).unwrap();
        assert!(away(start, 24_000) < 1e-4, "{}", away(start, 24_000));
    }
}

/// Its sound reaches it, and everything that reads and explains a stage takes it as it takes any other.
#[test]
fn its_sound_reaches_it_and_everything_can_be_read() {
    let before = demo_loop().slice(0..48_000);
    let mut keyed = path(&[]);
    let loud = signal("sine", &[("freq_hz", 1000.0), ("level_dbfs", 0.0), ("seconds", 1.0)], 1);
    with_sound(&mut keyed.stages[0], 0, source("white-noise", &[]), &loud, 48_000);
    for play in [Play::Round, Play::Once] {
        let passage = Passage::played(before.clone(), play);
        let (free, told) = report(&path(&[]), &passage);
        let (quieter, _) = report(&keyed, &passage);
        assert!(free.after != quieter.after);
        assert!(told.sentences.iter().any(|sentence| sentence.to_string() == "It sways by 5.0 ms."));
        assert_eq!(told.tail_s > 0.0, play == Play::Once);
        assert!(told.outcomes[0].values().all(Option::is_some));
        assert_eq!(keyed.stages[0].effect.edges_hz(&[]), [1000.0]);
        let bend = BendOf::new(&path(&[]), 0, "feedback").unwrap().measure(&passage, 3);
        assert!(bend[0].outcome.unwrap() > bend[2].outcome.unwrap(), "echoes fill the gaps: {bend:?}");
        let fan = FanOf::new(&path(&[]), 0, "feedback", None, &passage).unwrap();
        let (_, row) = fan.row(&mut Looking::default(), &passage, 0.0);
        near(row.levels.peak_dbfs, passage.levels.peak_dbfs, 0.2);
    }
}

/// A sound that is needed whole keeps its own length, takes part in what is rendered and, live, makes the lane anew: what is
/// heard is what is rendered with it.
#[test]
fn a_whole_sound_is_built_in() {
    const BLOCK: usize = 128;
    let before = demo_loop().slice(0..24_000);
    let half = signal("square", &[("freq_hz", 100.0), ("level_dbfs", -6.0206), ("seconds", 0.25)], 2);
    let mut rough = path(&[("feedback", 0.4)]);
    with_sound(&mut rough.stages[0], 1, source("square", &[]), &half, 24_000);
    let laid = rough.stages[0].sounds[1].as_ref().unwrap().samples.clone().unwrap();
    assert_eq!((laid.channels().len(), laid.frames()), (1, half.frames()));
    let largest = half.channels()[0].iter().copied().map(f64::from).fold(0.0, f64::max);
    let free = render_with(&path(&[("feedback", 0.4)]), &before, Play::Once, |_| {}).after;
    let rendered = render_with(&rough, &before, Play::Once, |_| {}).after;
    let [before_left, rendered_left, free_left] =
        [&before, &rendered, &free].map(|sound| &sound.channels()[0]);
    for (x, (rough, free)) in before_left.iter().zip(rendered_left.iter().zip(free_left)) {
        near(f64::from(rough - x), largest * f64::from(free - x), 1e-5);
    }
    let mut live = Live::new(Setup { rate_hz: RATE, max_block: BLOCK }).unwrap();
    live.set_source(before.clone());
    let mut described = rough.clone();
    described.stages[0].sounds[1].as_mut().unwrap().samples = None;
    live.set_path(&described);
    live.set_sound(0, 0, 1, &laid);
    live.set_play(Play::Once);
    live.set_playing(true);
    let mut heard = Vec::new();
    for _ in 0..24_000 / BLOCK {
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        live.process(&mut left, &mut right);
        heard.extend_from_slice(&left);
    }
    // Behind the fade of the start, and as late as the effect is.
    let (heard, expected) = (&heard[4_800 + LATE..20_000], &rendered.channels()[0][4_800..20_000 - LATE]);
    assert!(heard.iter().zip(expected).all(|(a, b)| (a - b).abs() < 1e-5));
}
