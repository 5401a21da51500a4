use super::Table;
use super::entry::Fields;

/// A range of bytes in the table: `start..end`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Span {
    /// Offset of the first byte.
    pub start: usize,
    /// Offset after the last byte.
    pub end: usize,
}

/// What a line is to every reader of the table.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LineKind {
    /// Nothing, or blanks, tabs and a carriage return.
    Blank,
    /// First character that is not a blank is `#`.
    Comment,
    /// Anything else: at least one field.
    Entry,
    /// Follows a line with a NUL byte, and the boot never sees it (recorded).
    Lost,
}

/// Bytes of a line that the boot's reader takes; it cuts the rest (recorded).
pub const READ: usize = 4095;

/// One line and its place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// Number of the line, from 1.
    pub number: usize,
    /// The line without its ending.
    pub text: Span,
    /// The line feed, or an empty span at the end of a file without one.
    pub ending: Span,
    /// What the line is.
    pub kind: LineKind,
}

pub(super) fn split(bytes: &[u8]) -> Vec<Line> {
    let mut lines = Vec::new();
    let mut start = 0;
    let mut swallowed = false;
    while start < bytes.len() {
        let newline = bytes[start..].iter().position(|&b| b == b'\n');
        let end = newline.map_or(bytes.len(), |n| start + n);
        let next = newline.map_or(end, |_| end + 1);
        lines.push(Line {
            number: lines.len() + 1,
            text: Span { start, end },
            ending: Span { start: end, end: next },
            kind: if swallowed { LineKind::Lost } else { kind(read(&bytes[start..end])) },
        });
        swallowed = !swallowed && bytes[start..end].contains(&0);
        start = next;
    }
    lines
}

/// The part of a line that the boot's reader takes: up to a NUL byte, and no
/// more than its buffer holds.
fn read(text: &[u8]) -> &[u8] {
    let text = &text[..text.len().min(READ)];
    let end = text.iter().position(|b| *b == 0).unwrap_or(text.len());
    &text[..end]
}

fn kind(text: &[u8]) -> LineKind {
    match text.iter().find(|b| !matches!(b, b' ' | b'\t' | b'\r')) {
        None => LineKind::Blank,
        Some(b'#') => LineKind::Comment,
        Some(_) => LineKind::Entry,
    }
}

/// The fields of a line: runs of anything but blanks and tabs, as the C
/// library's reader splits them.
pub(super) fn fields(table: &Table, line: &Line) -> Fields {
    let mut fields = Fields::new();
    let mut start = None;
    let text = read(table.slice(line.text));
    for (i, &byte) in text.iter().enumerate() {
        let at = line.text.start + i;
        match (byte == b' ' || byte == b'\t', start) {
            (true, Some(from)) => {
                fields.push(Span { start: from, end: at });
                start = None;
            }
            (false, None) => start = Some(at),
            _ => {}
        }
    }
    if let Some(from) = start {
        fields.push(Span { start: from, end: line.text.start + text.len() });
    }
    fields
}
