use bradawl_boot::EntryState;
use serde::Serialize;

/// `bradawl.rehearse/1`: entries tried on a running host.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RehearseReport {
    /// Always `bradawl.rehearse/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// Whether devices were mounted as the entries say, and not read-only
    /// with their journals left alone.
    pub exact: bool,
    /// One for each entry asked for.
    pub entries: Vec<Rehearsed>,
    /// What of the host's own mounts and swap is not as before; empty: all is.
    pub left_behind: Vec<String>,
}

/// An entry that was tried.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Rehearsed {
    /// Its line.
    pub line: usize,
    /// Its source.
    pub source: String,
    /// Its target.
    pub target: String,
    /// What came of it.
    pub result: RehearsalResult,
    /// In words: what the kernel said, or why it was not tried.
    pub why: String,
    /// Options in force, as the kernel lists them.
    pub options: Option<String>,
    /// What the forecast says of the entry.
    pub forecast: EntryState,
    /// Why, in the forecast's words.
    pub forecast_why: String,
    /// Whether forecast and rehearsal say different things.
    pub differs: bool,
}

/// What came of an entry in a rehearsal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RehearsalResult {
    /// The kernel took it.
    Works,
    /// It was refused, or cannot work.
    Refused,
    /// It did not end within its time.
    TooLong,
    /// It was not tried.
    Skipped,
    /// The rehearsal itself failed.
    Failed,
}

impl RehearsalResult {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            RehearsalResult::Works => "works",
            RehearsalResult::Refused => "rejected",
            RehearsalResult::TooLong => "too long",
            RehearsalResult::Skipped => "not tried",
            RehearsalResult::Failed => "failed",
        }
    }
}
