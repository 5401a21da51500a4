use crate::Failure;
use crate::mend::{LineChange, changes};
use crate::shapes::{LaidChangeShape, OutcomeShape, StepShape};
use bradawl_boot::Outcome;
use bradawl_change::layout::{Laid, LaidChange, LaidState};
use bradawl_change::steps::Step;
use bradawl_facts::table::Table;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.layout/1`: a layout laid on hosts.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LayoutReport {
    /// Always `bradawl.layout/1`.
    pub schema: &'static str,
    /// The layout's file.
    pub layout: String,
    /// The hosts, as they were given.
    pub hosts: Vec<LayoutLine>,
    /// The inputs that could not be judged.
    pub failed: Vec<Failure>,
}

/// What a layout comes to on one host.
#[serde_as]
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LayoutLine {
    /// Host name.
    pub host: String,
    /// Its roles.
    pub roles: Vec<String>,
    /// How it stands.
    pub state: LayoutState,
    /// What is done, target by target.
    #[serde_as(as = "Vec<LaidChangeShape>")]
    pub changes: Vec<LaidChange>,
    /// The lines that differ.
    pub lines: Vec<LineChange>,
    /// What is to be done on the host before its new table counts.
    #[serde_as(as = "Vec<StepShape>")]
    pub steps: Vec<Step>,
    /// How its boot ends with the table as it is.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_before: Outcome,
    /// The boot in one sentence, with the table as it is.
    pub verdict_before: String,
    /// How its boot ends with the new one, once the steps are done.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_after: Outcome,
    /// The boot in one sentence, with the new one.
    pub verdict_after: String,
    /// What gets worse; with any, its table is left alone.
    pub worse: Vec<String>,
    /// The directory with its files; null: none was written.
    pub directory: Option<String>,
}

/// How a host stands to a layout.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum LayoutState {
    /// Its table has everything, or nothing is asked of it.
    Fits,
    /// Its table changes.
    Changes,
    /// Something cannot be resolved on it; the rest changes.
    Unresolved,
    /// Something would get worse: its table is left alone.
    Refused,
}

impl LayoutLine {
    /// The line of a host.
    pub fn new(host: &str, roles: Vec<String>, old: &Table, laid: &Laid) -> Self {
        let lines = changes(old, &laid.table);
        let state = match () {
            () if !laid.worse.is_empty() => LayoutState::Refused,
            () if laid.changes.iter().any(|c| c.state == LaidState::Unresolved) => LayoutState::Unresolved,
            () if lines.is_empty() => LayoutState::Fits,
            () => LayoutState::Changes,
        };
        LayoutLine {
            host: host.to_owned(),
            roles,
            state,
            changes: laid.changes.clone(),
            lines,
            steps: laid.steps.clone(),
            outcome_before: laid.before.forecast.outcome,
            verdict_before: laid.before.forecast.verdict.to_string(),
            outcome_after: laid.after.forecast.outcome,
            verdict_after: laid.after.forecast.verdict.to_string(),
            worse: laid.worse.clone(),
            directory: None,
        }
    }
}

impl LayoutReport {
    /// The report over these hosts.
    pub fn new(layout: &str, hosts: Vec<LayoutLine>, failed: Vec<Failure>) -> Self {
        LayoutReport { schema: "bradawl.layout/1", layout: layout.to_owned(), hosts, failed }
    }

    /// How many hosts stand so.
    pub fn count(&self, state: LayoutState) -> usize {
        self.hosts.iter().filter(|h| h.state == state).count()
    }
}
