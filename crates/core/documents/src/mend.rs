use super::{IgnoredPolicy, RehearseReport, TableWrite, Totals};
use crate::shapes::{ConflictShape, FindingShape, MadeShape, OutcomeShape, StepShape};
use bradawl_boot::Outcome;
use bradawl_change::mend::{Conflict, Made, Mending, worse};
use bradawl_change::steps::Step;
use bradawl_facts::table::Table;
use bradawl_judgement::Judgement;
use bradawl_judgement::rules::Finding;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.mend/1`: a repair of a table.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct MendReport {
    /// Always `bradawl.mend/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// What is done, in order.
    #[serde_as(as = "Vec<MadeShape>")]
    pub made: Vec<Made>,
    /// Repairs that undo each other; none of them is made.
    #[serde_as(as = "Vec<ConflictShape>")]
    pub conflicts: Vec<Conflict>,
    /// Changes that were asked for and change nothing, by their places in the
    /// command, from 1.
    pub idle: Vec<usize>,
    /// Policy files that were found by themselves and are not in force.
    pub ignored: Vec<IgnoredPolicy>,
    /// The lines that differ.
    pub changes: Vec<LineChange>,
    /// As it was.
    pub before: State,
    /// As it is with the changes.
    pub after: State,
    /// What gets worse; with any, nothing is written unless asked for.
    pub worse: Vec<String>,
    /// Findings that are left, worst first.
    #[serde_as(as = "Vec<FindingShape>")]
    pub left: Vec<Finding>,
    /// The write that is taken back, where it is an undo.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub undone: Option<TableWrite>,
    /// What mounting the changed lines came to, before the table was written.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rehearsal: Option<RehearseReport>,
    /// What was written; null: nothing.
    pub written: Option<WrittenFile>,
    /// What no table can mend: modes and owners of swap files.
    #[serde_as(as = "Vec<StepShape>")]
    pub beside: Vec<Step>,
    /// What the running system still has to be told.
    #[serde_as(as = "Vec<StepShape>")]
    pub steps: Vec<Step>,
}

/// How a table stands.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct State {
    /// How the boot ends.
    #[serde_as(as = "OutcomeShape")]
    pub outcome: Outcome,
    /// Seconds that it waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    pub verdict: String,
    /// Findings by consequence.
    pub totals: Totals,
}

/// A file that was written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct WrittenFile {
    /// Its path, links followed.
    pub file: String,
    /// Where what was there is kept; empty: nothing was there.
    pub backup: String,
    /// Why the write is not in the table's history, if it is not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unrecorded: Option<String>,
}

/// A line that differs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LineChange {
    /// Its number, in the old table when it was there, else in the new one.
    pub line: usize,
    /// As it was; null: it was not there.
    pub before: Option<String>,
    /// As it is; null: it is gone.
    pub after: Option<String>,
}

impl MendReport {
    /// The report on a repair, not written.
    pub fn new(host: &str, path: &str, old: &Table, mending: Mending) -> Self {
        MendReport {
            schema: "bradawl.mend/1",
            host: host.to_owned(),
            table: path.to_owned(),
            changes: changes(old, &mending.table),
            made: mending.made,
            conflicts: mending.conflicts,
            idle: mending.idle.into_iter().map(|n| n + 1).collect(),
            ignored: Vec::new(),
            before: State::of(&mending.before),
            after: State::of(&mending.after),
            worse: mending.worse,
            left: mending.after.findings,
            undone: None,
            rehearsal: None,
            written: None,
            beside: Vec::new(),
            steps: Vec::new(),
        }
    }

    /// The report on a write that is taken back, not written.
    pub fn back(
        host: &str,
        path: &str,
        (old, before): (&Table, Judgement),
        (new, after): (&Table, Judgement),
    ) -> Self {
        let worse = worse(&before, &after);
        let table = new.clone();
        let (made, conflicts) = (Vec::new(), Vec::new());
        MendReport::new(
            host,
            path,
            old,
            Mending { made, table, before, after, worse, conflicts, idle: Vec::new() },
        )
    }
}

impl State {
    fn of(judgement: &Judgement) -> Self {
        State {
            outcome: judgement.forecast.outcome,
            stall_s: judgement.forecast.stall_s,
            verdict: judgement.forecast.verdict.to_string(),
            totals: Totals::of(&judgement.findings),
        }
    }
}

/// The lines that differ. With as many lines as before, line by line; else
/// what stands between the equal head and tail.
pub(crate) fn changes(old: &Table, new: &Table) -> Vec<LineChange> {
    let (a, b) = (texts(old), texts(new));
    if a.len() == b.len() {
        let pairs = a.into_iter().zip(b).enumerate().filter(|(_, (x, y))| x != y);
        return pairs
            .map(|(n, (x, y))| LineChange { line: n + 1, before: Some(x), after: Some(y) })
            .collect();
    }
    let head = a.iter().zip(&b).take_while(|(x, y)| x == y).count();
    let tail = a[head..].iter().rev().zip(b[head..].iter().rev()).take_while(|(x, y)| x == y).count();
    let side = |all: &[String], is_old: bool| {
        let differing = all[head..all.len() - tail].iter().enumerate();
        let change = |(n, text): (usize, &String)| LineChange {
            line: head + n + 1,
            before: is_old.then(|| text.clone()),
            after: (!is_old).then(|| text.clone()),
        };
        differing.map(change).collect::<Vec<_>>()
    };
    [side(&a, true), side(&b, false)].concat()
}

fn texts(table: &Table) -> Vec<String> {
    table.lines().iter().map(|l| table.line_text(l.number)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(old: &str, new: &str) -> Vec<(usize, Option<String>, Option<String>)> {
        let all = changes(&Table::parse(old), &Table::parse(new));
        all.into_iter().map(|c| (c.line, c.before, c.after)).collect()
    }

    #[test]
    fn lines_that_differ_are_told_one_by_one() {
        let own = |text: &str| Some(text.to_owned());
        assert!(told("a\nb\n", "a\nb\n").is_empty());
        assert_eq!(told("a\nb\nc\n", "a\nB\nc\n"), [(2, own("b"), own("B"))]);
        assert_eq!(told("a\nc\n", "a\nb\nc\n"), [(2, None, own("b"))]);
        assert_eq!(told("a\nb\nc\n", "a\nc\n"), [(2, own("b"), None)]);
        assert_eq!(told("", "a\n"), [(1, None, own("a"))]);
    }
}
