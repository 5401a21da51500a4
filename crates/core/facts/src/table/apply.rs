//! Edits made in a table. On a changed line the other fields stay in their
//! columns, where blanks behind the changed one leave room for that.

use super::{Edit, Line, Span, Table};

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
    for (n, (span, text)) in places.iter().enumerate() {
        out.extend_from_slice(table.bytes().get(at..span.start)?);
        out.extend_from_slice(text);
        let next = places.get(n + 1).map_or(usize::MAX, |(next, _)| next.start);
        let gap = gap(table, *span, text).filter(|gap| span.end + gap.old <= next);
        at = span.end + gap.as_ref().map_or(0, |gap| gap.old);
        out.extend_from_slice(&gap.map(|gap| vec![b' '; gap.new]).unwrap_or_default());
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

/// The table with other bytes in place of a span.
pub fn replaced(table: &Table, span: Span, text: &[u8]) -> Table {
    let bytes = table.bytes();
    let gap = gap(table, span, text).unwrap_or(Gap { old: 0, new: 0 });
    let blanks = vec![b' '; gap.new];
    Table::parse([&bytes[..span.start], text, &blanks, &bytes[span.end + gap.old..]].concat())
}

/// Blanks behind a field.
struct Gap {
    old: usize,
    new: usize,
}

/// The blanks behind a field that gets another text, so that the next field
/// stays in its column. One blank alone, or a tab, is no column.
fn gap(table: &Table, span: Span, text: &[u8]) -> Option<Gap> {
    let rest = table.bytes().get(span.end..)?;
    let old = rest.iter().take_while(|b| **b == b' ').count();
    let ends = matches!(rest.get(old), None | Some(b'\t' | b'\n' | b'\r'));
    if old < 2 || ends || span.start == span.end {
        return None;
    }
    let columns = |bytes: &[u8]| String::from_utf8_lossy(bytes).chars().count();
    let room = columns(table.slice(span)) + old;
    Some(Gap { old, new: room.saturating_sub(columns(text)).max(2) })
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

    #[test]
    fn other_fields_stay_in_their_columns() {
        let table = Table::parse("LABEL=a   /a  xfs  noatime,ro     0 0 \n");
        let edit = |columns, text: &str| Edit { line: 1, columns, text: text.to_owned() };
        let text =
            |edits: &[Edit]| String::from_utf8(apply(&table, edits).unwrap().bytes().to_vec()).unwrap();
        assert_eq!(text(&[edit([20, 29], "ro")]), "LABEL=a   /a  xfs  ro             0 0 \n");
        let both = [edit([1, 7], "LABEL=long-name"), edit([20, 29], "noatime,ro,nofail")];
        assert_eq!(text(&both), "LABEL=long-name  /a  xfs  noatime,ro,nofail  0 0 \n");
        assert_eq!(text(&[edit([35, 35], "10")]), "LABEL=a   /a  xfs  noatime,ro     10 0 \n");
    }
}
