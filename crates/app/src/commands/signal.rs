//! `clear-bend signal KIND [settings] -o OUT.wav`

use std::collections::BTreeMap;
use std::path::PathBuf;

use clap::{Arg, ArgMatches, Args, Command, FromArgMatches, value_parser};
use clear_bend_catalogue::Values;
use clear_bend_explaining::report::room_of;
use clear_bend_media::{with_recipe, write_wav};
use clear_bend_signals::room::{ROOM, WALLS, unheard};
use clear_bend_signals::{self as signals, Family, SignalKind, Source, SourceDocument};
use clear_bend_sound::Refusal;

use crate::fault::Fault;

/// The settings come from the catalogue: a new signal brings its flags with it.
pub struct Arguments {
    /// A kind with settings, or a file that says both.
    kind: Option<String>,
    source: Option<PathBuf>,
    settings: BTreeMap<String, f64>,
    rate_hz: u32,
    channels: usize,
    out: PathBuf,
}

/// The flag of a setting of a kind of signal: its id without the unit, or, where two settings differ by that only, the
/// whole id.
fn flag(kind: &SignalKind, id: &'static str) -> String {
    let units = ["_hz", "_dbfs", "_db", "_ms", "_s", "_deg", "_bpm"];
    let bare = |id: &'static str| units.iter().find_map(|unit| id.strip_suffix(unit)).unwrap_or(id);
    let alike = kind.params.iter().filter(|param| bare(param.id) == bare(id)).count();
    if alike > 1 { id.replace('_', "-") } else { bare(id).replace('_', "-") }
}

/// Every flag of any kind of signal, with what it is and the kinds for which it is that.
fn all_flags() -> BTreeMap<String, Vec<(String, Vec<&'static str>)>> {
    let mut flags: BTreeMap<String, Vec<(String, Vec<&'static str>)>> = BTreeMap::new();
    for kind in signals::ALL {
        for param in kind.params {
            let what = format!("{}, {}", param.label, param.range_text());
            let flag = flags.entry(flag(kind, param.id)).or_default();
            match flag.iter_mut().find(|(other, _)| *other == what) {
                Some((_, kinds)) => kinds.push(kind.id),
                None => flag.push((what, vec![kind.id])),
            }
        }
    }
    flags
}

impl Args for Arguments {
    fn augment_args(command: Command) -> Command {
        let kinds: Vec<&str> = signals::ALL.iter().map(|kind| kind.id).collect();
        let command = command
            .arg(
                Arg::new("kind").value_name("KIND").required_unless_present("source").help(kinds.join(", ")),
            )
            .arg(
                Arg::new("source")
                    .long("source")
                    .value_name("FILE")
                    .value_parser(value_parser!(PathBuf))
                    .conflicts_with("kind")
                    .help("A source as it stands in a path file, or a WAV file that was written from one, instead of KIND"),
            )
            .arg(
                Arg::new("rate")
                    .long("rate")
                    .value_parser(value_parser!(u32))
                    .default_value("48000")
                    .help("Sample rate, Hz"),
            )
            .arg(
                Arg::new("channels")
                    .long("channels")
                    .value_parser(value_parser!(usize))
                    .default_value("2")
                    .help("1 or 2"),
            )
            .arg(
                Arg::new("out")
                    .short('o')
                    .long("out")
                    .value_parser(value_parser!(PathBuf))
                    .required(true)
                    .help("WAV file to write"),
            );
        all_flags().into_iter().fold(command, |command, (flag, uses)| {
            let uses = uses.iter().map(|(what, kinds)| format!("{what} ({})", kinds.join(", ")));
            let help = uses.collect::<Vec<_>>().join("; ");
            let value = Arg::new(flag.clone()).long(flag).value_parser(value_parser!(f64));
            command.arg(value.allow_negative_numbers(true).help(help))
        })
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

impl FromArgMatches for Arguments {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, clap::Error> {
        let required = |id: &str| {
            clap::Error::raw(clap::error::ErrorKind::MissingRequiredArgument, format!("{id} is missing"))
        };
        Ok(Self {
            kind: matches.get_one("kind").cloned(),
            source: matches.get_one("source").cloned(),
            settings: all_flags()
                .into_keys()
                .filter_map(|flag| matches.get_one::<f64>(&flag).copied().map(|value| (flag, value)))
                .collect(),
            rate_hz: matches.get_one("rate").copied().unwrap_or(48_000),
            channels: matches.get_one("channels").copied().unwrap_or(2),
            out: matches.get_one::<PathBuf>("out").cloned().ok_or_else(|| required("-o OUT.wav"))?,
        })
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), clap::Error> {
        *self = Self::from_arg_matches(matches)?;
        Ok(())
    }
}

/// The source that is asked for.
fn source_of(arguments: &Arguments) -> Result<Source, Fault> {
    let Some(kind) = &arguments.kind else {
        if let Some(given) = arguments.settings.keys().next() {
            let why = "beside --source; accepted: settings in the file alone";
            return Err(Fault::input(&format!("--{given}"), why));
        }
        let document =
            super::read_source("--source", arguments.source.as_deref(), signals::design::DESIGNED.id)?;
        return Source::from_document(&document).map_err(|e| Fault::input("--source", e));
    };
    let kind = signals::find(kind).map_err(|e| Fault::input("KIND", e))?;
    let mut params = Values::default();
    for (given, value) in &arguments.settings {
        let Some(param) = kind.params.iter().find(|p| flag(kind, p.id) == *given) else {
            let known: Vec<_> = kind.params.iter().map(|p| format!("--{}", flag(kind, p.id))).collect();
            return Err(Fault::input(
                &format!("--{given}"),
                format!("{} has no such setting; accepted: {}", kind.id, known.join(", ")),
            ));
        };
        param.check(*value).map_err(|e| Fault::input(&format!("--{given}"), e))?;
        params.put(param.id, *value);
    }
    let document = SourceDocument::of_kind(kind.id, params);
    if kind.id == ROOM.id
        && let Some((wall, param, surface)) =
            room_of(&document).ok().and_then(|values| unheard(&values).into_iter().next())
    {
        let why = format!(
            "is not heard: the {} is of {surface}; accepted: with its surface at 0, by hand",
            WALLS[wall]
        );
        return Err(Fault::input(&format!("--{}", flag(kind, param.id)), why));
    }
    Source::from_document(&document).map_err(|e| Fault::BadInput(e.to_string()))
}

/// Makes the signal and writes it, responses with their recipe.
pub fn run(arguments: &Arguments) -> Result<(), Fault> {
    let source = source_of(arguments)?;
    let document = source.to_file();
    let kind = signals::find(&document.kind).ok();
    let named = |e: Refusal| match kind
        .and_then(|kind| Some((kind, kind.params.iter().find(|p| p.id == e.field)?)))
    {
        Some((kind, param)) => Fault::input(&format!("--{}", flag(kind, param.id)), e),
        None => Fault::BadInput(e.to_string()),
    };
    let sound = source.render(arguments.rate_hz, arguments.channels).map_err(named)?;
    if kind.is_none_or(|kind| kind.family != Family::Response) {
        return super::write_sound(&arguments.out, &sound);
    }
    let failed = |e: String| Fault::Failure(format!("the file cannot be made: {e}"));
    let recipe = serde_json::to_string(&document).map_err(|e| failed(e.to_string()))?;
    let wav = write_wav(&sound).map_err(|e| failed(e.to_string()))?;
    super::write_file(&arguments.out, &with_recipe(wav, &recipe))
}
