//! Changes to whole lines: off and on, their order, repeats.

use super::{entry_on, replaced};
use bradawl_facts::path::is_within;
use bradawl_facts::table::OFF_MARK;
use bradawl_facts::table::{Entry, LineKind, Span, Table};

/// The table with a line's entry made into a comment; the others keep their
/// numbers.
pub fn switched_off(table: &Table, line: usize) -> Option<Table> {
    let start = entry_on(table, line).and(table.line(line))?.text.start;
    Some(replaced(table, Span { start, end: start }, OFF_MARK.as_bytes()))
}

/// The table with an entry switched on that stands in a comment: behind our
/// mark, or behind `#` as people do it. `None` when no entry stands there.
pub fn switched_on(table: &Table, line: usize) -> Option<Table> {
    let span = table.line(line).filter(|l| l.kind == LineKind::Comment)?.text;
    let text = table.slice(span);
    let rest = match text.strip_prefix(OFF_MARK.as_bytes()) {
        Some(rest) => rest,
        None => text.trim_ascii_start().trim_start_matches_hash().trim_ascii_start(),
    };
    let entry = Table::parse(rest).entries().pop()?;
    let whole = entry.fields.len() >= 3 && (entry.target.starts_with('/') || entry.is_swap());
    whole.then(|| replaced(table, span, rest))
}

trait TrimHash {
    fn trim_start_matches_hash(&self) -> &Self;
}

impl TrimHash for [u8] {
    fn trim_start_matches_hash(&self) -> &[u8] {
        &self[self.iter().take_while(|b| **b == b'#').count()..]
    }
}

/// The table with a line moved before another (or behind it), with the
/// comments that stand right above it.
pub fn moved(table: &Table, line: usize, to: usize, behind: bool) -> Option<Table> {
    entry_on(table, line)?;
    entry_on(table, to)?;
    let first = block_start(table, line);
    let at = if behind { to + 1 } else { block_start(table, to) };
    if line == to || (first..=line).contains(&at) {
        return Some(Table::parse(table.bytes()));
    }
    let all: Vec<usize> = (1..=table.lines().len()).collect();
    let block: Vec<usize> = (first..=line).collect();
    let mut order: Vec<usize> = all.iter().copied().filter(|n| !block.contains(n) && *n < at).collect();
    order.extend(&block);
    order.extend(all.iter().copied().filter(|n| !block.contains(n) && *n >= at));
    Some(in_order(table, &order))
}

/// First line of the comments that belong to an entry: those right above it,
/// unless they begin the table or hold an entry that is switched off.
pub(super) fn block_start(table: &Table, line: usize) -> usize {
    let comment = |n: &usize| {
        table.line(*n).is_some_and(|l| l.kind == LineKind::Comment) && switched_on(table, *n).is_none()
    };
    let first = (1..line).rev().take_while(comment).last().unwrap_or(line);
    if first == 1 { line } else { first }
}

/// The lines in another order. Line endings stay where they are, so that the
/// last line keeps having none if it had none.
fn in_order(table: &Table, order: &[usize]) -> Table {
    let mut out = Vec::with_capacity(table.bytes().len());
    for (place, number) in order.iter().enumerate() {
        if let (Some(line), Some(here)) = (table.line(*number), table.lines().get(place)) {
            let (text, ending) = (table.slice(line.text), table.slice(here.ending));
            out.extend_from_slice(text);
            // A blank line without an ending would be none.
            out.extend_from_slice(if text.is_empty() && ending.is_empty() { b"\n" } else { ending });
        }
    }
    Table::parse(out)
}

/// The table with entries behind those whose directories they are mounted on,
/// which readers that go line by line need; all others stay.
pub fn ordered(table: &Table) -> Table {
    let mut table = Table::parse(table.bytes());
    for _ in 0..table.lines().len() {
        let entries = table.entries();
        let Some((line, behind)) = entries.iter().enumerate().find_map(|(n, e)| {
            let later = entries[n + 1..].iter().rfind(|parent| stands_on(e, parent));
            later.map(|parent| (e.line, parent.line))
        }) else {
            break;
        };
        match moved(&table, line, behind, true) {
            Some(better) if better != table => table = better,
            _ => break,
        }
    }
    table
}

/// Whether an entry needs another's mount: as the directory of its target, or as
/// that of its source.
pub(super) fn stands_on(entry: &Entry, parent: &Entry) -> bool {
    let needs = |path: &str| path != parent.target && is_within(path, &parent.target);
    let source = entry.is_bind() || entry.is_swap();
    parent.target.starts_with('/') && (needs(&entry.target) || (source && needs(&entry.source)))
}

/// The table with every later repeat of a source and target switched off, and
/// the lines that were.
pub fn without_repeats(table: &Table) -> (Table, Vec<usize>) {
    let entries = table.entries();
    let same = |a: &Entry, b: &Entry| a.source == b.source && a.target == b.target;
    let repeats: Vec<usize> = entries
        .iter()
        .enumerate()
        .filter(|(n, e)| entries[..*n].iter().any(|before| same(before, e)))
        .map(|(_, e)| e.line)
        .collect();
    let start = Table::parse(table.bytes());
    let off = repeats.iter().fold(start, |table, line| switched_off(&table, *line).unwrap_or(table));
    (off, repeats)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn text(table: &Table) -> &str {
        std::str::from_utf8(table.bytes()).unwrap()
    }

    #[test]
    fn off_and_on_gives_the_same_bytes() {
        for line in ["  LABEL=a\t/srv/a  ext4", "# x\nLABEL=a /srv/a ext4 defaults 0 2\r\n"] {
            let table = Table::parse(line);
            let number = table.entries()[0].line;
            let off = switched_off(&table, number).unwrap();
            assert!(off.entries().is_empty());
            assert_eq!(text(&switched_on(&off, number).unwrap()), line);
        }
    }

    #[test]
    fn comments_by_hand_are_switched_on_when_they_hold_an_entry() {
        for (comment, entry) in [
            ("#LABEL=a /srv/a ext4\n", Some("LABEL=a /srv/a ext4\n")),
            ("  ## LABEL=a none swap\n", Some("LABEL=a none swap\n")),
            ("# the copy is at the workshop\n", None),
            ("LABEL=a /srv/a ext4\n", None),
        ] {
            let on = switched_on(&Table::parse(comment), 1);
            assert_eq!(on.as_ref().map(text), entry, "{comment}");
        }
    }

    #[test]
    fn lines_move_with_their_comments() {
        let table = Table::parse("# table\na /a xfs\n# b's\nb /b xfs\nc /c xfs");
        let up = moved(&table, 4, 2, false).unwrap();
        assert_eq!(text(&up), "# table\n# b's\nb /b xfs\na /a xfs\nc /c xfs");
        let down = moved(&table, 2, 5, true).unwrap();
        assert_eq!(text(&down), "# table\n# b's\nb /b xfs\nc /c xfs\na /a xfs");
        assert_eq!(moved(&table, 2, 2, true).unwrap(), table);
        assert!(moved(&table, 1, 2, true).is_none());
    }

    #[test]
    fn parents_come_first() {
        let table = Table::parse("b /srv/a/b xfs\n/srv/a/s /s none bind\na /srv/a xfs\nd /d xfs\n");
        let better = ordered(&table);
        assert_eq!(text(&better), "a /srv/a xfs\n/srv/a/s /s none bind\nb /srv/a/b xfs\nd /d xfs\n");
        assert_eq!(ordered(&better), better);
    }

    #[test]
    fn repeats_are_switched_off() {
        let table = Table::parse("a /a xfs\nb /a xfs\na /a xfs ro\n");
        let (off, lines) = without_repeats(&table);
        assert_eq!((text(&off), lines), ("a /a xfs\nb /a xfs\n# off: a /a xfs ro\n", vec![3]));
    }
}
