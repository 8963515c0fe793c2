//! `clear-bend bend --path PATH.json --stage 0 --param attack_ms IN.wav`

use std::path::PathBuf;

use clap::Args;
use clear_bend_catalogue::{Outcome, Unit};
use clear_bend_explaining::bend::{BendOf, BendPoint, USUAL_POINTS};
use clear_bend_measures::passage::Passage;
use serde::Serialize;

use crate::fault::Fault;

/// Which bend to measure.
#[derive(Args)]
pub struct Arguments {
    /// Path file
    #[arg(long)]
    path: PathBuf,
    #[command(flatten)]
    beside: super::beside::Beside,
    /// Which stage of the path, from 0
    #[arg(long, default_value_t = 0)]
    stage: usize,
    /// Which parameter of the stage, or mix
    #[arg(long)]
    param: String,
    /// How many values of it, evenly along its control
    #[arg(long, default_value_t = USUAL_POINTS, value_parser = points)]
    points: usize,
    #[command(flatten)]
    play: super::PlayAs,
    /// WAV file that is the passage
    input: PathBuf,
}

fn points(text: &str) -> Result<usize, String> {
    let accepted = 2..=clear_bend_explaining::bend::MOST_POINTS;
    let number = text.parse().ok().filter(|n| accepted.contains(n));
    number.ok_or_else(|| format!("accepted: {} to {}", accepted.start(), accepted.end()))
}

#[derive(Serialize)]
struct Bend {
    effect: String,
    param: &'static str,
    unit: Unit,
    outcome: Outcome,
    points: Vec<BendPoint>,
}

/// Measures and prints.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let sound = super::read_sound(&arguments.input)?;
    let path = arguments.beside.path(&arguments.path, &sound)?;
    let passage = Passage::played(super::as_played(&path, sound), arguments.play.play());
    let bend = BendOf::new(&path, arguments.stage, &arguments.param);
    let bend = bend.map_err(|e| Fault::BadInput(format!("--{e}")))?;
    super::print_json(&Bend {
        effect: path.stages[arguments.stage].effect.id.to_owned(),
        param: bend.param.id,
        unit: bend.param.unit,
        outcome: bend.outcome,
        points: bend.measure(&passage, arguments.points),
    })
}
