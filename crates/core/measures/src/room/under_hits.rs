//! Where a reverb is heard beside the sound that makes it, and where the next hit covers it.

use serde::Serialize;

use super::record::RoomResponse;
use clear_bend_playing::path::{Path, Play, Stage};
use clear_bend_playing::render::render_with;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::energy;
use clear_bend_sound::level::{db_from_power, gain_from_db};

/// What is so far under another sound makes it louder by 1 dB, which is just heard, dB: 10 log10(10^0.1 - 1).
const UNDER_DB: f64 = -5.868;
/// A sound that has ended covers others for so long as if it still sounded, s ...
const STAYS_S: f64 = 0.005;
/// ... and no longer than this; between them what it covers falls evenly over the logarithm of time (Zwicker and Fastl,
/// "Psychoacoustics", ch. 4, from memory).
const COVERS_S: f64 = 0.2;
/// What is heard in silence, dBFS: nothing under it is. Full scale is taken as 80 dB over the threshold in quiet.
const QUIET_DBFS: f64 = -80.0;
/// Levels are taken over windows of this length or more, s, so that there are at most this many.
const LEAST_STEP_S: f64 = 0.005;
const MOST_STEPS: f64 = 1600.0;

/// Levels of the sound and of its reverb over the passage, and the level from which the reverb is heard beside the sound. All go
/// by the level over all frequencies: in a narrow band it can be heard sooner.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct UnderHits {
    /// Time from one level to the next, s.
    pub step_s: f64,
    /// Level of the sound itself, dBFS; at 100 % mix as it goes in, as on a send.
    pub dry_dbfs: Vec<Option<f64>>,
    /// Level of its reverb alone, dBFS.
    pub wet_dbfs: Vec<Option<f64>>,
    /// From which level on that is heard, dBFS.
    pub heard_from_dbfs: Vec<f64>,
    /// The share of the time in which it is heard, 0 to 1.
    pub heard: f64,
    /// The longest time for which it is heard, and for which it is covered while it sounds, s.
    pub longest_heard_s: f64,
    /// The longest time for which it sounds and is covered, s.
    pub longest_covered_s: f64,
}

impl UnderHits {
    /// Measures a stage of a path on a passage before it, as it is heard at its mix; none where the stage is not there.
    #[must_use]
    pub fn of(path: &Path, stage: usize, passage: &Buffer, play: Play) -> Option<Self> {
        let room = path.stages.get(stage)?;
        let rate_hz = passage.rate_hz();
        let through = |stages: &[Stage], sound: &Buffer| {
            render_with(&Path { stages: stages.to_vec() }, sound, play, |_| {}).after
        };
        let before = through(path.stages.get(..stage)?, passage);
        let wet = Stage { on: true, mix: 1.0, ..room.clone() };
        let mut reverb = through(std::slice::from_ref(&wet), &before);
        // What comes through at once is the sound itself.
        let at_once = RoomResponse::of_stage(&wet, rate_hz, 0.001)
            .sides
            .map(|side| side.first().copied().unwrap_or(0.0));
        for ((channel, dry), at_once) in reverb.channels_mut().iter_mut().zip(before.channels()).zip(at_once)
        {
            channel.iter_mut().zip(dry).for_each(|(x, dry)| *x -= at_once * dry);
        }
        let direct = (1.0 - room.mix) + room.mix * f64::from(at_once[0].abs());
        let direct = if direct > gain_from_db(-60.0) { direct } else { 1.0 };
        Some(Self::of_levels(&before, direct, &reverb, room.mix))
    }

    /// The same of two sounds of the same length, each with its gain.
    #[must_use]
    pub fn of_levels(dry: &Buffer, dry_gain: f64, wet: &Buffer, wet_gain: f64) -> Self {
        let rate = f64::from(dry.rate_hz());
        let seconds = cast::real(dry.frames()) / rate;
        let step = cast::count((seconds / MOST_STEPS).max(LEAST_STEP_S) * rate).max(1);
        let step_s = cast::real(step) / rate;
        let (dry_dbfs, wet_dbfs) = (levels(dry, dry_gain, step), levels(wet, wet_gain, step));
        let heard_from_dbfs = heard_from(&dry_dbfs, step_s);
        let sounds: Vec<bool> = wet_dbfs.iter().map(|wet| *wet > QUIET_DBFS).collect();
        let heard: Vec<bool> = wet_dbfs.iter().zip(&heard_from_dbfs).map(|(wet, from)| wet > from).collect();
        let covered: Vec<bool> = sounds.iter().zip(&heard).map(|(sounds, heard)| *sounds && !heard).collect();
        let shown =
            |levels: Vec<f64>| levels.into_iter().map(|db| Some(db).filter(|db| db.is_finite())).collect();
        Self {
            step_s,
            heard: cast::real(heard.iter().filter(|heard| **heard).count()) / cast::real(heard.len().max(1)),
            longest_heard_s: cast::real(longest(&heard)) * step_s,
            longest_covered_s: cast::real(longest(&covered)) * step_s,
            dry_dbfs: shown(dry_dbfs),
            wet_dbfs: shown(wet_dbfs),
            heard_from_dbfs,
        }
    }
}

/// The level of both channels over windows of so many frames, dBFS: the power, as a sine of full scale has -3 dB.
fn levels(sound: &Buffer, gain: f64, step: usize) -> Vec<f64> {
    let windows = sound.frames().div_ceil(step);
    let channels = sound.channels();
    let power = |k: usize| {
        let of = |channel: &Vec<f32>| {
            let part = &channel[k * step..(k * step + step).min(channel.len())];
            energy(part) / cast::real(part.len().max(1))
        };
        channels.iter().map(of).sum::<f64>() / cast::real(channels.len().max(1))
    };
    (0..windows).map(|k| db_from_power(gain * gain * power(k))).collect()
}

/// The level from which something is heard beside a sound and after it.
fn heard_from(dry_dbfs: &[f64], step_s: f64) -> Vec<f64> {
    let reach = cast::count(COVERS_S / step_s);
    let from = |k: usize| {
        let covered = (0..=reach.min(k)).map(|back| {
            let by_db = (dry_dbfs[k - back] + UNDER_DB - QUIET_DBFS).max(0.0);
            let after_s = (cast::real(back) * step_s).max(STAYS_S);
            by_db * (1.0 - (after_s / STAYS_S).ln() / (COVERS_S / STAYS_S).ln()).max(0.0)
        });
        QUIET_DBFS + covered.fold(0.0, f64::max)
    };
    (0..dry_dbfs.len()).map(from).collect()
}

/// The longest stretch in which something holds.
fn longest(holds: &[bool]) -> usize {
    holds.split(|holds| !holds).map(<[bool]>::len).max().unwrap_or(0)
}
