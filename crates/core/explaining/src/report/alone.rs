//! What is measured of a stage by sending something of its own to it: it holds whatever the passage and the other stages are.

use std::collections::BTreeMap;

use crate::outcomes::{self, KnownAlone, Reach, Readable};
use clear_bend_measures::modulation::Movement;
use clear_bend_measures::passage::Passage;
use clear_bend_measures::room::{self, Room, RoomResponse};
use clear_bend_playing::path::{Path, Stage};

/// What is measured of a stage alone.
#[derive(Debug)]
pub(super) struct Alone {
    /// Its response and what is read off that, where it is a room that is heard.
    pub room: Option<(RoomResponse, Room)>,
    /// How it moves, where it moves and is heard.
    pub movement: Option<Movement>,
    /// Those outcomes that depend on nothing else.
    pub outcomes: BTreeMap<&'static str, Option<f64>>,
}

impl Alone {
    fn of(path: &Path, passage: &Passage, index: usize) -> Self {
        let (stage, rate_hz) = (&path.stages[index], passage.buffer.rate_hz());
        let heard = stage.wet() > 0.0;
        let room = (heard && stage.effect.rings()).then(|| {
            let response = RoomResponse::of_stage(stage, rate_hz, room::LONGEST_S);
            let read = Room::of(&response);
            (response, read)
        });
        let movement = heard.then(|| Movement::of(stage, rate_hz)).flatten();
        let mut readable = Readable::new(path, passage, index);
        readable.alone =
            KnownAlone { room: room.as_ref().map(|(response, _)| response), movement: movement.as_ref() };
        let mut read = BTreeMap::new();
        for outcome in stage.effect.all_params().filter_map(|param| param.outcome) {
            if Reach::of(&outcome) == Reach::Alone {
                read.entry(outcome.id).or_insert_with(|| outcomes::read(&outcome, &readable));
            }
        }
        Self { outcomes: read, room, movement }
    }
}

/// What has been measured of stages alone, at one rate: a stage that has not changed is not measured again.
#[derive(Debug, Default)]
pub struct Measured {
    stages: Vec<(Stage, Alone)>,
}

impl Measured {
    /// What there is of all stages of a path; what is of no stage of it is let go.
    pub(super) fn of(&mut self, path: &Path, passage: &Passage) -> Vec<&Alone> {
        self.stages.retain(|(known, _)| path.stages.contains(known));
        for (i, stage) in path.stages.iter().enumerate() {
            if !self.stages.iter().any(|(known, _)| known == stage) {
                self.stages.push((stage.clone(), Alone::of(path, passage, i)));
            }
        }
        let find = |stage| self.stages.iter().find(|(known, _)| known == stage);
        path.stages.iter().filter_map(find).map(|(_, alone)| alone).collect()
    }
}
