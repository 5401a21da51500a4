//! Changes to the text of a table. Lines that are not asked for keep their
//! bytes; a changed field keeps the spacing around it.

mod align;
mod change;
mod fields;
mod insert;
mod lines;
mod names;

pub use align::align;
pub use change::{Change, EditError, changed};
pub use fields::{set_field, with_options};
pub use insert::{Fresh, insert, place_for};
pub use lines::{OFF_MARK, moved, ordered, switched_off, switched_on, without_repeats};
pub use names::{By, name_by};

use crate::rules::Edit;
use crate::table::{Entry, Line, Span, Table};

/// The table with these edits made; `None` when one names a place that does
/// not exist, or two overlap.
pub fn apply(table: &Table, edits: &[Edit]) -> Option<Table> {
    let mut places = Vec::new();
    for edit in edits {
        places.push((place(table, edit)?, edit.text.as_bytes()));
    }
    places.sort_by_key(|(span, _)| span.start);
    let mut out = Vec::with_capacity(table.bytes().len());
    let mut at = 0;
    for (span, text) in places {
        out.extend_from_slice(table.bytes().get(at..span.start)?);
        out.extend_from_slice(text);
        at = span.end;
    }
    out.extend_from_slice(table.bytes().get(at..)?);
    Some(Table::parse(out))
}

/// The bytes of an edit's columns.
fn place(table: &Table, edit: &Edit) -> Option<Span> {
    let line = table.line(edit.line)?;
    let [first, last] = edit.columns;
    let start = offset(table, line, first.checked_sub(1)?)?;
    let end = offset(table, line, last.max(first - 1))?;
    Some(Span { start, end })
}

/// Where the character of this number begins, from 0; bytes that are no text
/// count as one each, as far as they belong together.
fn offset(table: &Table, line: &Line, characters: usize) -> Option<usize> {
    let mut left = characters;
    let mut at = line.text.start;
    for chunk in table.slice(line.text).utf8_chunks() {
        for c in chunk.valid().chars() {
            if left == 0 {
                return Some(at);
            }
            (left, at) = (left - 1, at + c.len_utf8());
        }
        if !chunk.invalid().is_empty() {
            if left == 0 {
                return Some(at);
            }
            (left, at) = (left - 1, at + chunk.invalid().len());
        }
    }
    (left == 0).then_some(at)
}

/// The entry on a line.
pub fn entry_on(table: &Table, line: usize) -> Option<Entry> {
    Entry::read(table, table.line(line)?)
}

/// The table with other bytes in place of a span.
fn replaced(table: &Table, span: Span, text: &[u8]) -> Table {
    let bytes = table.bytes();
    Table::parse([&bytes[..span.start], text, &bytes[span.end..]].concat())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn edits_count_characters() {
        let table = Table::parse(b"LABEL=\xc3\xa4\xff /srv/a xfs\n".to_vec());
        let edit = |columns, text: &str| Edit { line: 1, columns, text: text.to_owned() };
        let changed = apply(&table, &[edit([10, 15], "/srv/b"), edit([7, 8], "tide")]).unwrap();
        assert_eq!(changed.bytes(), b"LABEL=tide /srv/b xfs\n");
        assert!(apply(&table, &[edit([1, 99], "")]).is_none());
        assert!(apply(&table, &[edit([1, 9], ""), edit([3, 5], "")]).is_none());
    }
}
