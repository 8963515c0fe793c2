//! What a live bench is told: sources, settings, what is heard. These calls may allocate.

use std::sync::Arc;

use super::Live;
use super::hear::Hear;
use super::lane::{Lane, Runs};
use crate::mix::MOST_SHARED;
use crate::mix::{Send, Strip};
use crate::path::{Path, Play, Stage};
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;

impl Live {
    /// Plays another source, all of it, from its start, with nothing beside it.
    pub fn set_source(&mut self, source: Buffer) {
        let rate_hz = self.setup.rate_hz;
        let change = self.change();
        change.backing = Buffer::new(rate_hz, vec![Vec::new(); 2]).ok();
        change.feeds = (0..MOST_SHARED).map(|number| (number, Buffer::empty(rate_hz))).collect();
        change.source = Some(source);
    }

    /// The sum of the other stems, which plays in step with the source while all stems are heard.
    pub fn set_backing(&mut self, backing: Buffer) {
        self.change().backing = Some(backing);
    }

    /// The reference track, and the gain in dB that makes it as loud as before.
    pub fn set_reference(&mut self, reference: Buffer, gain_db: f64) {
        self.mixing.set_reference_gain_db(gain_db);
        self.change().reference = Some(reference);
    }

    /// Gives a stage of a lane the samples of one of its sounds, by the place of its slot, as they are laid there. A lane that
    /// has been set anew needs them anew; where the stage has no such sound, nothing happens.
    pub fn set_sound(&mut self, runs: impl Into<Runs>, index: usize, slot: usize, laid: &Arc<Buffer>) {
        let runs = runs.into();
        let Some(newest) = self.newest(runs) else { return };
        let Some(stage) = newest.stages.get_mut(index) else { return };
        let Some(Some(sound)) = stage.sounds.get_mut(slot) else { return };
        sound.samples = Some(laid.clone());
        if stage.effect.sounds[slot].whole {
            let path = Path { stages: newest.stages.clone() };
            self.set_lane(runs, &path);
        } else {
            newest.chain.set_sound(index, slot, Some(laid.clone()));
        }
    }

    /// Moves one parameter of a lane, by its place in the catalogue.
    ///
    /// # Errors
    /// Refuses a lane, a stage or a parameter that is not there and a value out of range.
    pub fn set_param(
        &mut self,
        runs: impl Into<Runs>,
        stage: usize,
        param: usize,
        value: f64,
    ) -> Result<(), Refusal> {
        let runs = runs.into();
        let mut rebuilds = false;
        let rate_hz = self.setup.rate_hz;
        self.change_stage(runs, stage, |stage| {
            let entry = stage.effect.params.get(param);
            let entry = entry.ok_or_else(|| Refusal::new("param", param, "a place in the catalogue"))?;
            let form = stage.effect.form;
            let before = form(&stage.values, rate_hz);
            stage.values[param] = entry.check(value)?;
            rebuilds = form(&stage.values, rate_hz) != before;
            Ok(())
        })?;
        if let Some(newest) = self.newest(runs).filter(|_| rebuilds) {
            let path = Path { stages: newest.stages.clone() };
            self.set_lane(runs, &path);
        }
        Ok(())
    }

    /// Moves the mix of a stage of a lane and switches it on or off.
    ///
    /// # Errors
    /// Refuses a lane or a stage that is not there and a mix out of range.
    pub fn set_mix(
        &mut self,
        runs: impl Into<Runs>,
        stage: usize,
        mix: f64,
        on: bool,
    ) -> Result<(), Refusal> {
        let runs = runs.into();
        self.change_stage(runs, stage, |stage| {
            stage.mix = stage.effect.mix.check(mix)?;
            stage.on = on;
            Ok(())
        })
    }

    /// Sets the gain of a lane's level match, dB; 0 for none. Values that are not finite count as 0.
    pub fn set_match_gain_db(&mut self, lane: usize, gain_db: f64) {
        let gain = if gain_db.is_finite() { gain_from_db(gain_db) } else { 1.0 };
        let waiting = self.waiting.lane_mut(Runs::Lane(lane)).into_iter();
        waiting.chain(self.lanes.get_mut(lane)).for_each(|lane| lane.match_gain.set(gain));
    }

    /// Whether the source goes round, or is played once with its tail, after which it stops and begins anew from rest.
    pub fn set_play(&mut self, play: Play) {
        self.memory.play = play;
        self.tell_passage();
        if play == Play::Round && self.memory.has_ended() {
            self.memory.position = 0;
        }
    }

    /// Tells all lanes what they run over.
    pub(super) fn tell_passage(&mut self) {
        let (play, frames) = (self.memory.play, self.memory.source.frames());
        let waiting = self.waiting.lanes().map(|(_, lane)| lane);
        let returns = self.returns.iter_mut().map(|to| &mut to.lane);
        waiting.chain(&mut self.lanes).chain(returns).for_each(|lane| lane.chain.set_passage(play, frames));
    }

    /// Starts or pauses.
    pub fn set_playing(&mut self, playing: bool) {
        self.playing = playing;
    }

    /// Goes to a time in the source, in seconds.
    pub fn seek(&mut self, seconds: f64) {
        self.change().seek = Some(cast::frames(seconds, self.setup.rate_hz));
    }

    /// Changes the newest version of a stage.
    fn change_stage(
        &mut self,
        runs: Runs,
        index: usize,
        change: impl FnOnce(&mut Stage) -> Result<(), Refusal>,
    ) -> Result<(), Refusal> {
        let Lane { stages, chain, .. } =
            self.newest(runs).ok_or_else(|| Refusal::new("lane", format!("{runs:?}"), "one that runs"))?;
        let stage = stages.get_mut(index);
        let stage = stage.ok_or_else(|| Refusal::new("stage", index, "a stage of the path"))?;
        change(stage)?;
        chain.set(index, stage);
        Ok(())
    }

    /// Chooses what is heard, with a short cross-fade.
    pub fn set_hear(&mut self, hear: Hear) {
        self.mixing.set_hear(hear);
    }

    /// Whether the other stems are heard too, and how the one at work sits among them.
    pub fn set_stems(&mut self, all_stems: bool, strip: Strip) {
        self.mixing.set_stems(all_stems, strip);
    }

    /// What the stem at work sends to a shared path, by its number under [`MOST_SHARED`]; nothing to one where it sends nothing.
    pub fn set_send(&mut self, number: usize, send: Option<Send>) {
        if let Some(to) = self.returns.get_mut(number) {
            to.set_send(send);
        }
    }

    /// How what comes back from a shared path sits in the sum.
    pub fn set_return(&mut self, number: usize, strip: Strip) {
        if let Some(to) = self.returns.get_mut(number) {
            to.set_strip(strip);
        }
    }

    /// What the other stems send to a shared path, in step with the source; it changes together with the backing.
    pub fn set_feed(&mut self, number: usize, feed: Buffer) {
        if number < self.returns.len() {
            self.change().put_feed(number, feed);
        }
    }
}
