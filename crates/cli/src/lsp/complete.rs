//! What can stand at the cursor: names of this host's devices, types, options
//! of the type and their values.

use super::document::Document;
use super::hover::device;
use bradawl_catalogue::fstypes::all_names;
use bradawl_catalogue::options::{Form, Opt, common, of_type};
use bradawl_facts::record::Record;
use bradawl_facts::{Version, table::encode};
use bradawl_resolve::{Stable, identities};
use lsp_types::{CompletionItem, CompletionItemKind, Position};

pub fn complete(document: &Document, record: &Record, position: Position) -> Vec<CompletionItem> {
    let (line, chars) = document.place(position);
    let before: String = document.line(line).chars().take(chars).collect();
    if before.trim_start().starts_with('#') {
        return Vec::new();
    }
    let fields: Vec<&str> = before.split([' ', '\t']).filter(|f| !f.is_empty()).collect();
    let begun = !before.is_empty() && !before.ends_with([' ', '\t']);
    let (field, word) = match (begun, fields.as_slice()) {
        (true, [.., word]) => (fields.len() - 1, *word),
        _ => (fields.len(), ""),
    };
    match field {
        0 => names(record),
        2 => all_names().map(|name| item(name, CompletionItemKind::CLASS, None)).collect(),
        3 => options(fields[2], word, record),
        4 => vec![item("0", CompletionItemKind::VALUE, Some("not dumped".to_owned()))],
        5 => ["0", "1", "2"]
            .into_iter()
            .zip(["not checked by fsck at boot", "checked first: root", "checked after root"])
            .map(|(pass, what)| item(pass, CompletionItemKind::VALUE, Some(what.to_owned())))
            .collect(),
        _ => Vec::new(),
    }
}

fn item(label: &str, kind: CompletionItemKind, detail: Option<String>) -> CompletionItem {
    CompletionItem { label: label.to_owned(), kind: Some(kind), detail, ..CompletionItem::default() }
}

/// Names that last, each with what the device is.
fn names(record: &Record) -> Vec<CompletionItem> {
    let of = |d: &bradawl_facts::record::Device| {
        let told = device(d);
        let all = identities(d, record.links_complete == Some(true));
        let lasting = all.into_iter().filter(|i| matches!(i.stable, Stable::Content | Stable::Partition));
        let item = |name: String| {
            let name = String::from_utf8_lossy(&encode(name.as_bytes())).into_owned();
            item(&name, CompletionItemKind::VALUE, Some(told.clone()))
        };
        lasting.map(|i| item(i.name)).collect::<Vec<_>>()
    };
    record.devices().iter().flat_map(of).collect()
}

fn options(fstype: &str, list: &str, record: &Record) -> Vec<CompletionItem> {
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let own = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    let rows = || own.iter().chain(common()).filter(|row| kernel.is_none() || row.taken_by(kernel));
    let last = list.rsplit(',').next().unwrap_or_default();
    if let Some((name, _)) = last.split_once('=') {
        let values = rows().find(|row| row.name == name).map(words).unwrap_or_default();
        return values.iter().map(|value| item(value, CompletionItemKind::VALUE, None)).collect();
    }
    let given: Vec<&str> = list.split(',').map(|o| o.split('=').next().unwrap_or_default()).collect();
    let free = rows().filter(|row| row.name == last || !given.contains(&row.name));
    free.map(|row| {
        let takes =
            !matches!(row.form, Form::Flag | Form::FlagOrAny | Form::FlagOrNumber(..) | Form::FlagOrOneOf(_));
        let label = if takes { format!("{}=", row.name) } else { row.name.to_owned() };
        item(&label, CompletionItemKind::PROPERTY, Some(row.meaning.to_owned()))
    })
    .collect()
}

fn words(row: &Opt) -> &'static [&'static str] {
    match row.form {
        Form::OneOf(words) | Form::FlagOrOneOf(words) => words,
        _ => &[],
    }
}
