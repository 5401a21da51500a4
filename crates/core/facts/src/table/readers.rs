//! What the mount program makes of a line.
//!
//! Tables have two readers. The init system asks the C library, and
//! [`Entry`](super::Entry) is what that returns. The mount program, fsck and
//! swapon ask libmount, which is stricter about fields and numbers and knows
//! more escapes. Both are recorded in `tests/fixtures/readers.jsonl`.

use super::line::{Line, LineKind, Span};
use super::{Table, decode_octal};

/// A line as the mount program reads it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ByMount {
    /// An entry, with its text decoded.
    Entry(MountLine),
    /// A comment or nothing.
    Nothing,
    /// It says "parse error" and passes the line over.
    PassedOver(Stumble),
}

/// The fields of an entry as the mount program reads them.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct MountLine {
    /// What is mounted.
    pub source: Vec<u8>,
    /// Where.
    pub target: Vec<u8>,
    /// The type.
    pub fstype: Vec<u8>,
    /// The options; empty when the line has none.
    pub options: Vec<u8>,
    /// Fifth field.
    pub dump: i64,
    /// Sixth field.
    pub pass: i64,
}

/// What the mount program stumbles over.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stumble {
    /// There is no type.
    NoType,
    /// The fifth or sixth field is no number.
    Number,
    /// A NUL byte.
    Nul,
}

impl Stumble {
    /// It in words.
    pub fn words(self) -> &'static str {
        match self {
            Stumble::NoType => "the line has no type",
            Stumble::Number => "its fifth or sixth field is not a number",
            Stumble::Nul => "it holds a NUL byte",
        }
    }
}

/// Reads a line as the mount program does.
pub fn by_mount(table: &Table, line: &Line) -> ByMount {
    let (source, target, fstype, options, dump, pass) = match fields(table, line) {
        Ok(Some(fields)) => fields,
        Ok(None) => return ByMount::Nothing,
        Err(stumble) => return ByMount::PassedOver(stumble),
    };
    let text = |raw: &[u8]| until_nul(decode_octal(raw));
    let (source, target, fstype, options) = (text(source), text(target), text(fstype), text(options));
    ByMount::Entry(MountLine { source, target, fstype, options, dump, pass })
}

/// What the mount program stumbles over in a line, if it does.
pub fn stumble(table: &Table, line: &Line) -> Option<Stumble> {
    fields(table, line).err()
}

/// The fields of an entry, not decoded.
type Fields<'t> = (&'t [u8], &'t [u8], &'t [u8], &'t [u8], i64, i64);

fn fields<'t>(table: &'t Table, line: &Line) -> Result<Option<Fields<'t>>, Stumble> {
    let ended = line.ending != Span { start: line.text.end, end: line.text.end };
    let mut text = table.slice(line.text);
    if let Some(nul) = text.iter().position(|b| *b == 0) {
        if ended {
            return Err(Stumble::Nul);
        }
        text = &text[..nul];
    }
    text = text.strip_suffix(b"\r").unwrap_or(text);
    let mut words = Words(text);
    let Some(source) = words.next() else { return Ok(None) };
    if line.kind == LineKind::Comment {
        return Ok(None);
    }
    let (Some(target), Some(fstype)) = (words.next(), words.next()) else { return Err(Stumble::NoType) };
    let options = words.next().unwrap_or_default();
    let (Some(dump), Some(pass)) = (words.number(), words.number()) else { return Err(Stumble::Number) };
    Ok(Some((source, target, fstype, options, dump, pass)))
}

/// `\000` ends a text, as it does in C.
fn until_nul(mut text: Vec<u8>) -> Vec<u8> {
    let end = text.iter().position(|b| *b == 0).unwrap_or(text.len());
    text.truncate(end);
    text
}

/// The words of a line.
struct Words<'a>(&'a [u8]);

impl<'a> Iterator for Words<'a> {
    type Item = &'a [u8];

    fn next(&mut self) -> Option<&'a [u8]> {
        let blank = |b: &u8| matches!(b, b' ' | b'\t');
        let start = self.0.iter().position(|b| !blank(b))?;
        let word = &self.0[start..];
        let end = word.iter().position(blank).unwrap_or(word.len());
        self.0 = &word[end..];
        Some(&word[..end])
    }
}

impl Words<'_> {
    /// The next word as a number, 0 when there is none; `None` when it is
    /// something else.
    fn number(&mut self) -> Option<i64> {
        let Some(word) = self.next() else { return Some(0) };
        let text = std::str::from_utf8(word).ok()?;
        text.trim_start_matches(['\u{b}', '\u{c}', '\r']).parse().ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(line: &str) -> ByMount {
        let table = Table::parse(line);
        by_mount(&table, &table.lines()[0])
    }

    #[test]
    fn stumbles_over_numbers_and_missing_types() {
        assert_eq!(read("LABEL=a /b\n"), ByMount::PassedOver(Stumble::NoType));
        assert_eq!(read("LABEL=a /b ext4 rw, ro 0 2\n"), ByMount::PassedOver(Stumble::Number));
        assert_eq!(read("LABEL=a /b ext4 rw 0 2\0\n"), ByMount::PassedOver(Stumble::Nul));
        assert_eq!(read(" # a\n"), ByMount::Nothing);
        assert_eq!(read("\r\n"), ByMount::Nothing);
        let ByMount::Entry(read) = read("LABEL=a /gr\\141in ext4\r\n") else { panic!("an entry") };
        assert_eq!((read.target.as_slice(), read.fstype.as_slice()), (&b"/grain"[..], &b"ext4"[..]));
    }
}
