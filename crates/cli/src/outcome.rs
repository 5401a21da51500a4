//! How a command ends: exit status and what is said on standard error.

use crate::ui::complain;
pub use bradawl_judgement::status::Status;
use std::io;
use std::process::ExitCode;

/// Why a command could not do its job: status 2.
#[derive(Debug, thiserror::Error)]
pub enum CommandError {
    /// An input that cannot be used; what it is and why.
    #[error("{name}: {reason}")]
    Input { name: String, reason: String },
    /// Output that cannot be written.
    #[error("cannot write {name}: {}", crate::input::plain(source))]
    Output { name: String, source: io::Error },
    /// The host itself cannot be surveyed.
    #[error(transparent)]
    Survey(#[from] bradawl_survey::SurveyError),
}

impl CommandError {
    pub fn input(name: impl Into<String>, reason: impl ToString) -> Self {
        CommandError::Input { name: name.into(), reason: reason.to_string() }
    }
}

impl From<io::Error> for CommandError {
    fn from(source: io::Error) -> Self {
        CommandError::Output { name: "standard output".to_owned(), source }
    }
}

/// Turns a command's end into an exit status.
pub fn conclude(result: Result<Status, CommandError>) -> ExitCode {
    match result {
        Ok(status) => ExitCode::from(status.code()),
        Err(e) => {
            complain(&e);
            ExitCode::from(2)
        }
    }
}
