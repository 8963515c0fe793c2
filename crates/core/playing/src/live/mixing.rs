//! What is heard: `(before * share + after * share + reference * share) * strip + what plays beside * share`, where what comes back from
//! shared paths is a part of what plays beside.

use super::hear::Hear;
use super::room::{FADE_S, Room};
use crate::mix::Strip;
use clear_bend_effects::{MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::Ramp;
use clear_bend_sound::level::gain_from_db;

/// What is to be heard, and the shares that follow from it.
pub(super) struct Mixing {
    hear: Hear,
    all_stems: bool,
    strip: Strip,
    before: Ramp,
    after: Ramp,
    reference: Ramp,
    reference_gain: Ramp,
    beside: Ramp,
    strip_gains: [Ramp; 2],
    share: Vec<f32>,
}

impl Mixing {
    /// After the path alone.
    pub(super) fn new(setup: Setup) -> Self {
        let [fade, move_frames] = [FADE_S, MOVE_S].map(|seconds| cast::frames(seconds, setup.rate_hz));
        Self {
            hear: Hear::After,
            all_stems: false,
            strip: Strip::default(),
            before: Ramp::new(0.0, fade),
            after: Ramp::new(1.0, fade),
            reference: Ramp::new(0.0, fade),
            reference_gain: Ramp::new(1.0, move_frames),
            beside: Ramp::new(0.0, fade),
            strip_gains: [(); 2].map(|()| Ramp::new(1.0, move_frames)),
            share: vec![0.0; setup.max_block],
        }
    }

    /// Chooses what is heard, with a short cross-fade.
    pub(super) fn set_hear(&mut self, hear: Hear) {
        self.hear = hear;
        let (before, after, reference) = match hear {
            Hear::Before => (1.0, 0.0, 0.0),
            Hear::After => (0.0, 1.0, 0.0),
            Hear::Difference => (-1.0, 1.0, 0.0),
            Hear::Reference => (0.0, 0.0, 1.0),
        };
        self.before.set(before);
        self.after.set(after);
        self.reference.set(reference);
        self.place_stem();
    }

    /// Whether the other stems are heard too, and how the one at work sits among them.
    pub(super) fn set_stems(&mut self, all_stems: bool, strip: Strip) {
        self.all_stems = all_stems;
        self.strip = strip;
        self.place_stem();
    }

    /// The difference and the reference are heard alone, and a stem alone is heard as it is.
    fn place_stem(&mut self) {
        let together = self.all_stems && matches!(self.hear, Hear::Before | Hear::After);
        self.beside.set(if together { 1.0 } else { 0.0 });
        let gains = if together { self.strip.gains() } else { [1.0; 2] };
        for (ramp, gain) in self.strip_gains.iter_mut().zip(gains) {
            ramp.set(gain);
        }
    }

    /// The gain of the reference, dB.
    pub(super) fn set_reference_gain_db(&mut self, gain_db: f64) {
        self.reference_gain.set(if gain_db.is_finite() { gain_from_db(gain_db) } else { 1.0 });
    }

    /// Whether anything of what plays beside is heard.
    pub(super) fn hears_beside(&self) -> bool {
        !self.beside.rests_at(0.0)
    }

    /// The gain of the reference, where anything of it is heard.
    pub(super) fn heard_reference(&mut self) -> Option<&mut Ramp> {
        (!self.reference.rests_at(0.0)).then_some(&mut self.reference_gain)
    }

    /// The stem at work, or the reference, as it is before its strip.
    pub(super) fn blend(&mut self, out: &mut [&mut [f32]; 2], room: &Room) {
        let n = out[0].len();
        for (ramp, from) in [
            (&mut self.before, &room.before),
            (&mut self.after, &room.after),
            (&mut self.reference, &room.reference),
        ] {
            add_share(out, ramp, from, &mut self.share[..n]);
        }
    }

    /// The strip of the stem at work.
    pub(super) fn place(&mut self, out: &mut [&mut [f32]; 2]) {
        let share = &mut self.share[..out[0].len()];
        for (out, strip) in out.iter_mut().zip(&mut self.strip_gains) {
            if !strip.rests_at(1.0) {
                strip.fill(share);
                out.iter_mut().zip(&*share).for_each(|(x, gain)| *x *= gain);
            }
        }
    }

    /// Adds what plays beside.
    pub(super) fn add_beside(&mut self, out: &mut [&mut [f32]; 2], backing: &[Vec<f32>; 2]) {
        let n = out[0].len();
        add_share(out, &mut self.beside, backing, &mut self.share[..n]);
    }
}

/// Adds a share of a signal, which may be moving, to what is heard.
fn add_share(out: &mut [&mut [f32]; 2], ramp: &mut Ramp, from: &[Vec<f32>; 2], share: &mut [f32]) {
    if ramp.rests_at(0.0) {
        return;
    }
    ramp.fill(share);
    for (out, from) in out.iter_mut().zip(from) {
        for ((out, from), share) in out.iter_mut().zip(from).zip(&*share) {
            *out += share * from;
        }
    }
}
