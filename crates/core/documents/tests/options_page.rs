//! docs/reference/options.md is what the catalogue holds.
//!
//! `BRADAWL_BLESS=1 cargo test -p bradawl-documents --test options_page` writes it.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // the page is a file

use bradawl_documents::{OptionRow, ReferenceReport};
use std::collections::BTreeMap;
use std::fmt::Write as _;

/// In a table a bar would end the cell.
fn cell(text: &str) -> String {
    text.replace('|', "\\|")
}

/// From which kernel to which, where that is not all that are known.
fn kernels(row: &OptionRow) -> String {
    let since = row.since.as_ref().map(|v| format!("from {v}"));
    let until = row.until.as_ref().map(|v| format!("until {v}"));
    let idle = row.idle_since.as_ref().map(|v| match v.as_str() {
        "0.0" => "without effect".to_owned(),
        v => format!("without effect from {v}"),
    });
    let reader = row.reader_since.as_ref().map(|v| format!("{} {v}", row.reader.words()));
    [since, until, idle, reader].into_iter().flatten().collect::<Vec<_>>().join(", ")
}

fn page() -> String {
    let all = ReferenceReport::of(None, None, None, |_| true);
    let mut by_type: BTreeMap<&str, Vec<&OptionRow>> = BTreeMap::new();
    for row in &all.options {
        by_type.entry(row.fstype).or_default().push(row);
    }
    let mut out = String::from(
        "# Mount options\n\nWhat the catalogue holds, type by type: what an option does, what its value looks like, and on \
         which kernels it is taken where that is not all of them. `bradawl options TYPE` shows it for a host's own kernel, \
         `bradawl options TYPE NAME` all about one option. Made from the catalogue by a test.\n",
    );
    for (fstype, rows) in by_type {
        let title = if fstype == "common" { "every type" } else { fstype };
        let source = rows.first().map(|r| r.source).unwrap_or_default();
        write!(
            out,
            "\n## {title}\n\nFrom {source}.\n\n| option | value | does | kernels |\n|---|---|---|---|\n"
        )
        .unwrap();
        for row in rows {
            let form = row.form.as_deref().unwrap_or_default();
            let meaning = [row.meaning, row.caution.unwrap_or_default()];
            let meaning: Vec<&str> = meaning.into_iter().filter(|m| !m.is_empty()).collect();
            let cells = [cell(form), cell(&meaning.join(". ")), kernels(row)];
            writeln!(out, "| `{}` | {} |", row.name, cells.join(" | ")).unwrap();
        }
    }
    out
}

#[test]
fn the_page_is_current() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/reference/options.md");
    let now = page();
    if std::env::var_os("BRADAWL_BLESS").is_some() {
        std::fs::write(path, &now).unwrap();
    }
    let kept = std::fs::read_to_string(path).unwrap_or_default();
    assert!(kept == now, "docs/reference/options.md is out of date; run with BRADAWL_BLESS=1 to renew it");
}
