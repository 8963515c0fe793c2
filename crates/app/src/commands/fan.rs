//! `clear-bend fan --path PATH.json --stage 0 --param attack_ms [--values 1,10,100 | --count 5] [--same threshold_db]
//! IN.wav [--csv OUT.csv] [-o FOLDER]`

use std::path::PathBuf;

use clap::Args;
use clear_bend_catalogue::{Number, Outcome, Unit};
use clear_bend_explaining::bend::USUAL_POINTS;
use clear_bend_explaining::fan::{FanOf, FanRow, USUAL_COUNT, check_count, propose, to_csv};
use clear_bend_explaining::report::Looking;
use clear_bend_measures::passage::Passage;
use serde::Serialize;

use crate::fault::Fault;

/// Which fan to open.
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
    /// How many values, proposed so that the outcome is evenly spread
    #[arg(long, default_value_t = USUAL_COUNT)]
    count: usize,
    /// The values themselves, separated by commas; inf is allowed
    #[arg(long, value_delimiter = ',', allow_hyphen_values = true)]
    values: Option<Vec<f64>>,
    /// A second parameter, moved so that all values reach the same amount of its outcome
    #[arg(long)]
    same: Option<String>,
    /// CSV file to write the table to as well
    #[arg(long)]
    csv: Option<PathBuf>,
    /// Folder to write a 32-bit float WAV file per value to
    #[arg(short, long)]
    out: Option<PathBuf>,
    #[command(flatten)]
    play: super::PlayAs,
    /// Lets what is left after the end ring out, instead of writing files as long as the passage
    #[arg(long, conflicts_with = "round")]
    tail: bool,
    /// Sound file that is the passage
    input: PathBuf,
}

#[derive(Serialize)]
struct Fan {
    effect: &'static str,
    param: &'static str,
    unit: Unit,
    outcome: Outcome,
    same: Option<String>,
    rows: Vec<FanRow>,
    /// The files written, one per row.
    files: Vec<String>,
}

/// Renders, prints and writes.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let sound = super::read_sound(&arguments.input)?;
    let path = arguments.beside.path(&arguments.path, &sound)?;
    let passage = Passage::played(super::as_played(&path, sound), arguments.play.play());
    let bad = |e: clear_bend_sound::Refusal| Fault::BadInput(format!("--{e}"));
    let same = arguments.same.as_deref();
    let fan = FanOf::new(&path, arguments.stage, &arguments.param, same, &passage).map_err(bad)?;
    let values = match &arguments.values {
        Some(values) => values.clone(),
        None => {
            check_count(arguments.count).map_err(|e| Fault::input("--count", e))?;
            propose(fan.bend(), &fan.bend().measure(&passage, USUAL_POINTS), arguments.count)
        }
    };
    fan.check(&values).map_err(|e| Fault::input("--values", e))?;
    if let Some(folder) = &arguments.out {
        std::fs::create_dir_all(folder)
            .map_err(|e| Fault::Failure(format!("{}: cannot be made ({e})", super::name(folder))))?;
    }
    let (mut rows, mut files, mut run) = (Vec::new(), Vec::new(), Looking::default());
    for (i, value) in values.into_iter().enumerate() {
        let (rendered, row) = fan.row(&mut run, &passage, value);
        if let Some(folder) = &arguments.out {
            let file = folder.join(format!("fan-{}-{}-{}.wav", i + 1, fan.bend().param.id, Number(value)));
            let tail = rendered.with_tail();
            super::write_sound(&file, if arguments.tail { &tail } else { &rendered.after })?;
            files.push(super::name(&file));
        }
        rows.push(row);
    }
    if let Some(file) = &arguments.csv {
        super::write_file(file, to_csv(fan.bend(), &rows).as_bytes())?;
    }
    super::print_json(&Fan {
        effect: path.stages[arguments.stage].effect.id,
        param: fan.bend().param.id,
        unit: fan.bend().param.unit,
        outcome: fan.bend().outcome,
        same: arguments.same.clone(),
        rows,
        files,
    })
}
