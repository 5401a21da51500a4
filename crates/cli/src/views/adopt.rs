//! An adopted table, and what is to be said of it.

use crate::ui::{FAINT, GOOD, labelled, style, styled};
use bradawl_documents::AdoptReport;
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, visible};
use std::collections::BTreeMap;

/// The table itself, and nothing else: it may go into a file.
pub fn table(table: &Table) -> String {
    String::from_utf8_lossy(table.bytes()).into_owned()
}

/// What was left out, what is missing, what the boot does with it.
pub fn remarks(report: &AdoptReport, width: usize) -> String {
    let serious = report.findings.iter().filter(|f| f.consequence < Consequence::Note);
    let serious: Vec<_> = serious.collect();
    let look = serious.first().map_or(GOOD, |f| style(f.consequence));
    let added = count(report.added.len(), "entry");
    let mut out = format!("{}: {added} added; {}.\n", visible(&report.host), styled(look, &report.verdict));
    for finding in serious {
        let line = finding.line.map_or_else(String::new, |n| format!("line {n}: "));
        let text = format!("{line}{} {} ({})", finding.message, finding.remedy, finding.rule);
        out.push_str(&labelled(finding.consequence.name(), &text, width));
    }
    for note in &report.notes {
        out.push_str(&labelled("note", &visible(note), width));
    }
    let mut left: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    for one in &report.skipped {
        left.entry(one.why.as_str()).or_default().push(visible(&one.target).into_owned());
    }
    for (why, targets) in left {
        let shown = targets.iter().take(6).cloned().collect::<Vec<_>>().join(", ");
        let more = if targets.len() > 6 { format!(" and {} more", targets.len() - 6) } else { String::new() };
        out.push_str(&labelled("left out", &format!("{shown}{more}: {why}"), width));
    }
    match &report.written {
        Some(written) => {
            out.push_str(&format!("Written: {}\n", visible(&written.file)));
            out.push_str(&super::kept(written, width));
        }
        None if report.added.is_empty() => out.push_str("Nothing is missing from the table.\n"),
        None => out
            .push_str(&format!("{}\n", styled(FAINT, "Nothing is written to a file yet; --write does it."))),
    }
    out
}
