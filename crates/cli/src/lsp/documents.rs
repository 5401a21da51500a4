//! Layouts and policies in the editor: what keeps them from being read.

use super::document::Document;
use bradawl_change::layout::Layout;
use bradawl_judgement::policy::Policy;
use bradawl_judgement::rules::RULES;
use lsp_types::{Diagnostic, DiagnosticSeverity};

/// What is wrong with a layout.
pub fn of_layout(document: &Document) -> Vec<Diagnostic> {
    let error = Layout::parse(&document.text).err();
    error.map(|e| diagnostic(document, e.line, e.column, e.reason)).into_iter().collect()
}

/// What is wrong with a policy.
pub fn of_policy(document: &Document) -> Vec<Diagnostic> {
    let knows = |name: &str| RULES.iter().any(|rule| rule.slug == name);
    let error = Policy::parse("policy", &document.text, knows).err();
    error.map(|e| diagnostic(document, e.line, e.column, e.reason)).into_iter().collect()
}

fn diagnostic(document: &Document, line: usize, column: usize, message: String) -> Diagnostic {
    let last = document.line(line).chars().count().max(column);
    Diagnostic {
        range: document.range(line, Some([column, last])),
        severity: Some(DiagnosticSeverity::ERROR),
        source: Some("bradawl".to_owned()),
        message,
        ..Diagnostic::default()
    }
}
