//! Findings for reading: the verdict first, then each finding with its line.

use crate::ui::{BOLD, FAINT, GOOD, MARK, labelled, padded, shortened, style, styled, take_columns, wrapped};
use bradawl_core::boot::{Consequence, Outcome};
use bradawl_core::report::{Failure, HostAudit, Totals};
use bradawl_core::rules::{Finding, Fix};
use bradawl_core::table::Table;
use bradawl_core::text::{count, list, visible};

/// A host's findings and the table they are about, for the text view.
pub struct Audited {
    pub audit: HostAudit,
    pub table: Table,
}

/// Findings beyond this many of one host are only counted.
const MAX_SHOWN: usize = 100;

/// All hosts; several begin with a line for each.
pub fn text(audited: &[Audited], failed: &[Failure], width: usize) -> String {
    let mut out = String::new();
    if audited.len() + failed.len() > 1 {
        out.push_str(&overview(audited, failed, width));
    }
    let mut order: Vec<&Audited> = audited.iter().collect();
    order.sort_by_key(|a| worst(&a.audit));
    for (i, one) in order.iter().enumerate() {
        if i > 0 {
            out.push('\n');
        }
        out.push_str(&host(one, width));
    }
    if audited.len() > 1 {
        let totals = Totals::of(audited.iter().flat_map(|a| &a.audit.findings));
        out.push_str(&format!("\nAll {}: {}\n", count(audited.len(), "host"), totals_words(totals)));
    }
    out
}

/// Worst first; what has no finding comes last.
fn worst(audit: &HostAudit) -> Consequence {
    audit.findings.iter().map(|f| f.consequence).min().unwrap_or(Consequence::Note)
}

pub fn overview(audited: &[Audited], failed: &[Failure], width: usize) -> String {
    let down = audited.iter().filter(|a| a.audit.outcome.is_some_and(|o| !o.reaches_login())).count();
    let total = count(audited.len() + failed.len(), "host");
    let mut out = match down {
        0 => format!("{total}: all will come back from a reboot.\n\n"),
        _ => format!("{total}: {down} will not come back from a reboot.\n\n"),
    };
    let name = |a: &Audited| visible(&a.audit.host).into_owned();
    let column = audited.iter().map(|a| name(a).chars().count()).max().unwrap_or(0).min(24);
    let mut order: Vec<&Audited> = audited.iter().collect();
    order.sort_by_key(|a| worst(&a.audit));
    for one in order {
        let host = padded(&shortened(&name(one), column), column);
        let rest = shortened(&one.audit.verdict, width.saturating_sub(column + 4));
        out.push_str(&format!("  {host}  {}\n", styled(verdict_style(one.audit.outcome), &rest)));
    }
    for failure in failed {
        out.push_str(&format!("  {}\n", shortened(&visible(&failure.error), width - 2)));
    }
    out.push('\n');
    out
}

fn verdict_style(outcome: Option<Outcome>) -> anstyle::Style {
    match outcome {
        Some(Outcome::Up) => GOOD,
        Some(Outcome::Partial) => style(Consequence::Missing),
        Some(_) => style(Consequence::Halt),
        None => BOLD,
    }
}

fn host(one: &Audited, width: usize) -> String {
    let audit = &one.audit;
    let verdict = format!("{}: {}", visible(&audit.host), audit.verdict);
    let mut out = String::new();
    for line in wrapped(&verdict, width) {
        out.push_str(&styled(verdict_style(audit.outcome), &line));
        out.push('\n');
    }
    out.push_str(&format!("table {}\n", visible(&audit.table)));
    let (notes, grave): (Vec<&Finding>, Vec<&Finding>) =
        audit.findings.iter().take(MAX_SHOWN).partition(|f| f.consequence == Consequence::Note);
    for found in grave {
        out.push('\n');
        out.push_str(&finding(found, &one.table, width));
    }
    if !notes.is_empty() {
        out.push('\n');
    }
    for note in notes {
        out.push_str(&short(note, width));
    }
    out.push('\n');
    if audit.findings.len() > MAX_SHOWN {
        out.push_str(&format!("The first {MAX_SHOWN} are shown; --format json gives all.\n"));
    }
    out.push_str(&totals_words(Totals::of(&audit.findings)));
    out.push('\n');
    out.push_str(&limits(audit, width));
    out
}

/// What the judgement could not see.
fn limits(audit: &HostAudit, width: usize) -> String {
    let mut lines = Vec::new();
    if let Some(first) = audit.unread.first() {
        let names: Vec<String> = audit.unread.iter().map(|u| visible(&u.what).into_owned()).collect();
        lines.push(format!("Not read: {}: {}.", some(&names), visible(&first.why)));
    }
    if !audit.assumed.is_empty() {
        let assumed: Vec<String> = audit.assumed.iter().map(|a| visible(a).into_owned()).collect();
        lines.push(format!("Assumed: {}.", some(&assumed)));
    }
    lines.iter().map(|l| styled(FAINT, &wrapped(l, width).join("\n")) + "\n").collect()
}

/// The first few of a list, the others counted.
fn some(items: &[String]) -> String {
    const SHOWN: usize = 4;
    match items.len() {
        n if n > SHOWN => format!("{} and {} more", items[..SHOWN].join(", "), n - SHOWN),
        _ => list(items),
    }
}

/// One finding in full.
fn finding(finding: &Finding, table: &Table, width: usize) -> String {
    let word = styled(style(finding.consequence), &finding.consequence.name().to_uppercase());
    let place = finding.line.map_or("the whole table".to_owned(), |l| format!("line {l}"));
    let mut out = format!("{word}  {place}  {}\n", styled(FAINT, finding.rule));
    if let (Some(number), Some(columns)) = (finding.line, finding.columns) {
        out.push_str(&format!(
            "    {}\n",
            marked(&table.line_text(number), columns, width.saturating_sub(5))
        ));
    }
    out.push_str(&labelled("wrong", &visible(&finding.message), width));
    out.push_str(&labelled("effect", &visible(&finding.why), width));
    out.push_str(&labelled("to do", &visible(&finding.remedy), width));
    if let [fix] = finding.fixes.as_slice() {
        out.push_str(&edits(fix, table, width));
    }
    out
}

/// A ready edit: the field before and after.
fn edits(fix: &Fix, table: &Table, width: usize) -> String {
    let [edit] = fix.edits.as_slice() else { return String::new() };
    let line: Vec<char> = table.line_text(edit.line).chars().collect();
    let [first, last] = [(edit.columns[0] - 1).min(line.len()), edit.columns[1].min(line.len())];
    let blank = |c: &char| *c == ' ' || *c == '\t';
    let from = line[..first].iter().rposition(blank).map_or(0, |i| i + 1);
    let to = line[last..].iter().position(blank).map_or(line.len(), |i| last + i);
    let text = |a: usize, b: usize| line[a..b.max(a)].iter().collect::<String>();
    let after = format!("{}{}{}", text(from, first), edit.text, text(last, to));
    labelled("before", &visible(&text(from, to)), width) + &labelled("after", &visible(&after), width)
}

/// A note in one or two lines.
fn short(finding: &Finding, width: usize) -> String {
    let place = finding.line.map_or(String::new(), |l| format!("line {l}: "));
    let text = format!("{place}{} {}", visible(&finding.message), visible(&finding.remedy));
    labelled("note", &format!("{text} ({})", finding.rule), width)
}

/// The line with its place between » and «, shortened around it when it is
/// longer than the room there is.
fn marked(line: &str, [first, last]: [usize; 2], room: usize) -> String {
    let chars: Vec<char> = line.chars().collect();
    let (first, last) = ((first - 1).min(chars.len()), last.min(chars.len()));
    let part = |from: usize, to: usize| chars[from..to.max(from)].iter().collect::<String>();
    let before = visible(&part(0, first)).replace("\\x09", " ");
    let place = visible(&part(first, last)).into_owned();
    let after = visible(&part(last, chars.len())).replace("\\x09", " ");
    let place = shortened(&place, room.saturating_sub(10).max(8));
    let left = room.saturating_sub(place.chars().count() + 2);
    let (before, after) = around(&before, &after, left);
    format!("{}»{}«{}", styled(FAINT, &before), styled(MARK, &place), styled(FAINT, &after))
}

/// As much of what stands before and after as there is room for.
fn around(before: &str, after: &str, room: usize) -> (String, String) {
    let (long, late) = (before.chars().count(), after.chars().count());
    if long + late <= room {
        return (before.to_owned(), after.to_owned());
    }
    let half = room / 2;
    let for_before = if late < half { room - late } else { half.min(long) };
    let for_after = room.saturating_sub(for_before.min(long));
    let cut_before = if long <= for_before {
        before.to_owned()
    } else {
        let tail: String =
            take_columns(before.chars().rev(), for_before.saturating_sub(1)).chars().rev().collect();
        format!("…{tail}")
    };
    let cut_after = if late <= for_after {
        after.to_owned()
    } else {
        format!("{}…", take_columns(after.chars(), for_after.saturating_sub(1)))
    };
    (cut_before, cut_after)
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

#[cfg(test)]
mod tests {
    use super::*;

    fn plain(line: &str, columns: [usize; 2], room: usize) -> String {
        anstream::adapter::strip_str(&marked(line, columns, room)).to_string()
    }

    #[test]
    fn marks_the_place() {
        assert_eq!(plain("LABEL=a /srv/a ext4", [9, 14], 60), "LABEL=a »/srv/a« ext4");
        assert_eq!(plain("a\tb", [3, 3], 60), "a »b«");
        assert_eq!(plain("", [1, 1], 60), "»«");
    }

    #[test]
    fn shortens_around_the_place() {
        let line = format!("{} /srv/a {}", "s".repeat(60), "o".repeat(60));
        let shown = plain(&line, [62, 67], 30);
        assert_eq!(shown.chars().count(), 30);
        assert!(shown.starts_with('…') && shown.contains("»/srv/a«") && shown.ends_with('…'), "{shown}");
    }
}
