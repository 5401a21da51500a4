//! Changes to the text of a table.

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

/// The table with options of a line added and taken out, by name or with
/// their value; an empty list becomes `defaults`.
pub fn with_options(table: &Table, line: usize, add: &[String], drop: &[String]) -> Option<Table> {
    let entry = entry_on(table, line)?;
    let written = entry.options.iter().map(|o| match &o.value {
        Some(value) => format!("{}={value}", o.name),
        None => o.name.clone(),
    });
    let dropped =
        |text: &String| drop.iter().any(|d| d == text || text.split('=').next() == Some(d.as_str()));
    let mut list: Vec<String> = written.filter(|text| !dropped(text) && !add.contains(text)).collect();
    list.extend(add.iter().cloned());
    let list = if list.is_empty() { "defaults".to_owned() } else { list.join(",") };
    let list = String::from_utf8_lossy(&crate::table::encode(list.as_bytes())).into_owned();
    let (span, text) = match (entry.fields.get(3), entry.fields.len()) {
        (Some(span), _) => (*span, list),
        (None, 3) => (end_of(&entry)?, format!(" {list}")),
        (None, _) => (end_of(&entry)?, format!(" auto {list}")),
    };
    Some(replaced(table, span, text.as_bytes()))
}

/// The table with a line made into a comment; the others keep their numbers.
pub fn without_line(table: &Table, line: usize) -> Option<Table> {
    let start = entry_on(table, line).and(table.line(line))?.text.start;
    Some(replaced(table, Span { start, end: start }, b"# "))
}

/// The entry on a line.
pub fn entry_on(table: &Table, line: usize) -> Option<Entry> {
    Entry::read(table, table.line(line)?)
}

fn end_of(entry: &Entry) -> Option<Span> {
    entry.fields.last().map(|span| Span { start: span.end, end: span.end })
}

fn replaced(table: &Table, span: Span, text: &[u8]) -> Table {
    let bytes = table.bytes();
    Table::parse([&bytes[..span.start], text, &bytes[span.end..]].concat())
}

#[cfg(test)]
mod tests {
    use super::*;

    const TEXT: &str = "# tide\nLABEL=a /srv/a ext4 noatime,commit=5 0 2\nLABEL=b /srv/b xfs\n";

    fn text(table: Option<Table>) -> String {
        String::from_utf8(table.unwrap().bytes().to_vec()).unwrap()
    }

    #[test]
    fn options_are_added_and_taken_out() {
        let table = Table::parse(TEXT);
        let one = |word: &str| vec![word.to_owned()];
        let added = text(with_options(&table, 2, &one("nofail"), &one("commit")));
        assert!(added.contains("ext4 noatime,nofail 0 2\n"));
        assert!(text(with_options(&table, 3, &one("nofail"), &[])).ends_with("/srv/b xfs nofail\n"));
        let none = with_options(&table, 2, &[], &["noatime".to_owned(), "commit=5".to_owned()]);
        assert!(text(none).contains("ext4 defaults 0 2"));
        assert!(with_options(&table, 1, &one("nofail"), &[]).is_none());
        assert_eq!(text(without_line(&table, 2)), TEXT.replace("LABEL=a", "# LABEL=a"));
    }

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
