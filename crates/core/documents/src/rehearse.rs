use crate::shapes::EntryStateShape;
use bradawl_boot::EntryState;
use bradawl_facts::record::Content;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.rehearse/1`: entries tried on a running host.
#[derive(Debug, Clone, Serialize)]
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
#[serde_as]
#[derive(Debug, Clone, Serialize)]
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
    #[serde_as(as = "EntryStateShape")]
    pub forecast: EntryState,
    /// Why, in the forecast's words.
    pub forecast_why: String,
    /// Whether forecast and rehearsal say different things.
    pub differs: bool,
}

impl RehearseReport {
    /// The entries on which forecast and rehearsal say different things.
    pub fn contradictions(&self) -> impl Iterator<Item = &Rehearsed> {
        self.entries.iter().filter(|e| e.differs)
    }
}

impl Rehearsed {
    /// Whether it was tried and did not mount.
    pub fn is_bad(&self) -> bool {
        matches!(self.result, RehearsalResult::Refused | RehearsalResult::TooLong)
    }
}

/// `bradawl.case/1`: where a forecast was wrong, with what a developer needs
/// to see why. Neither the host's name nor its other entries are in it.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Case {
    /// Always `bradawl.case/1`.
    pub schema: &'static str,
    /// Version of the program.
    pub bradawl: String,
    /// The kernel, as `uname -r` has it.
    pub kernel: Option<String>,
    /// The init system, by name and version.
    pub init: Option<String>,
    /// Version of the mount program.
    pub mount_program: Option<String>,
    /// Whether devices were mounted as the entries say.
    pub exact: bool,
    /// The entries that differ.
    pub entries: Vec<CaseEntry>,
}

/// An entry of a case.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct CaseEntry {
    /// Its line, with secrets masked.
    pub text: String,
    /// What the forecast said and what came of it.
    #[serde(flatten)]
    pub rehearsed: Rehearsed,
    /// What its device holds.
    pub content: Option<Content>,
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
