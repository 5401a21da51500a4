//! What can stand at the cursor: names of this host's devices, types, options
//! of the type and their values.

use super::document::Document;
use super::hover::device;
use super::word::Word;
use bradawl_catalogue::fstypes::{all_names, known};
use bradawl_catalogue::options::{Form, Opt, common, of_type};
use bradawl_facts::Version;
use bradawl_facts::record::{ContentKind, PathKind, Record};
use bradawl_facts::table::{decode, encode};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source, Stable, identities};
use lsp_types::{CompletionItem, CompletionItemKind, Position};
use std::collections::HashSet;

pub fn complete(document: &Document, record: &Record, position: Position) -> Vec<CompletionItem> {
    let Some(word) = Word::at(document, position) else { return Vec::new() };
    let field = word.field();
    match word.fields.as_slice() {
        [_] => word.offer(&[], names(record)),
        [source, _] => word.offer(&[], targets(document, record, source)),
        [_, _, _] => {
            let types = all_names().map(|name| item(name, CompletionItemKind::CLASS, None));
            word.offer(&[','], types.collect())
        }
        [_, _, fstype, _] => {
            let separators: &[char] = if last_option(field).contains('=') { &[',', '='] } else { &[','] };
            word.offer(separators, options(fstype, field, record))
        }
        [_, _, _, _, _] => {
            word.offer(&[], vec![item("0", CompletionItemKind::VALUE, Some("not dumped".to_owned()))])
        }
        [_, _, _, _, _, _] => word.offer(&[], passes()),
        _ => Vec::new(),
    }
}

fn passes() -> Vec<CompletionItem> {
    let what = ["not checked by fsck at boot", "checked first: root", "checked after root"];
    let of = |(pass, what): (&str, &str)| item(pass, CompletionItemKind::VALUE, Some(what.to_owned()));
    ["0", "1", "2"].into_iter().zip(what).map(of).collect()
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
        let item = |name: String| item(&written(&name), CompletionItemKind::VALUE, Some(told.clone()));
        lasting.map(|i| item(i.name)).collect::<Vec<_>>()
    };
    record.devices().iter().flat_map(of).collect()
}

/// A name or path as a table writes it.
fn written(text: &str) -> String {
    String::from_utf8_lossy(&encode(text.as_bytes())).into_owned()
}

/// Where the source is mounted now, what else is mounted, and directories that are
/// known; without what another line of the table has already.
fn targets(document: &Document, record: &Record, source: &str) -> Vec<CompletionItem> {
    let source = String::from_utf8_lossy(&decode(source.as_bytes())).into_owned();
    let found = match Index::new(record).resolve(&Source::parse(&source)) {
        Resolution::Found(devices) => devices,
        _ => Vec::new(),
    };
    let is_it = |mounted: &str| {
        found.iter().any(|d| d.path == mounted || d.links.iter().flatten().any(|l| l == mounted))
    };
    let mounts = record
        .mounts
        .iter()
        .flatten()
        .filter(|m| known(&m.fstype).is_none_or(|t| t.is_on_device() || t.is_network()));
    let mounted = mounts.map(|m| {
        let what = if is_it(&m.source) { "it is mounted there now" } else { "mounted there now: " };
        let other = if is_it(&m.source) { String::new() } else { visible(&m.source).into_owned() };
        // A bind shows a directory of it; that is another line's.
        let whole = m.root.as_deref().is_none_or(|root| root == "/");
        (u8::from(!(is_it(&m.source) && whole)), m.target.clone(), format!("{what}{other}"))
    });
    let directories = record.paths.iter().filter(|p| p.kind == PathKind::Directory);
    let directories = directories.map(|p| (2, p.path.clone(), "a directory".to_owned()));
    let swap = found.iter().any(|d| d.content.as_ref().is_some_and(|c| c.kind == ContentKind::Swap));
    let none = (if swap { 0 } else { 3 }, "none".to_owned(), "swap has no mount point".to_owned());

    let entries = document.table.entries();
    let mut all: Vec<_> = mounted.chain(directories).chain([none]).collect();
    all.retain(|(_, target, _)| target == "none" || entries.iter().all(|e| e.target != *target));
    all.sort();
    let mut seen = HashSet::new();
    all.retain(|(_, target, _)| seen.insert(target.clone()));
    let item = |(rank, target, told): (u8, String, String)| {
        let item = item(&written(&target), CompletionItemKind::FOLDER, Some(told));
        CompletionItem { sort_text: Some(format!("{rank}{}", item.label)), ..item }
    };
    all.into_iter().map(item).collect()
}

fn options(fstype: &str, list: &str, record: &Record) -> Vec<CompletionItem> {
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let own = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    let rows = || own.iter().chain(common()).filter(|row| kernel.is_none() || row.taken_by(kernel));
    let last = last_option(list);
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

fn last_option(list: &str) -> &str {
    list.rsplit(',').next().unwrap_or_default()
}

fn words(row: &Opt) -> &'static [&'static str] {
    match row.form {
        Form::OneOf(words) | Form::FlagOrOneOf(words) => words,
        _ => &[],
    }
}
