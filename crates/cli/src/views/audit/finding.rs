//! Findings on one entry, in full: the line once, then what is wrong with it.

use crate::ui::{BOLD, FAINT, labelled, style, styled};
use crate::views::marked::marked;
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, visible};
use bradawl_judgement::rules::{Finding, Fix};

/// Facts of a finding beyond this many are left to JSON.
const MAX_FACTS: usize = 3;

/// The findings on one line, worst first.
pub fn group(findings: &[&Finding], table: &Table, width: usize) -> String {
    let mut out = heading(findings, width);
    let (notes, grave): (Vec<&Finding>, Vec<&Finding>) =
        findings.iter().partition(|f| f.consequence == Consequence::Note);
    let mut shown = None;
    for (n, found) in grave.into_iter().enumerate() {
        if n > 0 {
            out.push('\n');
        }
        let word = styled(style(found.consequence), &found.consequence.name().to_uppercase());
        out.push_str(&format!("  {word}  {}\n", styled(FAINT, found.rule)));
        // The line again only when another place in it is meant.
        if found.columns != shown
            && let (Some(number), Some(columns)) = (found.line, found.columns)
        {
            let line = marked(&table.line_text(number), columns, width.saturating_sub(5));
            out.push_str(&format!("    {line}\n"));
            shown = found.columns;
        }
        out.push_str(&finding(found, table, width));
    }
    out.extend(notes.into_iter().map(|found| note(found, width)));
    out
}

/// The line's number and what it is for.
fn heading(findings: &[&Finding], width: usize) -> String {
    let Some(first) = findings.first() else { return String::new() };
    let Some(line) = first.line else { return format!("{}\n", styled(BOLD, "The whole table")) };
    let entry = findings.iter().find_map(|f| f.entry.as_ref());
    let what = match entry {
        Some(entry) if entry.fstype == "swap" => ", swap".to_owned(),
        Some(entry) if !entry.target.is_empty() => format!(", {}", visible(&entry.target)),
        _ => String::new(),
    };
    let text = crate::ui::shortened(&format!("Line {line}{what}"), width);
    format!("{}\n", styled(BOLD, &text))
}

/// One finding in full.
fn finding(finding: &Finding, table: &Table, width: usize) -> String {
    let mut out = labelled("wrong", &visible(&finding.message), width);
    out.push_str(&labelled("effect", &visible(&finding.why), width));
    for fact in finding.evidence.iter().take(MAX_FACTS) {
        out.push_str(&labelled("seen", &visible(fact), width));
    }
    out.push_str(&labelled("to do", &visible(&finding.remedy), width));
    if let [fix] = finding.fixes.as_slice() {
        out.push_str(&edits(fix, table, width));
    }
    out
}

/// A note in a line or two.
pub fn note(finding: &Finding, width: usize) -> String {
    let text = format!("{} {} ({})", visible(&finding.message), visible(&finding.remedy), finding.rule);
    labelled("note", &text, width)
}

/// A ready edit: the field before and after.
fn edits(fix: &Fix, table: &Table, width: usize) -> String {
    let [edit] = fix.edits.as_slice() else {
        return labelled("edit", &format!("{}: {}", fix.title, count(fix.edits.len(), "place")), width);
    };
    let line: Vec<char> = table.line_text(edit.line).chars().collect();
    let [first, last] = [(edit.columns[0] - 1).min(line.len()), edit.columns[1].min(line.len())];
    let blank = |c: &char| *c == ' ' || *c == '\t';
    let from = line[..first].iter().rposition(blank).map_or(0, |i| i + 1);
    let to = line[last..].iter().position(blank).map_or(line.len(), |i| last + i);
    let text = |a: usize, b: usize| line[a..b.max(a)].iter().collect::<String>();
    let after = format!("{}{}{}", text(from, first), edit.text, text(last, to));
    let nothing = |text: String| if text.is_empty() { "(nothing)".to_owned() } else { text };
    labelled("before", &nothing(visible(&text(from, to)).into_owned()), width)
        + &labelled("after", &nothing(visible(&after).into_owned()), width)
}
