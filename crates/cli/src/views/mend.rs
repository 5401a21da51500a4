//! A repair for reading: what comes of it first, then each change, then the
//! difference.

use super::steps::steps;
use crate::ui::{BOLD, FAINT, GOOD, labelled, style, styled, wrapped};
use anstyle::{AnsiColor, Style};
use bradawl_boot::Outcome;
use bradawl_change::mend::{Conflict, Made};
use bradawl_documents::{HistoryReport, MendReport, State, Totals};
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, list, visible};
use bradawl_judgement::rules::{Finding, Fix};
use similar::{ChangeTag, TextDiff};

const OUT: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Red)));
const IN: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Green)));

/// The repair of one table.
pub fn text(report: &MendReport, old: &Table, new: &Table, width: usize) -> String {
    let mut out = head(report, old == new, width);
    for made in &report.made {
        let line = made.line.map_or_else(String::new, |n| format!("line {n}"));
        let rule = made.rule.unwrap_or("keeps the boot going");
        let row = format!("  {line:<9}{}", visible(&made.what));
        let asked = made.asked_by.as_deref().map(|place| format!(", asked by {}", visible(place)));
        let rule = format!("({rule}{})", asked.unwrap_or_default());
        out.push_str(&format!("{row}  {}\n", styled(FAINT, &rule)));
    }
    report.conflicts.iter().for_each(|c| out.push_str(&conflict(c, width)));
    for ignored in &report.ignored {
        let text = format!("{}: {}", visible(&ignored.file), visible(&ignored.why));
        out.push_str(&labelled("no policy", &text, width));
    }
    if old != new {
        out.push('\n');
        out.push_str(&diff(&report.table, old, new));
        out.push('\n');
    }
    out.push_str(&left(report, width));
    if let Some(rehearsal) = &report.rehearsal {
        out.push_str(&super::rehearse::evidence(rehearsal, width));
    }
    out.push_str(&end(report, old == new, width));
    if !report.beside.is_empty() {
        out.push_str("\nBeside the table:\n");
        out.push_str(&steps(&report.beside, width));
    }
    if !report.steps.is_empty() {
        out.push_str(match report.written.is_some() {
            true => "\nThe running system still has to be told:\n",
            false => "\nOnce it is written, the running system has to be told:\n",
        });
        out.push_str(&steps(&report.steps, width));
    }
    out
}

fn head(report: &MendReport, same: bool, width: usize) -> String {
    let host = styled(BOLD, &visible(&report.host));
    let table = visible(&report.table);
    let what = match (same, report.made.len()) {
        _ if report.undone.is_some() => {
            let write = report.undone.as_ref().map(|w| w.at.as_str()).unwrap_or_default();
            format!("{host} {table}: back to before the write of {}.", visible(write))
        }
        (true, _) if !report.idle.is_empty() => {
            format!("{host} {table}: it is already as asked, nothing changes.")
        }
        (true, _) => format!("{host} {table}: nothing to mend that can be mended safely."),
        (false, 0) if !report.idle.is_empty() => {
            let which: Vec<String> = report.idle.iter().map(usize::to_string).collect();
            format!("{host} {table}: changed as asked, but --edit {} changes nothing.", which.join(" and "))
        }
        (false, 0) => format!("{host} {table}: changed as asked."),
        (false, n) => format!("{host} {table}: {}.", count(n, "repair")),
    };
    let boot = match same || report.before.verdict == report.after.verdict {
        true => vec![("the boot", &report.after)],
        false => vec![("before", &report.before), ("after", &report.after)],
    };
    let mut out = format!("{what}\n");
    for (label, state) in boot {
        let words = wrapped(&format!("{}{}", state.verdict, found(state.totals)), width.saturating_sub(12));
        let (first, rest) = words.split_first().map_or(("", &[][..]), |(f, r)| (f.as_str(), r));
        out.push_str(&format!(
            "  {}{}\n",
            styled(FAINT, &format!("{label:<10}")),
            styled(look(state), first)
        ));
        rest.iter().for_each(|line| out.push_str(&format!("{:12}{}\n", "", styled(look(state), line))));
    }
    out.push('\n');
    out
}

fn look(state: &State) -> Style {
    match state.outcome {
        Outcome::Up if state.stall_s == Some(0.0) => GOOD,
        Outcome::Up | Outcome::Partial | Outcome::NotKnown => style(Consequence::Missing),
        _ => style(Consequence::Halt),
    }
}

fn found(totals: Totals) -> String {
    use Consequence::{Halt, Missing, Note, Risk, Stall};
    let each = [Halt, Stall, Missing, Risk, Note];
    let words: Vec<String> = each
        .iter()
        .filter(|c| totals.get(**c) > 0)
        .map(|c| format!("{} {}", totals.get(*c), c.name()))
        .collect();
    if words.is_empty() { "; nothing is wrong".to_owned() } else { format!(" ({})", words.join(", ")) }
}

/// The difference as programs read it too.
pub fn diff(path: &str, old: &Table, new: &Table) -> String {
    let text = |table: &Table| String::from_utf8_lossy(table.bytes()).into_owned();
    let (a, b) = (text(old), text(new));
    let diff = TextDiff::from_lines(&a, &b);
    let mut out = String::new();
    let path = visible(path);
    for (n, hunk) in diff.unified_diff().context_radius(2).iter_hunks().enumerate() {
        if n == 0 {
            out.push_str(&styled(BOLD, &format!("--- {path}\n+++ {path}\n")));
        }
        out.push_str(&format!("{}\n", styled(FAINT, &hunk.header().to_string())));
        for change in hunk.iter_changes() {
            let (sign, look) = match change.tag() {
                ChangeTag::Delete => ("-", OUT),
                ChangeTag::Insert => ("+", IN),
                ChangeTag::Equal => (" ", Style::new()),
            };
            let line = change.value().strip_suffix('\n').unwrap_or(change.value());
            let shown: Vec<_> = line.split('\t').map(visible).collect();
            out.push_str(&format!("{}\n", styled(look, &format!("{sign}{}", shown.join("\t")))));
            if change.missing_newline() {
                out.push_str("\\ No newline at end of file\n");
            }
        }
    }
    out
}

/// Repairs that undo each other, and who asks for each.
fn conflict(conflict: &Conflict, width: usize) -> String {
    let side = |made: &Made| {
        let by = made.asked_by.as_deref().or(made.rule).unwrap_or_default();
        format!("{} ({})", visible(&made.what), visible(by))
    };
    let sides: Vec<String> = conflict.repairs.iter().map(side).collect();
    let text = match sides.as_slice() {
        [one] => format!("line {}: {one} does not help, however often it is made.", conflict.line),
        sides => format!(
            "line {}: {} undo each other; neither is made. Decide which holds.",
            conflict.line,
            list(sides)
        ),
    };
    labelled("conflict", &text, width)
}

/// What the repair does not reach.
fn left(report: &MendReport, width: usize) -> String {
    let serious = report.left.iter().filter(|f| f.consequence < Consequence::Note);
    let mut out = String::new();
    for (n, finding) in serious.take(10).enumerate() {
        if n == 0 {
            out.push_str("Left for you to decide:\n");
        }
        out.push_str(&short(finding, width));
    }
    out
}

fn short(finding: &Finding, width: usize) -> String {
    let line = finding.line.map_or_else(String::new, |n| format!("line {n}: "));
    let text = format!("{line}{} {} ({})", finding.message, finding.remedy, finding.rule);
    let name = finding.consequence.name();
    let mut out = String::new();
    for (n, text) in wrapped(&text, width.saturating_sub(12)).iter().enumerate() {
        let label = if n == 0 { format!("{name:<10}") } else { " ".repeat(10) };
        out.push_str(&format!("  {}{text}\n", styled(style(finding.consequence), &label)));
    }
    out
}

fn end(report: &MendReport, same: bool, width: usize) -> String {
    let mut out = String::new();
    for worse in &report.worse {
        out.push_str(&labelled("worse", &visible(worse), width));
    }
    match &report.written {
        Some(written) => {
            out.push_str(&format!("Written: {}\n", visible(&written.file)));
            out.push_str(&super::kept(written, width));
            if written.unrecorded.is_none() {
                out.push_str(&labelled(
                    "go back",
                    "bradawl mend --undo, with the same HOST or --table",
                    width,
                ));
            }
        }
        None if same || report.undone.is_some() => {}
        None => out.push_str("Nothing is written yet; --write does it.\n"),
    }
    out
}

/// A fix to be answered with yes or no.
pub fn question(table: &Table, finding: &Finding, fix: &Fix) -> String {
    let line =
        finding.line.map_or_else(String::new, |n| format!("line {n}: {}\n", visible(&table.line_text(n))));
    let safe = if fix.safe { "" } else { ", which changes what the entry asks for" };
    let name = styled(style(finding.consequence), finding.consequence.name());
    format!(
        "{line}  {name}  {} ({})\n  {}{safe}? [y, n, q] ",
        finding.message,
        finding.rule,
        styled(BOLD, &fix.title)
    )
}

/// What was written of a table: newest last, numbered as `--undo --to` wants
/// them.
pub fn history(report: &HistoryReport, width: usize) -> String {
    let table = visible(&report.table);
    let state = match (report.writes.len(), report.changed) {
        (0, _) => return format!("{table}: bradawl has written nothing there.\n"),
        (n, false) => format!("{table}: {}; it is as the last one left it.", count(n, "write")),
        (n, true) => format!("{table}: {}; it was changed since the last one.", count(n, "write")),
    };
    let mut out = wrapped(&state, width).join("\n") + "\n";
    let taken_back: Vec<&String> = report.writes.iter().flat_map(|w| &w.undoes).collect();
    for (n, write) in report.writes.iter().enumerate() {
        let who = match write.sudo_uid {
            Some(uid) => format!("user {} for user {uid}", write.uid),
            None => format!("user {}", write.uid),
        };
        let back = if taken_back.contains(&&write.backup) { "  (taken back)" } else { "" };
        let head = format!("{:>3}  {}  {who}{back}", n + 1, write.at);
        out.push_str(&format!("{}\n", styled(BOLD, &head)));
        out.push_str(&labelled("command", &format!("bradawl {}", visible(&write.command)), width));
        out.push_str(&labelled("before", &visible(&write.backup), width));
    }
    out.push_str("bradawl mend --undo --to NUMBER goes back to the table before that write.\n");
    out
}
