//! The two readers of tables against recordings of the real ones.
//!
//! `fixtures/readers.jsonl` holds made-up tables and what the C library and
//! libmount returned for them (`lab/record-readers.py`). Text is given as
//! latin-1: every byte is one character.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_facts::table::{ByMount, Entry, MountLine, Table, by_mount};
use serde::Deserialize;

#[derive(Deserialize)]
struct Row {
    table: String,
    boot: Vec<Fields>,
    mount: Vec<Fields>,
    refused: Vec<usize>,
}

type Fields = (String, String, String, Option<String>, i64, i64);

fn rows() -> Vec<Row> {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/readers.jsonl");
    let text = std::fs::read_to_string(path).unwrap();
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

fn bytes(text: &str) -> Vec<u8> {
    text.chars().map(|c| u8::try_from(u32::from(c)).unwrap()).collect()
}

/// Entries keep their text as UTF-8 with what is not replaced.
fn lossy(text: &str) -> String {
    String::from_utf8_lossy(&bytes(text)).into_owned()
}

#[test]
fn entries_are_what_the_c_library_returns() {
    for row in rows() {
        let table = Table::parse(bytes(&row.table));
        let options = |e: &Entry| {
            let span = e.fields.get(3).copied();
            span.map(|s| String::from_utf8_lossy(&bradawl_facts::table::decode(table.slice(s))).into_owned())
        };
        let ours: Vec<_> = table
            .entries()
            .iter()
            .map(|e| {
                let text = options(e).unwrap_or_default();
                (e.source.clone(), e.target.clone(), e.fstype.clone(), text, e.dump, e.pass)
            })
            .collect();
        let theirs: Vec<_> = row
            .boot
            .iter()
            // A line of nothing but a carriage return is an entry without
            // target to it, and is passed over.
            .filter(|f| f.0 != "\r")
            .map(|(a, b, c, d, e, f)| {
                (lossy(a), lossy(b), lossy(c), lossy(d.as_deref().unwrap_or_default()), *e, *f)
            })
            .collect();
        assert_eq!(ours, theirs, "{:?}", row.table);
    }
}

#[test]
fn mount_lines_are_what_libmount_returns() {
    for row in rows() {
        let table = Table::parse(bytes(&row.table));
        let read: Vec<ByMount> = table.lines().iter().map(|l| by_mount(&table, l)).collect();
        let ours: Vec<MountLine> = read
            .iter()
            .filter_map(|l| if let ByMount::Entry(read) = l { Some(read.clone()) } else { None })
            .collect();
        let theirs: Vec<MountLine> = row.mount.iter().map(mount_line).collect();
        assert_eq!(ours, theirs, "{:?}", row.table);
        let refused: Vec<usize> =
            (1..=read.len()).filter(|n| matches!(read[n - 1], ByMount::PassedOver(_))).collect();
        assert_eq!(refused, row.refused, "{:?}", row.table);
    }
}

fn mount_line((source, target, fstype, options, dump, pass): &Fields) -> MountLine {
    MountLine {
        source: bytes(source),
        target: bytes(target),
        fstype: bytes(fstype),
        options: bytes(options.as_deref().unwrap_or_default()),
        dump: *dump,
        pass: *pass,
    }
}
