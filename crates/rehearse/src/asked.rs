//! What a rehearsal and its stage say to each other: a line of JSON each.

use bradawl_change::rehearsal::Job;
use serde::{Deserialize, Serialize};

/// How the namespace is set before the first entry.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
pub struct Setting {
    /// Where devices are mounted now that are shown again.
    pub shown: Vec<String>,
    /// What is taken away, in this order.
    pub away: Vec<String>,
}

/// What the stage is asked.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum Asked {
    /// To begin.
    Begin(Setting),
    /// To try an entry.
    Try { job: Box<Job>, limit_ms: u64 },
}

/// How it began.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum Begun {
    /// Entries can be tried.
    Ready,
    /// They cannot.
    Impossible { at: String, why: String },
}
