//! The table (fstab): a lossless view of its bytes.
//!
//! Parsing never fails and never changes anything: the lines' spans cover the
//! input exactly, so [`Table::bytes`] is what came in, whatever it was.

mod apply;
mod edit;
mod entry;
mod escape;
mod line;
mod list;
mod readers;

pub use apply::{apply, replaced};
pub use edit::{Edit, OFF_MARK};
pub use entry::{Entry, FieldName, OptionItem};
pub use escape::{decode, decode_octal, encode};
pub use line::{Line, LineKind, READ, Span};
pub use list::with_added;
pub use readers::{ByMount, MountLine, Stumble, by_mount, stumble};

/// Tables larger than this are refused by the readers of files: no real table
/// comes near it, and it bounds the work a hostile one can cause.
pub const MAX_BYTES: usize = 1 << 20;
/// The same for the number of entries.
pub const MAX_ENTRIES: usize = 20_000;
/// The same for the length of a line in bytes.
pub const MAX_LINE: usize = 16 << 10;

/// Why a table is not judged: it is beyond anything real.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unreal {
    /// Too many bytes.
    #[error("it has {0} bytes, more than any real table ({MAX_BYTES})")]
    Bytes(usize),
    /// Too many entries.
    #[error("it has {0} entries, more than any real table ({MAX_ENTRIES})")]
    Entries(usize),
    /// A line that is too long.
    #[error("line {0} is longer than any real one ({MAX_LINE} bytes)")]
    Line(usize),
}

/// A parsed table: the bytes as given and where its lines and fields lie.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Table {
    bytes: Vec<u8>,
    lines: Vec<Line>,
}

impl Table {
    /// Splits the bytes into lines and fields.
    pub fn parse(bytes: impl Into<Vec<u8>>) -> Self {
        let bytes = bytes.into();
        let lines = line::split(&bytes);
        Table { bytes, lines }
    }

    /// The table's bytes, exactly as they were given.
    pub fn bytes(&self) -> &[u8] {
        &self.bytes
    }

    /// Whether the table is within what is judged: bounds the work that a
    /// hostile one can cause.
    ///
    /// # Errors
    /// [`Unreal`] says what is beyond all measure.
    pub fn check_size(&self) -> Result<(), Unreal> {
        if self.bytes.len() > MAX_BYTES {
            return Err(Unreal::Bytes(self.bytes.len()));
        }
        let long = |l: &&Line| l.text.end - l.text.start > MAX_LINE;
        if let Some(line) = self.lines.iter().find(long) {
            return Err(Unreal::Line(line.number));
        }
        match self.lines.iter().filter(|l| l.kind == LineKind::Entry).count() {
            n if n > MAX_ENTRIES => Err(Unreal::Entries(n)),
            _ => Ok(()),
        }
    }

    /// All lines: entries, comments and blank ones.
    pub fn lines(&self) -> &[Line] {
        &self.lines
    }

    /// The line with this number, counted from 1.
    pub fn line(&self, number: usize) -> Option<&Line> {
        self.lines.get(number.checked_sub(1)?)
    }

    /// The lines that are neither blank nor comments, with fields decoded.
    pub fn entries(&self) -> Vec<Entry> {
        let seen = self.lines.iter().filter(|line| line.kind == LineKind::Entry);
        seen.filter_map(|line| Entry::read(self, line)).collect()
    }

    /// The bytes of a span; empty when the span lies outside.
    pub fn slice(&self, span: Span) -> &[u8] {
        self.bytes.get(span.start..span.end).unwrap_or_default()
    }

    /// The text of a line without its line ending; invalid bytes are replaced.
    pub fn line_text(&self, number: usize) -> String {
        self.line(number)
            .map(|line| String::from_utf8_lossy(self.slice(line.text)).into_owned())
            .unwrap_or_default()
    }

    /// First and last column of a span in its line, in characters from 1.
    ///
    /// An empty span gives the column it stands before, twice.
    pub fn columns(&self, line: &Line, span: Span) -> [usize; 2] {
        let chars = |from: usize, to: usize| {
            String::from_utf8_lossy(self.slice(Span { start: from, end: to })).chars().count()
        };
        let before = chars(line.text.start, span.start);
        let within = chars(span.start, span.end);
        [before + 1, before + within.max(1)]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn lines_cover_any_input(bytes in proptest::collection::vec(any::<u8>(), 0..400)) {
            check_cover(&bytes);
        }

        #[test]
        fn lines_cover_table_like_input(text in "([ \\t\\r\\n#,=\"\\\\]|[a-z0-9/]|\u{feff}|\u{a0}){0,200}") {
            check_cover(text.as_bytes());
        }
    }

    fn check_cover(bytes: &[u8]) {
        let table = Table::parse(bytes);
        assert_eq!(table.bytes(), bytes);
        let rebuilt: Vec<u8> = table
            .lines()
            .iter()
            .flat_map(|l| [table.slice(l.text), table.slice(l.ending)].concat())
            .collect();
        assert_eq!(rebuilt, bytes);
        for entry in table.entries() {
            let line = table.line(entry.line).unwrap();
            let mut at = line.text.start;
            for field in &entry.fields {
                assert!(at <= field.start && field.start < field.end && field.end <= line.text.end);
                at = field.end;
            }
        }
    }

    #[test]
    fn columns_count_characters_from_one() {
        let table = Table::parse("LABEL=gezeitenmühle /srv/ü ext4\n");
        let entry = &table.entries()[0];
        let line = table.line(1).unwrap();
        assert_eq!(table.columns(line, entry.fields[0]), [1, 19]);
        assert_eq!(table.columns(line, entry.fields[1]), [21, 26]);
    }

    #[test]
    fn unreal_tables_are_told() {
        assert_eq!(Table::parse("a /b c\n".repeat(MAX_ENTRIES)).check_size(), Ok(()));
        assert_eq!(Table::parse("#\n".repeat(MAX_BYTES)).check_size(), Err(Unreal::Bytes(2 * MAX_BYTES)));
        assert_eq!(Table::parse("a\n".repeat(MAX_ENTRIES + 1)).check_size(), Err(Unreal::Entries(20_001)));
        assert_eq!(
            Table::parse(format!("\n{}", "x".repeat(MAX_LINE + 1))).check_size(),
            Err(Unreal::Line(2))
        );
    }

    #[test]
    fn keeps_comments_and_blank_lines() {
        let table = Table::parse("# tide\n\n \t\nproc /proc proc\n#end");
        let kinds: Vec<bool> = table.lines().iter().map(|l| l.kind == LineKind::Entry).collect();
        assert_eq!(kinds, [false, false, false, true, false]);
        assert_eq!(table.entries()[0].line, 4);
    }
}
