use super::MountLine;
use super::line::{Line, LineKind, Span, fields};
use super::{Table, decode};
use crate::size::Said;
use serde::Serialize;
use smallvec::SmallVec;
use std::borrow::Cow;

/// The six fields of an entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum FieldName {
    /// What is mounted (fs_spec).
    Source,
    /// Where it is mounted (fs_file).
    Target,
    /// The file system type (fs_vfstype).
    Type,
    /// The mount options (fs_mntops).
    Options,
    /// Whether dump(8) saves it (fs_freq).
    Dump,
    /// When it is checked at boot (fs_passno).
    Pass,
}

/// Where the fields of a line stand.
pub type Fields = SmallVec<[Span; 6]>;

/// One option of an entry's list, `name` or `name=value`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OptionItem {
    /// The part before the first `=`.
    pub name: String,
    /// The part after it, if there is one.
    pub value: Option<String>,
    /// Where the option stands in the table.
    pub span: Span,
}

/// A line that asks for something to be mounted, with its fields decoded.
///
/// Fields that the line does not have are empty; bytes that are not UTF-8 are
/// replaced in the decoded text and kept in the table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// Number of the line, from 1.
    pub line: usize,
    /// The spans of all fields on the line; there may be fewer or more than six.
    pub fields: Fields,
    /// What is mounted.
    pub source: String,
    /// Where; `none` or `swap` for swap.
    pub target: String,
    /// The type as written; empty when the line ends before it.
    pub fstype: String,
    /// The options in order; empty ones (doubled commas) are left out.
    pub options: Vec<OptionItem>,
    /// Fifth field as the C library reads it: 0 unless it starts as a number.
    pub dump: i64,
    /// Sixth field as the C library reads it: 0 when the fifth is no number.
    pub pass: i64,
}

impl Entry {
    /// Reads a line's fields; `None` for comments and blank lines. A line that
    /// the boot never sees is read as if it did.
    pub fn read(table: &Table, line: &Line) -> Option<Entry> {
        if matches!(line.kind, LineKind::Comment | LineKind::Blank) {
            return None;
        }
        let fields = fields(table, line);
        let first = fields.first().map(|span| table.slice(*span))?;
        if line.kind == LineKind::Lost && (first.starts_with(b"#") || first == b"\r") {
            return None;
        }
        let text = |n: usize| fields.get(n).map(|&span| decoded(table.slice(span))).unwrap_or_default();
        let owned = |n: usize| text(n).into_owned();
        let options = fields.get(3).map(|&span| options(table, span)).unwrap_or_default();
        let (dump, pass) = numbers(&text(4), &text(5));
        Some(Entry {
            line: line.number,
            source: owned(0),
            target: owned(1),
            fstype: owned(2),
            options,
            dump,
            pass,
            fields,
        })
    }

    /// Where the field stands, if the line has it.
    pub fn span(&self, field: FieldName) -> Option<Span> {
        self.fields.get(field as usize).copied()
    }

    /// The last option of this name, the one that counts.
    pub fn option(&self, name: &str) -> Option<&OptionItem> {
        self.options.iter().rev().find(|o| o.name == name)
    }

    /// Whether the option is given at all.
    pub fn has(&self, name: &str) -> bool {
        self.option(name).is_some()
    }

    /// The later of two contradicting flags decides: true when `on` comes
    /// last, false when `off` does or neither is given.
    pub fn switched(&self, on: &str, off: &str) -> bool {
        self.options.iter().rev().find(|o| o.name == on || o.name == off).is_some_and(|o| o.name == on)
    }

    /// The entry with what the mount program reads in its place, where it
    /// reads otherwise.
    pub fn reread(self, line: &MountLine) -> Self {
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        Entry {
            source: text(&line.source),
            target: text(&line.target),
            fstype: text(&line.fstype),
            pass: line.pass,
            ..self
        }
    }

    /// Whether the entry asks for swap.
    pub fn is_swap(&self) -> bool {
        self.fstype == "swap"
    }

    /// Whether the entry shows an existing directory at a second place.
    pub fn is_bind(&self) -> bool {
        self.has("bind") || self.has("rbind")
    }

    /// The subvolume asked for, as a path from the top without slashes at its
    /// ends, or as `subvolid=N`; `None`: the default one.
    pub fn subvolume(&self) -> Option<String> {
        let value = |name| self.option(name).and_then(|o| o.value.as_deref());
        let by_path = value("subvol").map(|path| path.trim_matches('/').to_owned());
        by_path.or_else(|| value("subvolid").map(|id| format!("subvolid={id}")))
    }

    /// Where in its file an image begins, in bytes: `offset=`; `None`: at its start,
    /// or the value is no size.
    pub fn image_offset(&self) -> Option<u64> {
        let value = self.option("offset")?.value.as_deref()?;
        Said::parse(value).and_then(Said::whole).filter(|offset| *offset > 0)
    }

    /// The types to try: the type field may be a comma-separated list. A lone
    /// backslash, meant to go on in the next line, is none: it joins two lines
    /// of the unit that the init system makes (recorded).
    pub fn types(&self) -> impl Iterator<Item = &str> {
        self.fstype.split(',').filter(|t| !t.is_empty() && *t != "\\")
    }
}

fn options(table: &Table, span: Span) -> Vec<OptionItem> {
    let mut quoted = false;
    let parts = table.slice(span).split(|byte| {
        quoted ^= *byte == b'"';
        *byte == b',' && !quoted
    });
    let mut items = Vec::new();
    let mut start = span.start;
    for part in parts {
        let end = start + part.len();
        if end > start {
            items.push(option(table, Span { start, end }));
        }
        start = end + 1;
    }
    items
}

fn option(table: &Table, span: Span) -> OptionItem {
    let text = decoded(table.slice(span));
    let (name, value) = match text.split_once('=') {
        Some((name, value)) => (name.to_owned(), Some(value.to_owned())),
        None => (text.into_owned(), None),
    };
    OptionItem { name, value, span }
}

/// A field as text, with its escapes decoded.
fn decoded(raw: &[u8]) -> Cow<'_, str> {
    match std::str::from_utf8(raw) {
        Ok(text) if !raw.contains(&b'\\') => Cow::Borrowed(text),
        _ => Cow::Owned(String::from_utf8_lossy(&decode(raw)).into_owned()),
    }
}

/// Both numbers as `sscanf(" %d %d ")` takes them: the second begins where the
/// first ends, and what is no number counts as 0.
fn numbers(dump: &str, pass: &str) -> (i64, i64) {
    let Some((dump, rest)) = leading_number(dump) else { return (0, 0) };
    let pass = leading_number(if rest.is_empty() || rest == "\r" { pass } else { rest });
    (dump, pass.map_or(0, |(pass, _)| pass))
}

/// The number a field starts with, and what follows it.
fn leading_number(text: &str) -> Option<(i64, &str)> {
    let digits = text.strip_prefix(['-', '+']).unwrap_or(text);
    let len = digits.bytes().take_while(u8::is_ascii_digit).count();
    let value: i64 = digits[..len].parse().ok()?;
    Some((if text.starts_with('-') { -value } else { value }, &digits[len..]))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn entry(line: &str) -> Entry {
        Table::parse(line).entries().remove(0)
    }

    #[test]
    fn reads_six_fields() {
        let e = entry("  LABEL=tide\\040log\t/srv/a\\040b  ext4 rw,,user=x,  0 2 # eh\r\n");
        assert_eq!(
            (e.source.as_str(), e.target.as_str(), e.fstype.as_str()),
            ("LABEL=tide log", "/srv/a b", "ext4")
        );
        let options: Vec<_> = e.options.iter().map(|o| (o.name.as_str(), o.value.as_deref())).collect();
        assert_eq!(options, [("rw", None), ("user", Some("x"))]);
        assert_eq!((e.dump, e.pass, e.fields.len()), (0, 2, 8));
    }

    #[test]
    fn numbers_as_the_c_library_reads_them() {
        let cases = [
            ("0 2", 0, 2),
            ("0 two", 0, 0),
            ("yes 2", 0, 0),
            ("1", 1, 0),
            ("0 2\r", 0, 2),
            ("0 1x", 0, 1),
            ("-1 99999999999999999999", -1, 0),
            ("0x1 2", 0, 0),
            ("0+1 2", 0, 1),
        ];
        for (tail, dump, pass) in cases {
            let e = entry(&format!("a /b ext4 rw {tail}"));
            assert_eq!((e.dump, e.pass), (dump, pass), "{tail}");
        }
    }

    #[test]
    fn the_last_of_two_switches_counts() {
        assert!(!entry("a /b ext4 noauto,auto").switched("noauto", "auto"));
        assert!(entry("a /b ext4 auto,noauto").switched("noauto", "auto"));
        assert!(!entry("a /b ext4").switched("noauto", "auto"));
    }

    #[test]
    fn commas_in_quotes_do_not_split() {
        let e = entry("a /b ext4 context=\"s0:c1,c2\",ro 0 0");
        assert_eq!(e.options.len(), 2);
        assert_eq!(e.options[1].name, "ro");
    }
}
