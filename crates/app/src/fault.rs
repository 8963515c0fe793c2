//! How a command ends when it cannot do its work: one line on standard error and an exit code.

use std::io::Write as _;
use std::process::ExitCode;

/// Why a command stopped.
#[derive(Debug)]
pub enum Fault {
    /// What the user gave is not accepted: exit code 2.
    BadInput(String),
    /// Something else went wrong: exit code 1.
    Failure(String),
}

impl Fault {
    /// Bad input in a named argument.
    pub fn input(argument: &str, why: impl std::fmt::Display) -> Self {
        Self::BadInput(format!("{argument}: {why}"))
    }

    /// An argument that the command line does not know or cannot read, as one line. `commands` are those that
    /// are accepted where a command is missing or unknown.
    pub fn usage(error: &clap::Error, commands: &str) -> Self {
        use clap::error::ErrorKind::{
            DisplayHelpOnMissingArgumentOrSubcommand, InvalidSubcommand, MissingSubcommand,
        };
        if matches!(error.kind(), DisplayHelpOnMissingArgumentOrSubcommand | MissingSubcommand) {
            return Self::BadInput(format!("the command is missing; accepted: {commands}"));
        }
        let text = error.to_string();
        let text = text.split("\n\nUsage:").next().unwrap_or(&text);
        let text = text.split("\n\nFor more information").next().unwrap_or(text);
        let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
        let line = line.trim_start_matches("error: ");
        let line = line.replace("invalid float literal", "accepted: a number");
        let line = line.replace("invalid digit found in string", "accepted: a whole number");
        if error.kind() == InvalidSubcommand {
            return Self::BadInput(format!("{line}; accepted: {commands}"));
        }
        Self::BadInput(line)
    }

    /// Writes the line and gives the exit code.
    pub fn report(self) -> ExitCode {
        let (line, code) = match self {
            Self::BadInput(line) => (line, 2),
            Self::Failure(line) => (line, 1),
        };
        // Where nobody can be told, the code says it.
        let _ = writeln!(std::io::stderr(), "clear-bend: {line}");
        ExitCode::from(code)
    }
}
