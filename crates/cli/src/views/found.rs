//! A finding as a page shows it: with its line as it is and as it would be.

use super::audit::Audited;
use bradawl_facts::text::visible;
use bradawl_judgement::rules::Finding;

/// A finding, ready to be shown.
#[derive(PartialEq, Eq, Hash)]
pub struct Found {
    /// Its consequence.
    pub class: &'static str,
    pub rule: &'static str,
    pub line: Option<usize>,
    /// Empty where it is about no entry.
    pub target: String,
    pub message: String,
    pub why: String,
    pub remedy: String,
    /// The line now, and then.
    pub change: Option<(String, String)>,
}

impl Found {
    pub fn of(finding: &Finding, Audited { audit, table }: &Audited) -> Self {
        let shown = |text: &str| visible(text).into_owned();
        let line = finding.line.and_then(|n| table.line(n));
        let before = line.map(|l| shown(&String::from_utf8_lossy(table.slice(l.text))));
        let mended = audit.mended.iter().find(|m| Some(m.line) == finding.line && !finding.fixes.is_empty());
        Found {
            class: finding.consequence.name(),
            rule: finding.rule,
            line: finding.line,
            target: finding.entry.as_ref().map(|e| shown(&e.target)).unwrap_or_default(),
            message: shown(&finding.message),
            why: shown(&finding.why),
            remedy: shown(&finding.remedy),
            change: before.zip(mended.map(|m| shown(&m.text))),
        }
    }
}
