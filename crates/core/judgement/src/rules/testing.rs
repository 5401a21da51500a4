//! What the rules find on a made-up host, for their tests.

use super::Finding;
use crate::policy::Policy;
use crate::{Against, judge, judge_against};
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_facts::testing::{ROOT, host};

/// The findings for a table on [`host`].
pub(crate) fn findings(table: &str) -> Vec<Finding> {
    findings_on(&host(), table)
}

/// The findings for a table on a host.
pub(crate) fn findings_on(record: &Record, table: &str) -> Vec<Finding> {
    judge(record, &Table::parse(table)).findings
}

/// The findings for a table that follows [`ROOT`], held against a policy.
pub(crate) fn under_policy(policy: &str, table: &str) -> Vec<Finding> {
    let policy = Policy::parse("policy.toml", policy, |_| true).expect("a sound policy");
    let against = Against { policy: Some(&policy), ..Against::default() };
    judge_against(&host(), &Table::parse(format!("{ROOT}{table}")), &against).findings
}

/// Asserts that the rule fires on exactly these lines (after [`ROOT`], so the
/// given text starts at line 2).
#[track_caller]
pub(crate) fn assert_lines(rule: &str, table: &str, lines: &[usize]) {
    let all = findings(&format!("{ROOT}{table}"));
    let found: Vec<usize> = all.iter().filter(|f| f.rule == rule).filter_map(|f| f.line).collect();
    assert_eq!(found, lines, "{rule} on {table:?}: {all:#?}");
}

/// The only finding of this rule for a table that follows [`ROOT`].
#[track_caller]
pub(crate) fn only(rule: &str, table: &str) -> Finding {
    let all = findings(&format!("{ROOT}{table}"));
    let mut found = all.into_iter().filter(|f| f.rule == rule);
    let first = found.next().expect("the rule fires");
    assert!(found.next().is_none(), "once only");
    first
}
