use crate::Failure;
use crate::MendReport;
use crate::shapes::{MadeShape, OutcomeShape};
use bradawl_boot::Outcome;
use bradawl_change::mend::Made;
use serde::Serialize;
use serde_with::serde_as;
use std::collections::BTreeMap;

/// `bradawl.mend-many/1`: the repairs of many hosts.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct MendManyReport {
    /// Always `bradawl.mend-many/1`.
    pub schema: &'static str,
    /// The hosts, as they were given.
    pub hosts: Vec<MendLine>,
    /// The repairs by kind, the commonest first.
    pub kinds: Vec<RepairKind>,
    /// The inputs that could not be judged.
    pub failed: Vec<Failure>,
}

/// The repair of one host.
#[serde_as]
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct MendLine {
    /// Host name.
    pub host: String,
    /// Its roles.
    pub roles: Vec<String>,
    /// What becomes of its table.
    pub state: MendState,
    /// What is done, in order.
    #[serde_as(as = "Vec<MadeShape>")]
    pub made: Vec<Made>,
    /// How its boot ends with the table as it is.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_before: Outcome,
    /// The boot in one sentence, with the table as it is.
    pub verdict_before: String,
    /// How its boot ends afterwards.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_after: Outcome,
    /// The boot in one sentence, afterwards.
    pub verdict_after: String,
    /// What gets worse; with any, its table is left alone.
    pub worse: Vec<String>,
    /// The directory with its files; null: none was written.
    pub directory: Option<String>,
}

/// What becomes of a host's table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum MendState {
    /// It is repaired.
    Repaired,
    /// There is nothing that can be repaired safely.
    Unchanged,
    /// Something would get worse.
    Refused,
}

/// A repair that several hosts need.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RepairKind {
    /// The rule whose finding it mends; null for a step that keeps the boot from
    /// stopping or waiting.
    pub rule: Option<&'static str>,
    /// What is done.
    pub what: String,
    /// On how many hosts.
    pub hosts: usize,
}

impl MendLine {
    /// The line of a report.
    pub fn new(report: &MendReport, roles: Vec<String>) -> Self {
        let state = match () {
            () if !report.worse.is_empty() => MendState::Refused,
            () if report.changes.is_empty() => MendState::Unchanged,
            () => MendState::Repaired,
        };
        MendLine {
            host: report.host.clone(),
            roles,
            state,
            made: report.made.clone(),
            outcome_before: report.before.outcome,
            verdict_before: report.before.verdict.clone(),
            outcome_after: report.after.outcome,
            verdict_after: report.after.verdict.clone(),
            worse: report.worse.clone(),
            directory: None,
        }
    }
}

impl MendManyReport {
    /// The report over these hosts.
    pub fn new(hosts: Vec<MendLine>, failed: Vec<Failure>) -> Self {
        let mut kinds: BTreeMap<(Option<&'static str>, &str), usize> = BTreeMap::new();
        for host in hosts.iter().filter(|h| h.state == MendState::Repaired) {
            let mut own: Vec<_> = host.made.iter().map(|m| (m.rule, m.what.as_str())).collect();
            own.sort_unstable();
            own.dedup();
            own.into_iter().for_each(|kind| *kinds.entry(kind).or_default() += 1);
        }
        let mut kinds: Vec<RepairKind> = kinds
            .into_iter()
            .map(|((rule, what), hosts)| RepairKind { rule, what: what.to_owned(), hosts })
            .collect();
        kinds.sort_by_key(|kind| std::cmp::Reverse(kind.hosts));
        MendManyReport { schema: "bradawl.mend-many/1", hosts, kinds, failed }
    }

    /// How many hosts are in a state.
    pub fn count(&self, state: MendState) -> usize {
        self.hosts.iter().filter(|h| h.state == state).count()
    }
}
