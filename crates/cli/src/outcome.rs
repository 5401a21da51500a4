//! How a command ends: its status, or why it could not do its job.

pub use bradawl_judgement::status::Status;
use std::io;

/// Why a command could not do its job: status 2.
#[derive(Debug, thiserror::Error)]
pub enum CommandError {
    /// An input that cannot be used; what it is and why.
    #[error("{name}: {reason}")]
    Input { name: String, reason: String },
    /// Output that cannot be written.
    #[error("cannot write {name}: {}", plain(source))]
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

/// The operating system's words without its error number.
pub fn plain(error: &io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}
