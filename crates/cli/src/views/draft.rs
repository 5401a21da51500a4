//! A drafted entry for reading: the line itself first, to be copied; then the
//! reasons, the steps, and what the boot does with it.

use super::steps::steps;
use crate::ui::{BOLD, FAINT, GOOD, labelled, padded, style, styled, wrapped};
use bradawl_documents::DraftReport;
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

pub fn text(report: &DraftReport, width: usize) -> String {
    let mut out = String::new();
    if let Some(comment) = &report.draft.entry.comment {
        out.push_str(&format!("{}\n", styled(FAINT, &format!("# {}", visible(comment)))));
    }
    let line: Vec<_> = report.text.split('\t').map(visible).collect();
    out.push_str(&format!("{}\n\n", styled(BOLD, &line.join("\t"))));
    out.push_str(&reasons(report, width));
    out.push_str(&judged(report, width));
    if let Some(written) = &report.written {
        let place = format!("{}, line {}", visible(&written.file), report.line);
        out.push_str(&format!("\nWritten: {place}\n"));
        out.push_str(&super::kept(written, width));
    }
    if !report.draft.before.is_empty() {
        out.push_str(match report.written.is_some() {
            true => "\nStill to do before the next boot:\n",
            false => "\nBefore the line counts:\n",
        });
        out.push_str(&steps(&report.draft.before, width));
    }
    let into = "\nOnce it stands in the table (--into FILE puts it there):\n";
    out.push_str(if report.written.is_some() { "\nThen:\n" } else { into });
    out.push_str(&steps(&report.draft.after, width));
    out
}

fn reasons(report: &DraftReport, width: usize) -> String {
    let longest = report.draft.choices.iter().map(|c| c.what.chars().count()).filter(|n| *n <= 30).max();
    let column = longest.unwrap_or(0) + 2;
    let mut out = String::new();
    for choice in &report.draft.choices {
        let what = visible(&choice.what);
        let mut label = padded(&what, column);
        if what.chars().count() > 30 {
            out.push_str(&format!("  {what}\n"));
            label = " ".repeat(column);
        }
        for line in wrapped(&choice.why, width.saturating_sub(column + 2).max(20)) {
            out.push_str(&format!("  {label}{}\n", styled(FAINT, &line)));
            label = " ".repeat(column);
        }
    }
    out
}

fn judged(report: &DraftReport, width: usize) -> String {
    let good = report.worse.is_empty() && !report.stops_without_it;
    let look = if good { GOOD } else { style(Consequence::Halt) };
    let made = if report.draft.to_make { "Once it is made, with the line" } else { "With it" };
    let mut out = format!("\n{made} in {}:\n", visible(&report.table));
    let verdict = match report.stops_without_it && report.worse.is_empty() {
        true => {
            format!("{}; so it does without this entry: repair that first (bradawl mend)", report.verdict)
        }
        false => report.verdict.clone(),
    };
    for line in wrapped(&verdict, width.saturating_sub(2)) {
        out.push_str(&format!("  {}\n", styled(look, &line)));
    }
    for finding in report.findings.iter().filter(|f| f.consequence < Consequence::Note) {
        let text = format!("{} {} ({})", finding.message, finding.remedy, finding.rule);
        out.push_str(&labelled(finding.consequence.name(), &text, width));
    }
    for worse in &report.worse {
        out.push_str(&labelled("worse", &visible(worse), width));
    }
    out
}
