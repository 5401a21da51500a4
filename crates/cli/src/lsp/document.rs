//! A text in an editor, and the places in it: lines and columns from 1 in
//! characters here, from 0 in code units there.

use bradawl_facts::table::{Entry, FieldName, Table};
use lsp_types::{Position, Range};

/// What an editor counts columns in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Units {
    /// Bytes.
    Utf8,
    /// Units of UTF-16, which every editor can.
    Utf16,
}

/// A table as it is in the editor.
pub struct Document {
    pub text: String,
    pub table: Table,
    units: Units,
}

impl Document {
    pub fn new(text: String, units: Units) -> Self {
        let table = Table::parse(text.as_bytes().to_vec());
        Document { text, table, units }
    }

    /// A line by its number from 1, without its end.
    pub fn line(&self, number: usize) -> &str {
        let line = number.checked_sub(1).and_then(|n| self.text.split('\n').nth(n)).unwrap_or_default();
        line.strip_suffix('\r').unwrap_or(line)
    }

    fn width(&self, c: char) -> usize {
        match self.units {
            Units::Utf8 => c.len_utf8(),
            Units::Utf16 => c.len_utf16(),
        }
    }

    fn position(&self, line: usize, chars: usize) -> Position {
        let units: usize = self.line(line).chars().take(chars).map(|c| self.width(c)).sum();
        let number = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
        Position::new(number(line.saturating_sub(1)), number(units))
    }

    /// The range of columns of a line, both counted; a whole line without them.
    pub fn range(&self, line: usize, columns: Option<[usize; 2]>) -> Range {
        let [first, last] = columns.unwrap_or_else(|| [1, self.line(line).chars().count()]);
        // An empty place is said as the column it stands before, twice, turned round.
        let end = if last < first { first.saturating_sub(1) } else { last };
        Range::new(self.position(line, first.saturating_sub(1)), self.position(line, end))
    }

    /// All of it.
    pub fn whole(&self) -> Range {
        let lines = self.text.split('\n').count();
        Range::new(Position::new(0, 0), self.position(lines, usize::MAX))
    }

    /// The line from 1, and how many characters stand before a position in it.
    pub fn place(&self, position: Position) -> (usize, usize) {
        let line = usize::try_from(position.line).unwrap_or(usize::MAX).saturating_add(1);
        let wanted = usize::try_from(position.character).unwrap_or(usize::MAX);
        let mut units = 0;
        let before = self.line(line).chars().take_while(|c| {
            units += self.width(*c);
            units <= wanted
        });
        (line, before.count())
    }

    /// The entry of a line, and which of its fields a position lies in.
    pub fn entry_at(&self, position: Position) -> Option<(Entry, Option<FieldName>)> {
        let (line, chars) = self.place(position);
        let entry = self.table.entries().into_iter().find(|e| e.line == line)?;
        let fields = [
            FieldName::Source,
            FieldName::Target,
            FieldName::Type,
            FieldName::Options,
            FieldName::Dump,
            FieldName::Pass,
        ];
        let within = |field: &FieldName| {
            let read = self.table.line(line).zip(entry.span(*field));
            let columns = read.map(|(line, span)| self.table.columns(line, span));
            columns.is_some_and(|[first, last]| (first - 1..=last).contains(&chars))
        };
        let field = fields.into_iter().find(within);
        Some((entry, field))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_in_both_units() {
        let text = "LABEL=größe🦀 /srv xfs\nnext\n";
        for (units, end) in [(Units::Utf8, 17), (Units::Utf16, 13)] {
            let document = Document::new(text.to_owned(), units);
            let range = document.range(1, Some([1, 12]));
            assert_eq!((range.start, range.end), (Position::new(0, 0), Position::new(0, end)));
            assert_eq!(document.place(Position::new(0, end)), (1, 12));
            let (_, field) = document.entry_at(Position::new(0, end + 2)).unwrap();
            assert_eq!(field, Some(FieldName::Target));
        }
    }
}
