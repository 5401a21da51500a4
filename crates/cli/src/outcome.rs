//! How a command ends: exit status and what is said on standard error.

use std::io;
use std::process::ExitCode;

/// What a command that did its job found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Done {
    /// Nothing bad enough: status 0.
    Fine,
    /// Something at or above `--fail-on`: status 1.
    Found,
    /// Part of the job could not be done, and was said so: status 2.
    Partly,
}

/// Why a command could not do its job: status 2.
#[derive(Debug, thiserror::Error)]
pub enum CommandError {
    /// An input that cannot be used; what it is and why.
    #[error("{name}: {reason}")]
    Input { name: String, reason: String },
    /// Output that cannot be written.
    #[error("cannot write {name}: {source}")]
    Output { name: String, source: io::Error },
    /// The host itself cannot be surveyed.
    #[error(transparent)]
    Survey(#[from] bradawl_survey::SurveyError),
    /// The reader of our output went away.
    #[error("broken pipe")]
    BrokenPipe,
}

impl CommandError {
    pub fn input(name: impl Into<String>, reason: impl ToString) -> Self {
        CommandError::Input { name: name.into(), reason: reason.to_string() }
    }
}

impl From<io::Error> for CommandError {
    fn from(e: io::Error) -> Self {
        match e.kind() {
            io::ErrorKind::BrokenPipe => CommandError::BrokenPipe,
            _ => CommandError::Output { name: "standard output".to_owned(), source: e },
        }
    }
}

/// Turns a command's end into an exit status.
pub fn conclude(result: Result<Done, CommandError>) -> ExitCode {
    match result {
        Ok(Done::Fine) => ExitCode::SUCCESS,
        Ok(Done::Found) => ExitCode::from(1),
        Ok(Done::Partly) => ExitCode::from(2),
        // Nobody is left to read a complaint.
        Err(CommandError::BrokenPipe) => ExitCode::from(2),
        Err(e) => {
            anstream::eprintln!("bradawl: {}", bradawl_core::text::visible(&e.to_string()));
            ExitCode::from(2)
        }
    }
}
