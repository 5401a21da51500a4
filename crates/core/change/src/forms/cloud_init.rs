//! The `mounts` of a cloud-config document, as cloud-init reads it.

use bradawl_facts::record::Record;
use bradawl_facts::table::{Entry, FieldName, Table};

/// A cloud-config with the entries of these lines, field by field as they stand
/// in the table: cloud-init writes them there.
pub fn cloud_config(record: &Record, table: &Table, lines: &[usize]) -> String {
    let mut out = String::from("#cloud-config\nmounts:\n");
    for entry in table.entries().iter().filter(|e| lines.contains(&e.line)) {
        let fields: Vec<String> = fields(table, entry).iter().map(|f| quoted(f)).collect();
        out.push_str(&format!("  - [{}]\n", fields.join(", ")));
    }
    let swap_file = |e: &&Entry| e.is_swap() && e.source.starts_with('/') && !e.source.starts_with("/dev/");
    let size = |path: &str| record.paths.iter().find(|p| p.path == path).and_then(|p| p.size);
    if let Some(entry) = table.entries().iter().filter(|e| lines.contains(&e.line)).find(swap_file) {
        let bytes = size(&entry.source).map_or("auto".to_owned(), |bytes| bytes.to_string());
        out.push_str(&format!("swap:\n  filename: {}\n  size: {bytes}\n", quoted(&entry.source)));
    }
    out
}

/// The six fields as they stand, with what a short line leaves out.
fn fields(table: &Table, entry: &Entry) -> [String; 6] {
    let all = [
        (FieldName::Source, ""),
        (FieldName::Target, "none"),
        (FieldName::Type, "auto"),
        (FieldName::Options, "defaults"),
        (FieldName::Dump, "0"),
        (FieldName::Pass, "0"),
    ];
    all.map(|(field, absent)| {
        entry
            .span(field)
            .map_or(absent.to_owned(), |span| String::from_utf8_lossy(table.slice(span)).into_owned())
    })
}

/// A JSON string, which is one of YAML too.
fn quoted(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => out.extend(['\\', c]),
            c if c.is_control() => out.push_str(&format!("\\u{:04x}", u32::from(c))),
            c => out.push(c),
        }
    }
    out.push('"');
    out
}
