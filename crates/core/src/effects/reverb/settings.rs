//! What a reverb can be set to; its words stand in `words`.

use super::allpass::{ChainSettings, MOST};
use super::character::{self, Character};
use super::lengths::spread;
use super::words::{early, late, out, room};
use crate::cast;
use crate::catalogue::{METRES_PER_S, note_s};
use crate::effects::tone::{Shelf, ToneIn, ToneOut};
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

/// The names of the places.
pub const PLACES: &[&str] = &["ahead of the lines", "inside their loop", "behind them"];

/// What is heard.
pub const HEARD: &[&str] = &["everything", "pre-delayed", "early", "diffused", "late"];

settings! {
    /// The settings of a reverb.
    pub struct Settings {
        /// Time to fall by 60 dB, s.
        decay_s: room::DECAY_S,
        /// Time between the sound and its reverb, ms.
        predelay_ms: room::PREDELAY_MS,
        /// Mean way between two reflections, m.
        size_m: room::SIZE_M,
        /// Width of the wet sound: 0 mono, 1 stereo, more is wider.
        width: room::WIDTH,
        /// Decay at the top, as a share of the decay.
        high_decay: room::HIGH_DECAY,
        /// Where half of the way to the top is gone, Hz.
        high_from_hz: room::HIGH_FROM_HZ,
        /// Decay of the lows, as a multiple of the decay.
        low_decay: room::LOW_DECAY,
        /// Where half of the way to the bottom is gone, Hz.
        low_split_hz: room::LOW_SPLIT_HZ,
        /// How far the sides are mixed before the reverb, 0 to 1.
        crossfeed: room::CROSSFEED,
        /// Low cut ahead of the reverb, Hz; off at 20.
        in_low_cut_hz: room::IN_LOW_CUT_HZ,
        /// High cut ahead of the reverb, Hz; off at 20,000.
        in_high_cut_hz: room::IN_HIGH_CUT_HZ,
        /// What is pre-delayed: the late part, or both.
        predelay_on: room::PREDELAY_ON,
        /// The pre-delay as a note, by its place among the choices.
        predelay_note: room::PREDELAY_NOTE,
        /// The tempo of the bench, beats per minute.
        tempo_bpm: room::TEMPO_BPM,
        /// How many early reflections there are on each side.
        early_count: early::EARLY_COUNT,
        /// Over what time they come, ms.
        early_ms: early::EARLY_MS,
        /// By how many times the pattern is stretched.
        early_size: early::EARLY_SIZE,
        /// How far they crowd towards the end, 0 to 1.
        early_crowd: early::EARLY_CROWD,
        /// By how much the last one is quieter than the first, dB.
        early_fade_db: early::EARLY_FADE_DB,
        /// How far they swing left and right, 0 to 1.
        early_swing: early::EARLY_SWING,
        /// Smears them, 0 to 1.
        early_diffusion: early::EARLY_DIFFUSION,
        /// Over what time that smears, ms.
        early_diffusion_ms: early::EARLY_DIFFUSION_MS,
        /// Seed of the early pattern.
        early_seed: early::EARLY_SEED,
        /// Place of the character among the choices.
        character: late::CHARACTER,
        /// Place of the number of lines among the choices.
        lines: late::LINES,
        /// Whether it is frozen.
        freeze: late::FREEZE,
        /// How much is diffused, 0 to 1.
        diffusion: late::DIFFUSION,
        /// Where the all-passes sit.
        diffusion_place: late::DIFFUSION_PLACE,
        /// How many all-passes there are.
        all_passes: late::ALL_PASSES,
        /// Over what time they diffuse, ms.
        diffusion_ms: late::DIFFUSION_MS,
        /// Rate at which the delays move, Hz.
        move_hz: late::MOVE_HZ,
        /// How far they move, ms.
        move_ms: late::MOVE_MS,
        /// How moving delays are read between samples.
        reading: late::READING,
        /// Seed of the late pattern.
        seed: late::SEED,
        /// Rise of the wet sound after an onset, ms; off at 0.
        rise_ms: out::RISE_MS,
        /// When the wet sound has gone after an onset, ms; off at 0.
        fall_ms: out::FALL_MS,
        /// Rate at which the tail is made, Hz; full at the top.
        tail_rate_hz: out::TAIL_RATE_HZ,
        /// Word length of the tail, bits; full at the top.
        tail_bits: out::TAIL_BITS,
        /// Level of the dry sound beside the mix, dB.
        dry_db: out::DRY_DB,
        /// Level of the pre-delayed sound, dB.
        predelayed_db: out::PREDELAYED_DB,
        /// Level of the early reflections, dB.
        early_db: out::EARLY_DB,
        /// Level of the late reverb, dB.
        late_db: out::LATE_DB,
        /// Tilt of the wet sound, dB: by so much the highs are raised against the lows.
        tilt_db: out::TILT_DB,
        /// Gain of the lows of the wet sound, dB.
        low_shelf_db: out::LOW_SHELF_DB,
        /// Its frequency, Hz.
        low_shelf_hz: out::LOW_SHELF_HZ,
        /// Gain of the highs of the wet sound, dB.
        high_shelf_db: out::HIGH_SHELF_DB,
        /// Its frequency, Hz.
        high_shelf_hz: out::HIGH_SHELF_HZ,
        /// High cut of the wet sound, Hz; off at 20,000.
        high_cut_hz: out::HIGH_CUT_HZ,
        /// Which part is heard.
        hear: out::HEAR,
        /// Gain after the mix, dB.
        output_db: out::OUTPUT_DB,
    }
}

impl Settings {
    /// What gets in.
    #[must_use]
    pub fn tone_in(&self) -> ToneIn {
        let Self { crossfeed, in_low_cut_hz, in_high_cut_hz, .. } = *self;
        ToneIn { crossfeed, low_cut_hz: in_low_cut_hz, high_cut_hz: in_high_cut_hz }
    }

    /// What comes out: with the character's own tone, the tilt and two shelves.
    #[must_use]
    pub fn tone_out(&self) -> ToneOut {
        let own = self.character();
        let [high, low] = Shelf::tilt(self.tilt_db);
        let shelf = |upper, gain_db, freq_hz| Shelf { upper, gain_db, freq_hz };
        ToneOut {
            shelves: [
                shelf(true, own.tone_db, own.tone_hz),
                high,
                low,
                shelf(false, self.low_shelf_db, self.low_shelf_hz),
                shelf(true, self.high_shelf_db, self.high_shelf_hz),
            ],
            high_cut_hz: self.high_cut_hz,
            width: self.width,
        }
    }

    /// The kind of room or plate.
    #[must_use]
    pub fn character(&self) -> &'static Character {
        &character::ALL[cast::count(self.character).min(character::ALL.len() - 1)]
    }

    /// Time between the sound and its reverb, ms: a note where one is chosen, but no longer than there is room for.
    #[must_use]
    pub fn wait_ms(&self) -> f64 {
        let note = note_s(self.predelay_note, self.tempo_bpm);
        note.map_or(self.predelay_ms, |seconds| (1000.0 * seconds).min(MOST_PREDELAY_MS))
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
        Some(self.wait_ms() / 1000.0 + late.max(early) + diffused)
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
