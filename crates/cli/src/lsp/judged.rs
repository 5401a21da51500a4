//! Findings as diagnostics, their fixes as actions, and the table in columns.

use super::document::Document;
use bradawl_change::edit::{Change, changed};
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::text::visible;
use bradawl_judgement::rules::{Finding, Fix};
use bradawl_judgement::{Against, judge, judge_against};
use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, Diagnostic, DiagnosticSeverity, NumberOrString, Range,
    TextEdit, Uri, WorkspaceEdit,
};
use std::collections::HashMap;

pub fn diagnostics(document: &Document, record: &Record) -> Vec<Diagnostic> {
    // What is told needs no fixes, and is sooner there without.
    let against = Against { fixes: false, ..Against::default() };
    let judgement = judge_against(record, &document.table, &against);
    judgement.findings.iter().map(|finding| diagnostic(document, finding)).collect()
}

fn diagnostic(document: &Document, finding: &Finding) -> Diagnostic {
    let place = document.range(finding.line.unwrap_or(1), finding.columns);
    Diagnostic { range: place, ..of_finding(finding) }
}

/// A finding as a diagnostic of a whole line.
pub fn diagnostic_at(document: &Document, finding: &Finding, line: usize) -> Diagnostic {
    Diagnostic { range: document.range(line, None), ..of_finding(finding) }
}

fn of_finding(finding: &Finding) -> Diagnostic {
    let text = [&finding.message, &finding.why, &finding.remedy].map(|t| visible(t).into_owned());
    let text: Vec<String> = text.into_iter().filter(|t| !t.is_empty()).collect();
    Diagnostic {
        severity: Some(severity(finding.consequence)),
        code: Some(NumberOrString::String(finding.rule.to_owned())),
        source: Some(format!("bradawl: {}", finding.consequence.name())),
        message: text.join(" "),
        ..Diagnostic::default()
    }
}

fn severity(consequence: Consequence) -> DiagnosticSeverity {
    match consequence {
        Consequence::Halt | Consequence::Stall | Consequence::Missing => DiagnosticSeverity::ERROR,
        Consequence::Risk => DiagnosticSeverity::WARNING,
        Consequence::Note => DiagnosticSeverity::INFORMATION,
    }
}

/// The fixes of what is found in a range.
pub fn actions(uri: &Uri, document: &Document, record: &Record, range: Range) -> Vec<CodeActionOrCommand> {
    let judgement = judge(record, &document.table);
    let within = |f: &&Finding| {
        let own = document.range(f.line.unwrap_or(1), None);
        own.start.line <= range.end.line && range.start.line <= own.end.line
    };
    let findings = judgement.findings.iter().filter(within);
    findings.flat_map(|f| f.fixes.iter().map(move |fix| action(uri, document, f, fix))).collect()
}

fn action(uri: &Uri, document: &Document, finding: &Finding, fix: &Fix) -> CodeActionOrCommand {
    let edits = fix.edits.iter().map(|edit| TextEdit {
        range: document.range(edit.line, Some(edit.columns)),
        new_text: edit.text.clone(),
    });
    CodeActionOrCommand::CodeAction(CodeAction {
        title: visible(&fix.title).into_owned(),
        kind: Some(CodeActionKind::QUICKFIX),
        diagnostics: Some(vec![diagnostic(document, finding)]),
        edit: Some(changes(uri, edits.collect())),
        is_preferred: Some(fix.safe),
        ..CodeAction::default()
    })
}

#[allow(clippy::mutable_key_type)] // the protocol's own type of a change
fn changes(uri: &Uri, edits: Vec<TextEdit>) -> WorkspaceEdit {
    WorkspaceEdit { changes: Some(HashMap::from([(uri.clone(), edits)])), ..WorkspaceEdit::default() }
}

/// The table with its fields in columns; `None`: it is so, or cannot be.
pub fn formatted(document: &Document, record: &Record) -> Option<Vec<TextEdit>> {
    let aligned = changed(record, &document.table, &[Change::Align]).ok()?;
    let text = String::from_utf8(aligned.bytes().to_vec()).ok()?;
    Some(match text == document.text {
        true => Vec::new(),
        false => vec![TextEdit { range: document.whole(), new_text: text }],
    })
}
