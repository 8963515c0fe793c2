//! How a command ends when it cannot do its work: one line on standard error and an exit code.

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

    /// An argument that the command line does not know or cannot read, as one line.
    pub fn usage(error: &clap::Error) -> Self {
        let text = error.to_string();
        let text = text.split("\n\nUsage:").next().unwrap_or(&text);
        let text = text.split("\n\nFor more information").next().unwrap_or(text);
        let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
        Self::BadInput(line.trim_start_matches("error: ").to_owned())
    }

    /// Writes the line and gives the exit code.
    pub fn report(self) -> ExitCode {
        let (line, code) = match self {
            Self::BadInput(line) => (line, 2),
            Self::Failure(line) => (line, 1),
        };
        eprintln!("clear-bend: {line}");
        ExitCode::from(code)
    }
}
