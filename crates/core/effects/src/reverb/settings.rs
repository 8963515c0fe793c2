//! What a reverb can be set to; its words stand in `words`.

use super::allpass::MOST;
use super::character::{self, Character};
use super::lengths::spread;
use super::words::{early, late, out, room};
use crate::tone::{Shelf, ToneIn, ToneOut};
use clear_bend_catalogue::note_s;
use clear_bend_catalogue::settings;
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;

pub use super::limits::{
    FULL_BITS, FULL_RATE_HZ, MOST_DIFFUSION_MS, MOST_EARLY_MS, MOST_PREDELAY_MS, MOST_SIZE_M, Place,
    SILENT_DB,
};

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

    /// The lengths of the all-passes of the late part for one use of them, samples.
    #[must_use]
    pub fn all_passes(&self, rate_hz: f64, stream: u64) -> [usize; MOST] {
        let count = cast::count(self.all_passes).clamp(1, MOST);
        all_passes(self.seed, 10 + stream, count, self.character().all_passes, self.diffusion_ms, rate_hz)
    }
}

/// Lengths of all-passes which make a time (ms) in all, samples, at least 1.
pub(super) fn all_passes(
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
