//! Random changes to random tables: lines that were not asked for keep their
//! bytes, and reading the new text gives what was meant.

#![allow(clippy::unwrap_used, missing_docs)]

use bradawl_change::edit::{Change, Fresh, changed, insert, switched_on};
use bradawl_facts::record::Record;
use bradawl_facts::table::{Entry, FieldName, LineKind, Table};
use proptest::prelude::*;

const CASES: u32 = 10_000;

/// Lines of every sort that tables have, and a few that none should.
fn line() -> impl Strategy<Value = Vec<u8>> {
    let word = "(UUID=[0-9a-f]{4}|LABEL=[a-z]{1,4}(\\\\040x)?|/[a-z/]{1,8}|none|swap|[a-z0-9]{1,6})";
    let options = "(defaults|noatime|ro,nofail|x=1,,y=2|subvol=@,[a-z]{1,5}(=[a-z0-9\"]{0,3})?)";
    let gap = "( {1,6}|\t{1,2}| \t )";
    let entry = (2usize..8).prop_flat_map(move |fields| {
        let parts = (0..fields).map(|n| match n {
            3 => options.to_owned(),
            4 | 5 => "[0-2]".to_owned(),
            _ => word.to_owned(),
        });
        let text = parts.collect::<Vec<_>>().join(gap);
        proptest::string::string_regex(&format!("[ \t]{{0,2}}{text}[ \t\r]{{0,2}}")).unwrap()
    });
    prop_oneof![
        6 => entry.prop_map(String::into_bytes),
        2 => "[ \t]{0,2}#[ -~]{0,20}".prop_map(String::into_bytes),
        1 => "[ \t]{0,3}".prop_map(String::into_bytes),
        1 => proptest::collection::vec(prop_oneof![1u8..=9, 11u8..=255], 0..20),
    ]
}

fn table() -> impl Strategy<Value = Table> {
    (proptest::collection::vec(line(), 1..12), any::<bool>()).prop_map(|(lines, ended)| {
        let mut bytes = lines.join(&b'\n');
        if ended {
            bytes.push(b'\n');
        }
        Table::parse(bytes)
    })
}

fn option() -> impl Strategy<Value = String> {
    "[a-z]{1,4}(=[a-z0-9]{1,3})?"
}

fn change() -> impl Strategy<Value = Change> {
    let line = 1usize..13;
    let words = || proptest::collection::vec(option(), 0..3);
    let field = prop_oneof![
        Just(FieldName::Source),
        Just(FieldName::Target),
        Just(FieldName::Type),
        Just(FieldName::Pass)
    ];
    prop_oneof![
        4 => (line.clone(), words(), words()).prop_filter("asks for nothing", |(_, add, drop)| !add.is_empty() || !drop.is_empty())
            .prop_map(|(line, add, drop)| Change::Options { line, add, drop }),
        4 => (line.clone(), field, "[a-z0-9/][ -~ü\t]{0,8}[a-z0-9]")
            .prop_map(|(line, field, text)| Change::Field { line, field, text }),
        2 => line.clone().prop_map(Change::Off),
        2 => line.clone().prop_map(Change::On),
        2 => (line.clone(), line, any::<bool>())
            .prop_map(|(line, to, behind)| Change::Move { line, to, behind }),
        1 => Just(Change::Order),
        1 => Just(Change::Align),
        1 => Just(Change::DropRepeats),
    ]
}

fn texts(table: &Table) -> Vec<Vec<u8>> {
    table.lines().iter().map(|l| table.slice(l.text).to_vec()).collect()
}

fn entry(table: &Table, line: usize) -> Option<Entry> {
    Entry::read(table, table.line(line)?)
}

type Written = Vec<(String, Option<String>)>;

/// What an entry says, wherever it stands.
fn said(entry: &Entry) -> (String, String, String, Written, i64, i64) {
    let options = entry.options.iter().map(|o| (o.name.clone(), o.value.clone())).collect();
    let e = entry.clone();
    (e.source, e.target, e.fstype, options, e.dump, e.pass)
}

/// Lines other than these have the bytes they had.
fn others_stay(before: &Table, after: &Table, asked: &[usize]) {
    assert_eq!(before.lines().len(), after.lines().len());
    for (n, (a, b)) in before.lines().iter().zip(after.lines()).enumerate() {
        assert_eq!(before.slice(a.ending), after.slice(b.ending));
        if !asked.contains(&(n + 1)) {
            assert_eq!(before.slice(a.text), after.slice(b.text), "line {}", n + 1);
        }
    }
}

fn options_meant(before: &Table, after: &Table, line: usize, add: &[String], drop: &[String]) {
    let (old, new) = (entry(before, line).unwrap(), entry(after, line).unwrap());
    let written = |o: &bradawl_facts::table::OptionItem| match &o.value {
        Some(value) => format!("{}={value}", o.name),
        None => o.name.clone(),
    };
    let list: Vec<String> = new.options.iter().map(written).collect();
    for wanted in add.iter().filter(|a| *a != "defaults") {
        let name = wanted.split('=').next();
        // A later one of the same name takes its place.
        let last = add.iter().rfind(|a| a.split('=').next() == name).unwrap();
        assert!(list.contains(last) || list.contains(wanted), "{wanted} in {list:?}");
    }
    let gone = |d: &&String| !d.contains('=') && !add.iter().any(|a| a.split('=').next() == Some(d.as_str()));
    for unwanted in drop.iter().filter(gone).filter(|d| *d != "defaults") {
        assert!(!new.has(unwanted), "{unwanted} in {list:?}");
    }
    assert_eq!((&old.source, old.dump), (&new.source, new.dump));
    assert!(old.fields.len() < 2 || old.target == new.target);
}

fn field_meant(before: &Table, after: &Table, line: usize, field: FieldName, text: &str) {
    let (old, new) = (entry(before, line).unwrap(), entry(after, line).unwrap());
    let (a, b) = (said(&old), said(&new));
    match field {
        FieldName::Source => assert_eq!(b.0, text),
        FieldName::Target => assert_eq!(b.1, text),
        FieldName::Type => assert_eq!(b.2, text),
        _ => assert_eq!(new.fields.len(), old.fields.len().max(6)),
    }
    if field != FieldName::Source {
        assert_eq!(a.0, b.0);
    }
    if field != FieldName::Target && old.fields.len() > 1 {
        assert_eq!(a.1, b.1);
    }
    if old.fields.len() > 3 {
        assert_eq!(a.3, b.3);
    }
}

fn sorted(mut lines: Vec<Vec<u8>>) -> Vec<Vec<u8>> {
    lines.sort();
    lines
}

fn check(before: &Table, after: &Table, change: &Change) {
    match change {
        Change::Options { line, add, drop } => {
            others_stay(before, after, &[*line]);
            options_meant(before, after, *line, add, drop);
        }
        Change::Field { line, field, text } => {
            others_stay(before, after, &[*line]);
            field_meant(before, after, *line, *field, text);
        }
        Change::Off(line) => {
            others_stay(before, after, &[*line]);
            assert_eq!(after.line(*line).unwrap().kind, LineKind::Comment);
            let whole =
                entry(before, *line).is_some_and(|e| e.fields.len() >= 3 && e.target.starts_with('/'));
            let back = switched_on(after, *line).filter(|_| whole);
            assert!(!whole || back.is_some_and(|t| t.bytes() == before.bytes()), "off and on again");
        }
        Change::On(line) => {
            others_stay(before, after, &[*line]);
            assert!(entry(after, *line).is_some() && entry(before, *line).is_none());
        }
        Change::Move { .. } | Change::Order => {
            assert_eq!(sorted(texts(before)), sorted(texts(after)));
        }
        Change::Align => {
            let all = |t: &Table| t.entries().iter().map(said).collect::<Vec<_>>();
            assert_eq!(all(before), all(after));
            let kept: Vec<usize> = before.entries().iter().map(|e| e.line).collect();
            others_stay(before, after, &kept);
        }
        _ => {
            let changed: Vec<usize> = (1..=before.lines().len())
                .filter(|n| entry(before, *n).is_some() && entry(after, *n).is_none())
                .collect();
            others_stay(before, after, &changed);
            for (n, one) in after.entries().iter().enumerate() {
                let same = |e: &&Entry| e.source == one.source && e.target == one.target;
                assert!(!after.entries()[..n].iter().any(|e| same(&e)), "a repeat is left");
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: CASES, ..ProptestConfig::default() })]

    #[test]
    fn changes_do_what_was_meant_and_nothing_else(table in table(), change in change()) {
        // A line that is not there, or holds no entry, is an error and no change.
        if let Ok(after) = changed(&Record::new("kelp"), &table, std::slice::from_ref(&change)) {
            check(&table, &after, &change);
        }
    }

    #[test]
    fn a_new_entry_moves_no_other(table in table(), target in "/[a-z]{1,4}(/[a-z]{1,4} ?[a-z])?", comment in any::<bool>()) {
        let comment = comment.then(|| "drawn by the test".to_owned());
        let fresh = Fresh {
            source: "LABEL=tide log".into(), target, fstype: "xfs".into(),
            options: vec!["nofail".into()], comment, ..Fresh::default()
        };
        let (after, line) = insert(&table, &fresh);
        let new = entry(&after, line).unwrap();
        prop_assert_eq!((&new.source, &new.target, new.fields.len()), (&fresh.source, &fresh.target, 6));
        let mut left = texts(&after);
        let first = line - 1 - usize::from(fresh.comment.is_some());
        left.drain(first..line);
        prop_assert_eq!(left, texts(&table));
    }
}
