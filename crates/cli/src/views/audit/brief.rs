//! Findings in short: what is wrong, what it does, what to write.

use crate::ui::{BOLD, FAINT, shortened, style, styled, table_line, wrapped};
use bradawl_change::MendedLine;
use bradawl_facts::Consequence;
use bradawl_facts::text::{count, visible};
use bradawl_judgement::rules::Finding;
use std::collections::BTreeSet;

/// Columns of the word for the consequence.
const WORD: usize = 9;

/// The findings of one line, the worst first, without notes.
pub fn group(findings: &[&Finding], mended: Option<&MendedLine>, width: usize) -> String {
    let grave: Vec<&Finding> =
        findings.iter().copied().filter(|f| f.consequence != Consequence::Note).collect();
    // A repaired line repairs all that can be repaired safely: it stands once, at the
    // last of them.
    let is_repaired = |finding: &&Finding| finding.fixes.iter().any(|f| f.safe);
    let last = grave.iter().rposition(is_repaired);
    let mut out = String::new();
    for (n, finding) in grave.iter().enumerate() {
        out.push_str(&heading(finding, width));
        out.push_str(&beside(&told(finding), width));
        match mended.filter(|_| is_repaired(finding)) {
            Some(whole) if Some(n) == last => {
                out.push_str(&beside("Write:", width));
                out.push_str(&format!("  {}\n", table_line(&whole.text)));
            }
            Some(_) => {}
            None => out.push_str(&beside(&visible(&finding.remedy), width)),
        }
    }
    out
}

/// The consequence, the line and what it is for, the rule.
fn heading(finding: &Finding, width: usize) -> String {
    let word = finding.consequence.name().to_uppercase();
    let place = match (finding.line, &finding.entry) {
        (Some(line), Some(entry)) if entry.fstype == "swap" => format!("line {line}, swap"),
        (Some(line), Some(entry)) if !entry.target.is_empty() => {
            format!("line {line}, {}", visible(&entry.target))
        }
        (Some(line), _) => format!("line {line}"),
        (None, _) => "the whole table".to_owned(),
    };
    let room = width.saturating_sub(WORD + 2 + finding.rule.len());
    format!(
        "{} {}  {}\n",
        styled(style(finding.consequence), &format!("{word:<width$}", width = WORD - 1)),
        styled(BOLD, &shortened(&place, room)),
        styled(FAINT, finding.rule)
    )
}

/// What is wrong and what it does. The last sentence on the effect is not said
/// twice.
fn told(finding: &Finding) -> String {
    let (message, why) = (visible(&finding.message), visible(&finding.why));
    if why.is_empty() { message.into_owned() } else { format!("{message} {why}") }
}

fn beside(text: &str, width: usize) -> String {
    let lines = wrapped(text, width.saturating_sub(WORD).max(20));
    lines.iter().map(|line| format!("{}{line}\n", " ".repeat(WORD))).collect()
}

/// How many notes there are, and on which lines.
pub fn notes(findings: &[Finding], width: usize) -> String {
    let notes: Vec<&Finding> = findings.iter().filter(|f| f.consequence == Consequence::Note).collect();
    if notes.is_empty() {
        return String::new();
    }
    let rules: BTreeSet<&str> = notes.iter().map(|f| f.rule).collect();
    let rules: Vec<&str> = rules.into_iter().collect();
    let rules = bradawl_facts::text::some(&rules);
    let text = format!("Not shown: {} ({rules}); --verbose tells all.", count(notes.len(), "note"));
    wrapped(&text, width).iter().map(|line| styled(FAINT, line) + "\n").collect()
}
