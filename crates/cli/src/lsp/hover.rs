//! What the word under the cursor is, and what its line does at boot.

use super::document::Document;
use bradawl_boot::EntryForecast;
use bradawl_catalogue::options::{Opt, common, of_type};
use bradawl_facts::record::{Device, Record};
use bradawl_facts::size::binary;
use bradawl_facts::table::{Entry, FieldName};
use bradawl_facts::text::visible;
use bradawl_judgement::judge;
use bradawl_resolve::{Index, Resolution, Source};
use lsp_types::{Hover, HoverContents, Location, MarkupContent, MarkupKind, Position, Uri};

pub fn hover(document: &Document, record: &Record, position: Position) -> Option<Hover> {
    let (entry, field) = document.entry_at(position)?;
    let mut parts: Vec<String> = Vec::new();
    match field? {
        FieldName::Source => parts.push(source(record, &entry)),
        FieldName::Options => parts.extend(option(document, &entry, position)),
        _ => {}
    }
    let judgement = judge(record, &document.table);
    parts.extend(judgement.forecast.entries.iter().find(|e| e.line == entry.line).map(at_boot));
    let value = parts.join("\n\n");
    let contents = HoverContents::Markup(MarkupContent { kind: MarkupKind::PlainText, value });
    Some(Hover { contents, range: None })
}

fn source(record: &Record, entry: &Entry) -> String {
    let name = visible(&entry.source).into_owned();
    match Index::new(record).resolve(&Source::of(entry)) {
        Resolution::Found(devices) => {
            let told: Vec<String> = devices.iter().map(|d| device(d)).collect();
            format!("{name} is {}", told.join(", and also "))
        }
        Resolution::Absent => format!("no device matches {name}"),
        Resolution::Unknown(why) => format!("{name}: {why}"),
        Resolution::NotADevice => format!("{name} is no device"),
    }
}

/// A device in a few words: path, size, what it holds.
pub fn device(device: &Device) -> String {
    let size = device.size.map(|s| format!(", {}", binary(s))).unwrap_or_default();
    let holds = device.content.as_ref().map(|c| format!(", {}", c.words())).unwrap_or_default();
    let label =
        device.content.as_ref().and_then(|c| c.label.as_ref()).map(|l| format!(" \"{}\"", visible(l)));
    format!("{}{size}{holds}{}", visible(&device.path), label.unwrap_or_default())
}

/// The option a position lies in: what it does, and what to think of.
fn option(document: &Document, entry: &Entry, position: Position) -> Option<String> {
    let (line, chars) = document.place(position);
    let span = entry.span(FieldName::Options)?;
    let [first, _] = document.table.columns(document.table.line(line)?, span);
    let list: Vec<char> = document.line(line).chars().skip(first - 1).collect();
    let at = chars.checked_sub(first - 1)?.min(list.len());
    let is_end = |c: &char| c.is_whitespace() || *c == ',';
    let start = list[..at].iter().rposition(is_end).map_or(0, |n| n + 1);
    let word: String = list[start..].iter().take_while(|c| !is_end(c)).collect();
    let name = word.split('=').next().unwrap_or_default();
    let row = row(&entry.fstype, name)?;
    let mut text = format!("{}: {}", row.name, row.meaning);
    if !row.default.is_empty() {
        text.push_str(&format!(" (default: {})", row.default));
    }
    if !row.caution.is_empty() {
        text.push_str(&format!("\n{}", row.caution));
    }
    Some(text)
}

fn row(fstype: &str, name: &str) -> Option<&'static Opt> {
    let own = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    own.iter().chain(common()).find(|row| row.name == name)
}

fn at_boot(entry: &EntryForecast) -> String {
    let chain =
        if entry.chain.is_empty() { String::new() } else { format!(": {}", entry.chain.join(" → ")) };
    format!("At boot: {}{}", entry.state.words(), visible(&chain))
}

/// The lines that name the device of this one, itself among them.
pub fn references(uri: &Uri, document: &Document, record: &Record, position: Position) -> Vec<Location> {
    let index = Index::new(record);
    let path = |entry: &Entry| match index.resolve(&Source::of(entry)) {
        Resolution::Found(devices) => devices.first().map(|d| d.path.clone()),
        _ => Some(entry.source.clone()),
    };
    let Some(wanted) = document.entry_at(position).and_then(|(entry, _)| path(&entry)) else {
        return Vec::new();
    };
    let entries = document.table.entries();
    let same = entries.iter().filter(|e| path(e).as_ref() == Some(&wanted));
    same.map(|e| Location::new(uri.clone(), document.range(e.line, None))).collect()
}
