use super::{entry_on, replaced};
use bradawl_facts::table::{Entry, FieldName, Span, Table, encode, with_added};

/// The table with options of a line added and taken out, by name or with
/// their value; an empty list becomes `defaults`.
///
/// An option that is there already with another value gets the new one in
/// its place; `defaults` gives way to the first real option.
pub fn with_options(table: &Table, line: usize, add: &[String], drop: &[String]) -> Option<Table> {
    let entry = entry_on(table, line)?;
    let raw: Vec<Vec<u8>> = entry.options.iter().map(|o| table.slice(o.span).to_vec()).collect();
    let dropped = |n: usize| {
        let option = &entry.options[n];
        drop.iter().any(|d| match d.split_once('=') {
            Some((name, value)) => option.name == name && option.value.as_deref() == Some(value),
            None => option.name == *d,
        })
    };
    if add.is_empty() && !(0..entry.options.len()).any(dropped) {
        return Some(Table::parse(table.bytes()));
    }
    let kept = raw.into_iter().enumerate().filter(|(n, _)| !dropped(*n)).map(|(_, text)| text);
    let list = with_added(kept, add);
    match entry.span(FieldName::Options) {
        Some(span) => Some(replaced(table, span, &list)),
        None => Some(replaced(table, end_of(&entry)?, &behind(&entry, FieldName::Options, &list))),
    }
}

/// The table with another text in a field of a line. Fields that the line
/// lacks before it get what their absence means.
pub fn set_field(table: &Table, line: usize, field: FieldName, text: &str) -> Option<Table> {
    let entry = entry_on(table, line)?;
    let written = encode(text.as_bytes());
    if text.is_empty() {
        return None;
    }
    if let Some(span) = entry.span(field) {
        return Some(replaced(table, span, &written));
    }
    Some(replaced(table, end_of(&entry)?, &behind(&entry, field, &written)))
}

/// A field that the line lacks, behind what the absence of those before it
/// means.
fn behind(entry: &Entry, field: FieldName, text: &[u8]) -> Vec<u8> {
    const MEANT: [&str; 6] = ["none", "none", "auto", "defaults", "0", "0"];
    let missing = MEANT[entry.fields.len()..field as usize].iter().map(|meant| meant.as_bytes());
    missing.chain([text]).flat_map(|field| [b" ", field].concat()).collect()
}

fn end_of(entry: &Entry) -> Option<Span> {
    entry.fields.last().map(|span| Span { start: span.end, end: span.end })
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
        assert!(text(with_options(&table, 2, &one("commit=30"), &[])).contains(" noatime,commit=30 "));
        assert!(text(with_options(&table, 3, &one("nofail"), &[])).ends_with("/srv/b xfs nofail\n"));
        let none = with_options(&table, 2, &[], &["noatime".to_owned(), "commit=5".to_owned()]);
        assert!(text(none).contains("ext4 defaults 0 2"));
        assert!(with_options(&table, 1, &one("nofail"), &[]).is_none());
        let table = Table::parse("a /b ext4 defaults 0 2");
        assert_eq!(text(with_options(&table, 1, &one("ro"), &[])), "a /b ext4 ro 0 2");
    }

    #[test]
    fn fields_are_set_and_added() {
        let table = Table::parse(TEXT);
        let set = |line, field, to| text(set_field(&table, line, field, to));
        assert!(set(2, FieldName::Target, "/srv/a b").contains("LABEL=a /srv/a\\040b ext4"));
        assert!(set(3, FieldName::Pass, "2").ends_with("/srv/b xfs defaults 0 2\n"));
        assert!(set(3, FieldName::Source, "LABEL=c").contains("\nLABEL=c /srv/b xfs\n"));
        assert!(set_field(&table, 1, FieldName::Pass, "2").is_none());
    }
}
