//! The documents that `--format json` prints. Their fields are promised;
//! JSON Schemas are kept under docs/schema.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod adopt;
mod asked;
mod config;
mod devices;
mod draft;
mod explain;
pub mod fleet;
mod guest;
pub mod hindsight;
mod history;
mod index;
mod installed;
mod layout;
mod line;
mod mend;
mod mend_many;
mod options;
mod reference;
mod rehearse;
mod resolve;
mod roll_out;
pub mod shapes;
mod swap;
pub mod trend;

pub use adopt::AdoptReport;
pub use asked::{KernelAnswer, KernelAnswers, SilentType};
pub use config::{ConfigReport, SettingLine};
pub use devices::{DeviceChange, DeviceOverview, DevicesReport, EntryPlace, LostEntry};
pub use draft::DraftReport;
pub use explain::{ExplainReport, RulePage};
pub use guest::{GuestEnding, GuestReport};
pub use history::{HistoryReport, TableWrite};
pub use index::{IndexLine, SurveyIndex, SurveyState};
pub use installed::{Done, InstallReport, InstalledFile, NextCommand, Part};
pub use layout::{LayoutLine, LayoutReport, LayoutState};
pub use line::{AuditLine, LinePolicy};
pub use mend::{LineChange, MendReport, State, WrittenFile};
pub use mend_many::{MendLine, MendManyReport, MendState, RepairKind};
pub use options::{ListVerdict, OptionVerdict, OptionsReport};
pub use reference::{OptionRow, ReferenceReport, TypeRow, Wants, rows_of};
pub use rehearse::{Case, CaseEntry, RehearsalResult, RehearseReport, Rehearsed};
pub use resolve::{Answer, NearName, ResolveReport};
pub use roll_out::RollOut;
pub use swap::SwapReport;

use crate::shapes::{
    AdviceShape, ElsewhereShape, FindingShape, ForecastShape, MendedLineShape, NotSearchedShape,
    OutcomeShape, SilencedShape, UnitsShape,
};
use bradawl_boot::{Forecast, Outcome, Units};
use bradawl_change::MendedLine;
use bradawl_change::advice::Advice;
use bradawl_facts::Consequence;
use bradawl_facts::record::Unread;
use bradawl_judgement::rules::{Finding, Silenced};
use bradawl_judgement::{Elsewhere, NotSearched};
use fleet::MissingHost;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.audit/1`: findings over one host or several.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct AuditReport {
    /// Always `bradawl.audit/1`.
    pub schema: &'static str,
    /// One for every host that could be judged.
    pub hosts: Vec<HostAudit>,
    /// Findings over all hosts, by consequence.
    pub totals: Totals,
    /// The policy the tables were held against; null when there is none.
    pub policy: Option<PolicyUse>,
    /// Lost UUIDs of these hosts that others of them have.
    #[serde_as(as = "Vec<ElsewhereShape>")]
    pub elsewhere: Vec<Elsewhere>,
    /// The inputs that could not be judged.
    pub failed: Vec<Failure>,
    /// Hosts of which there is no record, or an old one.
    pub missing: Vec<MissingHost>,
}

/// The policy of a run, and what is to be said of it.
#[serde_as]
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PolicyUse {
    /// The policy file; null when only profiles are in force.
    pub file: Option<String>,
    /// The shipped profiles in force.
    pub profiles: Vec<String>,
    /// Findings about the policy itself; their lines are the policy file's.
    #[serde_as(as = "Vec<FindingShape>")]
    pub findings: Vec<Finding>,
    /// Policy files that were found by themselves and are not in force.
    pub ignored: Vec<IgnoredPolicy>,
}

/// A policy that was found by itself and is not in force.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct IgnoredPolicy {
    /// The file.
    pub file: String,
    /// Why: others may write it, or it cannot be read.
    pub why: String,
}

impl IgnoredPolicy {
    /// In a sentence.
    pub fn words(&self) -> String {
        format!("The policy {} is not in force: {}.", self.file, self.why)
    }
}

/// The findings on one table of one host.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HostAudit {
    /// Host name.
    pub host: String,
    /// Its roles, as the survey was told.
    pub roles: Vec<String>,
    /// What is supposed of it, and is not so today.
    pub supposed: Vec<String>,
    /// The table's path.
    pub table: String,
    /// The boot in one sentence.
    pub verdict: String,
    /// What the boot does at worst where facts are missing: `stop in emergency
    /// mode: line 4`; null where they make no difference.
    pub at_worst: Option<String>,
    /// How the boot ends; null when its init system is not modelled.
    #[serde_as(as = "Option<OutcomeShape>")]
    pub outcome: Option<Outcome>,
    /// Seconds that it waits; null: without end.
    pub stall_s: Option<f64>,
    /// When the record was taken, in seconds since 1970 UTC.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub taken_at_s: Option<u64>,
    /// How many findings a baseline has already.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub known: Option<usize>,
    /// What it counts as for the exit status: the worst of its boot and its
    /// findings, what was excused apart.
    pub counts_as: Option<Consequence>,
    /// What it may count as where facts are missing that a fuller survey would
    /// settle; null when they make no difference.
    pub may_count_as: Option<Consequence>,
    /// Worst first.
    #[serde_as(as = "Vec<FindingShape>")]
    pub findings: Vec<Finding>,
    /// How many findings were not asked for: by `--only`, or by `--min`.
    pub not_shown: usize,
    /// Findings that the policy's exceptions left out.
    #[serde_as(as = "Vec<SilencedShape>")]
    pub silenced: Vec<Silenced>,
    /// What the survey could not read.
    pub unread: Vec<Unread>,
    /// What was not looked for because there is too much to look through.
    #[serde_as(as = "Vec<NotSearchedShape>")]
    pub not_searched: Vec<NotSearched>,
    /// What is not in the record and makes the boot uncertain.
    pub missing_facts: Vec<String>,
    /// What had to be assumed because the record does not say.
    pub assumed: Vec<String>,
    /// What it costs when that turns out wrong; null when it makes no difference.
    pub otherwise: Option<String>,
    /// What the running kernel says of the options, where it was asked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kernel: Option<KernelAnswers>,
    /// What mounting the entries came to, where it was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rehearsal: Option<RehearseReport>,
    /// The smallest repair; null when the boot neither stops nor waits, or
    /// nothing in the table helps.
    #[serde_as(as = "Option<AdviceShape>")]
    pub advice: Option<Advice>,
    /// Lines whose findings have safe repairs, with all of them made.
    #[serde_as(as = "Vec<MendedLineShape>")]
    pub mended: Vec<MendedLine>,
}

/// How many findings of each consequence.
#[derive(Debug, Default, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[allow(missing_docs)] // the consequences, by name
pub struct Totals {
    pub halt: usize,
    pub stall: usize,
    pub missing: usize,
    pub risk: usize,
    pub note: usize,
}

/// An input that could not be judged.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Failure {
    /// The file or host.
    pub input: String,
    /// Why not.
    pub error: String,
}

/// `bradawl.running/1`: a table against what runs.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RunningReport {
    /// Always `bradawl.running/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// What differs, worst first.
    #[serde_as(as = "Vec<FindingShape>")]
    pub findings: Vec<Finding>,
}

impl RunningReport {
    /// The report on a host.
    pub fn new(host: &str, findings: Vec<Finding>) -> Self {
        RunningReport { schema: "bradawl.running/1", host: host.to_owned(), findings }
    }
}

/// `bradawl.forecast/1`: the predicted boot of one host.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ForecastReport {
    /// Always `bradawl.forecast/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// The boot itself.
    #[serde(flatten)]
    #[serde_as(as = "ForecastShape")]
    pub forecast: Forecast,
    /// The smallest repair; null when the boot neither stops nor waits, or
    /// nothing in the table helps.
    #[serde_as(as = "Option<AdviceShape>")]
    pub advice: Option<Advice>,
    /// The boot with changes that were only thought.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub what_if: Option<WhatIf>,
}

/// `bradawl.units/1`: what the init system makes of a table.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct UnitsReport {
    /// Always `bradawl.units/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The units and their ties.
    #[serde(flatten)]
    #[serde_as(as = "UnitsShape")]
    pub made: Units,
}

/// A boot after changes that were only thought.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct WhatIf {
    /// The changes, as asked for.
    pub changes: Vec<String>,
    /// The boot then.
    #[serde_as(as = "ForecastShape")]
    pub forecast: Forecast,
}

impl AuditReport {
    /// The report over these hosts.
    pub fn new(
        hosts: Vec<HostAudit>,
        policy: Option<PolicyUse>,
        elsewhere: Vec<Elsewhere>,
        failed: Vec<Failure>,
        missing: Vec<MissingHost>,
    ) -> Self {
        let totals = Totals::of(findings(&hosts, policy.as_ref()));
        AuditReport { schema: "bradawl.audit/1", hosts, totals, policy, elsewhere, failed, missing }
    }
}

/// All findings of a run.
fn findings<'a>(hosts: &'a [HostAudit], policy: Option<&'a PolicyUse>) -> impl Iterator<Item = &'a Finding> {
    hosts.iter().flat_map(|h| &h.findings).chain(policy.into_iter().flat_map(|p| &p.findings))
}

impl HostAudit {
    /// A host of which nothing is said yet.
    pub fn empty(host: impl Into<String>) -> Self {
        HostAudit {
            host: host.into(),
            roles: Vec::new(),
            supposed: Vec::new(),
            table: String::new(),
            verdict: String::new(),
            at_worst: None,
            outcome: None,
            stall_s: Some(0.0),
            taken_at_s: None,
            known: None,
            counts_as: None,
            may_count_as: None,
            findings: Vec::new(),
            not_shown: 0,
            silenced: Vec::new(),
            unread: Vec::new(),
            not_searched: Vec::new(),
            missing_facts: Vec::new(),
            assumed: Vec::new(),
            otherwise: None,
            kernel: None,
            rehearsal: None,
            advice: None,
            mended: Vec::new(),
        }
    }
}

impl Totals {
    /// Adds so many of one consequence.
    pub fn add(&mut self, consequence: Consequence, count: usize) {
        *self.slot(consequence) += count;
    }

    /// Counts findings.
    pub fn of<'a>(findings: impl IntoIterator<Item = &'a Finding>) -> Self {
        let mut totals = Totals::default();
        for finding in findings {
            *totals.slot(finding.consequence) += 1;
        }
        totals
    }

    /// The number of findings of one consequence.
    pub fn get(mut self, consequence: Consequence) -> usize {
        *self.slot(consequence)
    }

    fn slot(&mut self, consequence: Consequence) -> &mut usize {
        match consequence {
            Consequence::Halt => &mut self.halt,
            Consequence::Stall => &mut self.stall,
            Consequence::Missing => &mut self.missing,
            Consequence::Risk => &mut self.risk,
            Consequence::Note => &mut self.note,
        }
    }
}
