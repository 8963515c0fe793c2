//! From an insert to a send: a stage of one stem becomes a path that all may share.

use super::{BenchDocument, Stem};
use clear_bend_catalogue::Values;
use clear_bend_effects::OUTPUT_ID;
use clear_bend_playing::mix::{LEVEL, Send};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_signals::{SENT, SourceDocument};
use clear_bend_sound::level::db_from_gain;
use clear_bend_sound::refusal::Refusal;
use clear_bend_sound::scope::Scope;

impl BenchDocument {
    /// The same bench with a stage of the path at work, by its place, taken out of it into a shared path at a mix of 100 %, to which
    /// the stem sends as much as the mix was: behind the last stage the sum stays what it was. The shared path is worked on then, and
    /// all stems are heard.
    ///
    /// # Errors
    /// Refuses a stage that is not there, that is silent or works on a part of the signal only, one of a shared path, and one more
    /// shared path than a bench may have.
    pub fn sharing(&self, stage: usize) -> Result<Self, Refusal> {
        let mut bench = self.clone();
        let to = bench.stems.len();
        let stem = self.stem_at_work()?;
        if stem.is_shared() {
            return Err(Refusal::new("stage", stage, "a stage of a stem with a source of its own"));
        }
        let snapshot = stem.snapshots.get(stem.snapshot);
        let mut path = Path::from_document(
            snapshot.ok_or_else(|| Refusal::new("snapshot", stem.snapshot, "one that is there"))?,
        )?;
        if stage >= path.stages.len() {
            return Err(Refusal::new("stage", stage, "a stage of the path"));
        }
        let mut shared = path.stages.remove(stage);
        let (wet, gain) = (shared.wet(), shared.output_gain());
        if wet == 0.0 {
            return Err(Refusal::new("stage", "switched off or at a mix of 0 %", "one that is heard"));
        }
        if shared.scope != Scope::Stereo {
            return Err(Refusal::new(
                "stage",
                "on a part of the signal",
                "one on all of it: what is sent comes back on both sides",
            ));
        }
        shared.mix = 1.0;
        reset(&mut shared, OUTPUT_ID);
        let mut strip = stem.strip;
        let level_db = strip.level_db + db_from_gain(gain);
        let dry_db = level_db + db_from_gain(1.0 - wet);
        strip.level_db = clamped(dry_db);
        let after_db = db_from_gain(wet / (1.0 - wet));
        let before_strip = LEVEL.check(after_db).and(LEVEL.check(dry_db)).is_err();
        let send_db = if before_strip { level_db + db_from_gain(wet) } else { after_db };
        let mut back = Stem::new(
            SourceDocument::of_kind(SENT, Values::default()),
            Path { stages: vec![shared] }.to_document(),
        );
        if before_strip {
            back.strip.pan = strip.pan;
        }
        let sender = &mut bench.stems[bench.work];
        sender.snapshots[sender.snapshot] = path.to_document();
        sender.strip = strip;
        sender.sends.push(Send { to, level_db: clamped(send_db), before_strip });
        bench.stems.push(back);
        bench.work = to;
        bench.listening.all_stems = true;
        bench.view.stage = 0;
        bench.view.kept = None;
        bench.check()?;
        Ok(bench)
    }
}

/// Sets a parameter of a stage to its default.
fn reset(stage: &mut Stage, id: &str) {
    let places = stage.effect.params.iter().zip(&mut stage.values);
    places.filter(|(param, _)| param.id == id).for_each(|(param, value)| *value = param.default);
}

/// A level that can be set.
fn clamped(level_db: f64) -> f64 {
    level_db.clamp(LEVEL.min, LEVEL.max)
}
