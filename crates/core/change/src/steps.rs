//! Steps that a person takes: a command to read and run, and what to expect
//! of it. Nothing here is run.

/// One step.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Step {
    /// What it is for.
    pub what: String,
    /// The command, ready for a shell; null when there is none.
    pub run: Option<String>,
    /// What follows when it went well.
    pub expect: Option<String>,
}

impl Step {
    /// A step with a command.
    pub fn run(what: impl Into<String>, run: impl Into<String>, expect: impl Into<String>) -> Self {
        Step { what: what.into(), run: Some(run.into()), expect: Some(expect.into()) }
    }

    /// A step to do by hand.
    pub fn by_hand(what: impl Into<String>) -> Self {
        Step { what: what.into(), run: None, expect: None }
    }
}
