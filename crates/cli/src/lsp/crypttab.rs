//! crypttab in the editor: the host's boot is judged with it as it is written.

use super::document::Document;
use super::word::Word;
use super::{hover, judged};
use bradawl_catalogue::command_line::Effect;
use bradawl_catalogue::crypttab::OPTIONS;
use bradawl_facts::record::{ContentKind, Record, parse_crypttab};
use bradawl_facts::table::Table;
use bradawl_judgement::{Against, judge_against};
use lsp_types::{
    CompletionItem, CompletionItemKind, Diagnostic, Hover, HoverContents, MarkedString, Position,
};

/// What is found of its lines: the host's own table decides what each container is
/// needed for.
pub fn diagnostics(document: &Document, record: &Record) -> Vec<Diagnostic> {
    let mut record = record.clone();
    record.early.get_or_insert_default().crypttab = Some(parse_crypttab(&document.text));
    let bytes = record.tables.first().and_then(|t| t.bytes.bytes()).unwrap_or_default();
    let table = Table::parse(bytes);
    let judgement = judge_against(&record, &table, &Against { fixes: false, ..Against::default() });
    let of_line = |finding| {
        Some(judged::diagnostic_at(document, finding, line(document, finding.container.as_deref()?)?))
    };
    judgement.findings.iter().filter_map(of_line).collect()
}

/// The line that opens a container.
fn line(document: &Document, name: &str) -> Option<usize> {
    let opens = |text: &str| text.split_whitespace().next() == Some(name);
    document.text.lines().position(opens).map(|n| n + 1)
}

/// Sources that hold a container, and options.
pub fn complete(document: &Document, record: &Record, position: Position) -> Vec<CompletionItem> {
    let Some(word) = Word::at(document, position) else { return Vec::new() };
    match word.fields.len() {
        2 => word.offer(&[], sources(record)),
        4 => word.offer(&[','], OPTIONS.iter().map(option).collect()),
        _ => Vec::new(),
    }
}

fn option(row: &bradawl_catalogue::crypttab::CryptOption) -> CompletionItem {
    CompletionItem {
        label: row.name.to_owned(),
        kind: Some(CompletionItemKind::PROPERTY),
        detail: Some(words(row.effect).to_owned()),
        ..CompletionItem::default()
    }
}

fn words(effect: Effect) -> &'static str {
    match effect {
        Effect::Played => "the forecast knows it",
        Effect::None(what) | Effect::NotPlayed(what) => what,
    }
}

fn sources(record: &Record) -> Vec<CompletionItem> {
    let sealed = record
        .devices()
        .iter()
        .filter(|d| d.content.as_ref().is_some_and(|content| content.kind == ContentKind::Encrypted));
    let item = |device: &bradawl_facts::record::Device| {
        let uuid = device.content.as_ref()?.uuid.as_ref()?;
        Some(CompletionItem {
            label: format!("UUID={uuid}"),
            kind: Some(CompletionItemKind::VALUE),
            detail: Some(hover::device(device)),
            ..CompletionItem::default()
        })
    };
    sealed.filter_map(item).collect()
}

/// What an option does.
pub fn hover(document: &Document, position: Position) -> Option<Hover> {
    let (line, chars) = document.place(position);
    let text = document.line(line);
    let before: String = text.chars().take(chars).collect();
    let start = before.rfind([',', ' ', '\t']).map_or(0, |at| at + 1);
    let word = text.get(start..)?.split([',', ' ', '\t', '=']).next()?;
    let option = OPTIONS.iter().find(|o| o.name == word)?;
    let told = format!("{word}: {}", words(option.effect));
    Some(Hover { contents: HoverContents::Scalar(MarkedString::String(told)), range: None })
}
