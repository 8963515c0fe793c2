//! `clear-bend`: the command line and the server. The contract is in docs/architecture.md.

mod commands;
mod data;
mod fault;
mod privileges;

use std::process::ExitCode;

use clap::{CommandFactory, Parser, Subcommand};

use commands::{bend, fan, keep, measure, mix, render, response, schema, serve, signal};
use fault::Fault;

/// Explains what every parameter of an effect does to a signal.
#[derive(Parser)]
#[command(name = "clear-bend", version, about)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Print the catalogue of effects and signals as JSON
    Effects,
    /// Write a test signal or a demo source as a WAV file
    Signal(signal::Arguments),
    /// Run a sound file through a path
    Render(render::Arguments),
    /// Add up all stems of a bench, with what comes back from the paths that they share
    Mix(mix::Arguments),
    /// Measure an outcome over the whole range of one parameter; JSON on standard output
    Bend(bend::Arguments),
    /// Set several values of one parameter side by side: JSON on standard output, CSV and sound files on demand
    Fan(fan::Arguments),
    /// Gain, phase and group delay of a path over frequency, measured with an impulse; JSON on standard output
    Response(response::Arguments),
    /// Measure a file or an effect; JSON on standard output
    #[command(subcommand)]
    Measure(measure::Measure),
    /// Print the JSON Schema of a kind of file
    Schema(schema::Arguments),
    /// Serve the application on this machine
    Serve(serve::Arguments),
    /// Write everything that is saved to a file
    Backup(keep::Arguments),
    /// Make a new data folder out of such a file
    Restore(keep::Arguments),
}

/// The commands that are accepted where one is missing or unknown.
fn accepted_commands() -> String {
    let cli = Cli::command();
    let outer = std::env::args().nth(1).unwrap_or_default();
    let inner = cli.find_subcommand(&outer).filter(|command| command.has_subcommands());
    let names: Vec<&str> = inner.unwrap_or(&cli).get_subcommands().map(clap::Command::get_name).collect();
    names.join(", ")
}

fn main() -> ExitCode {
    let cli = match Cli::try_parse() {
        Ok(cli) => cli,
        Err(error) if !error.use_stderr() => {
            // Help and version are answers, not errors.
            return ended(commands::say(&error.render().to_string()));
        }
        Err(error) => return Fault::usage(&error, &accepted_commands()).report(),
    };
    let done = match cli.command {
        Command::Effects => commands::print_json(&clear_bend_effects::offered::catalogue()),
        Command::Signal(arguments) => signal::run(&arguments),
        Command::Render(arguments) => render::run(&arguments),
        Command::Mix(arguments) => mix::run(&arguments),
        Command::Bend(arguments) => bend::run(&arguments),
        Command::Fan(arguments) => fan::run(&arguments),
        Command::Response(arguments) => response::run(&arguments),
        Command::Measure(what) => measure::run(&what),
        Command::Schema(arguments) => schema::run(&arguments),
        Command::Serve(arguments) => serve::run(arguments),
        Command::Backup(arguments) => keep::back_up(&arguments),
        Command::Restore(arguments) => keep::restore(&arguments),
    };
    ended(done)
}

fn ended(done: Result<(), Fault>) -> ExitCode {
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(fault) => fault.report(),
    }
}
