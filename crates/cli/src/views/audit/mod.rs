//! Findings for reading: the verdict first, then each entry with what is
//! wrong with it, worst first.

mod brief;
mod finding;
mod overview;

pub use overview::{elsewhere_words, summary};

use self::overview::overview;
use crate::ui::{BOLD, Detail, FAINT, GOOD, labelled, style, styled, wrapped};
use bradawl_boot::Outcome;
use bradawl_change::advice::Advice;
use bradawl_documents::fleet::{HostLine, MissingHost, Sums};
use bradawl_documents::{Failure, HostAudit, PolicyUse, Totals};
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, list, some, visible};
use bradawl_judgement::Elsewhere;
use bradawl_judgement::rules::Finding;
use std::collections::{BTreeMap, BTreeSet};

/// A host's findings and the table they are about, for the text view.
pub struct Audited {
    pub audit: HostAudit,
    pub table: Table,
}

/// Reasons beyond this many for which things were not read are left out.
const MAX_REASONS: usize = 8;
/// Findings beyond this many of one host are only counted.
const MAX_SHOWN: usize = 100;

/// All hosts; several begin with a line for each.
pub fn text(
    audited: &[Audited],
    (failed, missing): (&[Failure], &[MissingHost]),
    policy: Option<&PolicyUse>,
    elsewhere: &[Elsewhere],
    (width, detail, all): (usize, Detail, bool),
) -> String {
    let mut out = String::new();
    if audited.len() + failed.len() > 1 || !missing.is_empty() {
        out.push_str(&of_audited(audited, (failed, missing), (width, all)));
        out.push_str(&overview::elsewhere(elsewhere, width));
    }
    let mut order: Vec<&Audited> = audited.iter().collect();
    order.sort_by_key(|a| worst(&a.audit));
    for (i, one) in order.iter().enumerate() {
        if i > 0 {
            out.push('\n');
        }
        out.push_str(&host(one, width, detail));
    }
    if let Some(policy) = policy {
        out.push_str(&of_policy(policy, audited, width));
    }
    if audited.len() > 1 {
        let of_policy = policy.into_iter().flat_map(|p| &p.findings);
        let totals = Totals::of(audited.iter().flat_map(|a| &a.audit.findings).chain(of_policy));
        out.push_str(&format!("\nAll {}: {}\n", count(audited.len(), "host"), totals_words(totals)));
    }
    out
}

/// How many of them will come back, then a line for each host.
pub fn of_audited(
    audited: &[Audited],
    (failed, missing): (&[Failure], &[MissingHost]),
    (width, all): (usize, bool),
) -> String {
    let lines: Vec<HostLine> = audited.iter().map(|a| HostLine::of(&a.audit)).collect();
    overview((&lines, &Sums::of(&lines)), failed, missing, (width, all))
}

/// Worst first; what has no finding comes last.
fn worst(audit: &HostAudit) -> Consequence {
    audit.findings.iter().map(|f| f.consequence).min().unwrap_or(Consequence::Note)
}

fn verdict_style(outcome: Option<Outcome>) -> anstyle::Style {
    match outcome {
        Some(Outcome::Up) => GOOD,
        Some(Outcome::Partial | Outcome::NotKnown) => style(Consequence::Missing),
        Some(_) => style(Consequence::Halt),
        None => BOLD,
    }
}

/// The lines that the boot stops, waits or comes up short for.
pub fn cause(audit: &HostAudit) -> String {
    let worst = audit.findings.first().map(|f| f.consequence).filter(|c| *c <= Consequence::Missing);
    // What is not known names its lines itself.
    let Some(worst) = worst.filter(|_| audit.at_worst.is_none()) else { return String::new() };
    let lines: BTreeSet<usize> =
        audit.findings.iter().filter(|f| f.consequence == worst).filter_map(|f| f.line).collect();
    let lines: Vec<String> = lines.iter().map(usize::to_string).collect();
    match lines.as_slice() {
        [] => String::new(),
        [line] => format!(" (line {line})"),
        several => format!(" (lines {})", some(several)),
    }
}

/// What contradicts the forecast, the boot in a sentence, the table.
fn head(audit: &HostAudit, width: usize) -> String {
    let mut out = String::new();
    if let Some(rehearsal) = &audit.rehearsal {
        out.push_str(&super::rehearse::contradicted(rehearsal, width));
    }
    let supposing = match audit.supposed.as_slice() {
        [] => String::new(),
        all => format!(", supposing {}", all.iter().map(|s| visible(s)).collect::<Vec<_>>().join(", ")),
    };
    let verdict = format!("{}{supposing}: {}{}", visible(&audit.host), audit.verdict, cause(audit));
    for line in wrapped(&verdict, width) {
        out.push_str(&styled(verdict_style(audit.outcome), &line));
        out.push('\n');
    }
    out.push_str(&format!("table {}\n", visible(&audit.table)));
    out
}

fn host(one: &Audited, width: usize, detail: Detail) -> String {
    let audit = &one.audit;
    let mut out = head(audit, width);
    let shown: Vec<&Finding> = audit.findings.iter().take(MAX_SHOWN).collect();
    let groups = by_entry(&shown);
    let mended = |line: Option<usize>| audit.mended.iter().find(|m| Some(m.line) == line);
    if detail == Detail::Full {
        for findings in groups {
            out.push('\n');
            out.push_str(&finding::group(&findings, &one.table, width));
            let whole = mended(findings.first().and_then(|f| f.line)).filter(|_| findings.len() > 1);
            out.extend(whole.map(|m| labelled("mended", &visible(&m.text), width)));
        }
        out.push('\n');
    } else {
        let grave = groups.iter().filter(|g| g.iter().any(|f| f.consequence != Consequence::Note));
        for (n, findings) in grave.enumerate() {
            let line = findings.first().and_then(|f| f.line);
            if n == 0 {
                out.push('\n');
            }
            out.push_str(&brief::group(findings, mended(line), width));
        }
        out.push('\n');
    }
    if audit.findings.len() > MAX_SHOWN {
        out.push_str(&format!("The first {MAX_SHOWN} are shown; --format json gives all.\n"));
    }
    // "Nothing found" is only said of what was looked for.
    if !audit.findings.is_empty() || audit.not_shown == 0 {
        out.push_str(&totals_words(Totals::of(&audit.findings)));
        out.push('\n');
    }
    if audit.not_shown > 0 {
        let left = count(audit.not_shown, "finding");
        out.push_str(&format!("{left} not asked for (--only, --min).\n"));
    }
    if detail != Detail::Full {
        out.push_str(&brief::notes(&audit.findings, width));
    }
    if let Some(known) = audit.known.filter(|n| *n > 0) {
        out.push_str(&format!("{} more in the baseline.\n", count(known, "finding")));
    }
    if let Some(advice) = &audit.advice {
        out.push_str(&repair(advice, width));
    }
    if let Some(answers) = &audit.kernel {
        out.push_str(&super::kernel::answers(answers, width));
    }
    if let Some(rehearsal) = &audit.rehearsal {
        out.push_str(&super::rehearse::evidence(rehearsal, width));
    }
    out.push_str(&limits(audit, width));
    out
}

/// The smallest repair in a sentence.
fn repair(advice: &Advice, width: usize) -> String {
    let steps: Vec<String> = advice.steps.iter().map(|s| format!("line {}: {}", s.line, s.what)).collect();
    let text = format!("{}; then {}.", visible(&steps.join("; ")), advice.verdict);
    labelled("repair", &text, width)
}

/// The findings gathered by line; the group with the worst comes first, and
/// findings within it are worst first too.
fn by_entry<'f>(findings: &[&'f Finding]) -> Vec<Vec<&'f Finding>> {
    let mut groups: BTreeMap<Option<usize>, Vec<&Finding>> = BTreeMap::new();
    for found in findings {
        groups.entry(found.line).or_default().push(found);
    }
    let mut groups: Vec<Vec<&Finding>> = groups.into_values().collect();
    groups.sort_by_key(|g| g.first().map(|f| (f.consequence, f.line)));
    groups
}

/// Which policy is in force, what it left out, and which is not in force.
pub fn policy_lines(policy: Option<&PolicyUse>, silenced: usize) -> Vec<String> {
    let Some(policy) = policy else { return Vec::new() };
    let named = policy.file.iter().cloned().chain(policy.profiles.iter().map(|p| format!("profile {p}")));
    let named: Vec<String> = named.map(|n| visible(&n).into_owned()).collect();
    let used = format!("Policy: {}; {} left out.", list(&named), count(silenced, "finding"));
    let ignored = policy.ignored.iter().map(|p| visible(&p.words()).into_owned());
    (!named.is_empty()).then_some(used).into_iter().chain(ignored).collect()
}

/// What the policy did, and what is to be said of it.
fn of_policy(policy: &PolicyUse, audited: &[Audited], width: usize) -> String {
    let silenced = || audited.iter().flat_map(|a| &a.audit.silenced);
    let mut lines = policy_lines(Some(policy), silenced().count());
    let counting = silenced().filter(|s| s.counts).count();
    if counting > 0 {
        lines.push(format!(
            "{} among them still count for the exit status: an exception that may silence a halt says \
             accepts_halt = true.",
            count(counting, "halt")
        ));
    }
    let lines = lines.iter().flat_map(|l| wrapped(l, width)).collect::<Vec<_>>();
    let mut out = format!("\n{}\n", styled(FAINT, &lines.join("\n")));
    for found in &policy.findings {
        let place = found.line.map(|l| format!("line {l}: ")).unwrap_or_default();
        let word = found.consequence.name().to_uppercase();
        out.push_str(&format!(
            "  {}  {}\n",
            styled(style(found.consequence), &word),
            styled(FAINT, found.rule)
        ));
        let message = format!("{place}{}", visible(&found.message));
        out.push_str(&labelled("wrong", &message, width));
        out.push_str(&labelled("effect", &visible(&found.why), width));
        out.push_str(&labelled("to do", &visible(&found.remedy), width));
    }
    out
}

/// What the judgement could not see.
fn limits(audit: &HostAudit, width: usize) -> String {
    let mut lines = Vec::new();
    // What could not be read for the same reason stands together.
    let mut unread: Vec<(&str, Vec<String>)> = Vec::new();
    for one in &audit.unread {
        let what = visible(&one.what).into_owned();
        match unread.iter().position(|(why, _)| *why == one.why) {
            Some(n) => unread[n].1.push(what),
            None if unread.len() < MAX_REASONS => unread.push((&one.why, vec![what])),
            None => {}
        }
    }
    for (why, names) in unread {
        lines.push(format!("Not read: {}: {}.", some(&names), visible(why)));
    }
    lines.extend(audit.not_searched.iter().map(|l| format!("Not searched: {}.", l.words())));
    if !audit.missing_facts.is_empty() {
        let facts: Vec<String> = audit.missing_facts.iter().map(|f| visible(f).into_owned()).collect();
        lines.push(format!("Not known: {}.", some(&facts)));
    }
    if !audit.assumed.is_empty() {
        let assumed: Vec<String> = audit.assumed.iter().map(|a| visible(a).into_owned()).collect();
        lines.push(format!("Assumed: {}.", some(&assumed)));
    }
    if let Some(otherwise) = &audit.otherwise {
        lines.push(format!("At worst: {otherwise}."));
    }
    lines.iter().map(|l| styled(FAINT, &wrapped(l, width).join("\n")) + "\n").collect()
}

fn totals_words(totals: Totals) -> String {
    let parts: Vec<String> = Consequence::ALL
        .into_iter()
        .filter(|c| totals.get(*c) > 0)
        .map(|c| styled(style(c), &format!("{} {}", totals.get(c), c.name())))
        .collect();
    let all: usize = Consequence::ALL.into_iter().map(|c| totals.get(c)).sum();
    match all {
        0 => "Nothing found.".to_owned(),
        _ => format!("{}: {}.", count(all, "finding"), parts.join(", ")),
    }
}
