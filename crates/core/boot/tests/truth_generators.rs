//! The units we make of tables against those that the init system's own
//! generator made, in versions 247, 252, 257 and 262: names, ties, time limits
//! and who starts whom. `lab/record-generators.py` recorded them. Where this
//! machine has a generator, it is asked as well.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_boot::{made_lines, requests, told_lines};
use bradawl_facts::record::{Init, InitKind, Programs, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use std::collections::{BTreeMap, BTreeSet};
use std::io::Read as _;

#[derive(serde::Deserialize)]
struct Made {
    version: String,
    table: String,
    made: Vec<String>,
}

/// Checkers of the machine that recorded.
const CHECKERS: [&str; 15] = [
    "btrfs", "cramfs", "exfat", "ext2", "ext3", "ext4", "f2fs", "fat", "gfs2", "jfs", "minix", "msdos",
    "ocfs2", "vfat", "xfs",
];

/// One line for each tie, limit and link.
fn ours(table: &[u8], version: &str) -> BTreeSet<String> {
    let mut record = Record::new("sounding");
    record.host.init = Some(Init::new(InitKind::Systemd, Some(version)));
    let checkers = CHECKERS.map(str::to_owned).to_vec();
    record.programs = Some(Programs { checkers, ..Programs::default() });
    let index = Index::new(&record);
    let table = Table::parse(table);
    made_lines(&record, &requests(&record, &index, &table))
}

fn compare(table: &[u8], version: &str, made: &[String]) -> Option<String> {
    let (ours, theirs) = (ours(table, version), told_lines(made));
    let less: Vec<_> = theirs.difference(&ours).collect();
    let more: Vec<_> = ours.difference(&theirs).collect();
    let text = String::from_utf8_lossy(table);
    (!less.is_empty() || !more.is_empty()).then(|| format!("{version} {text:?}\n  -{less:#?}\n  +{more:#?}"))
}

/// What is made otherwise of the recorded tables, with how many there are of
/// each version.
fn misses(packed: &[u8]) -> (Vec<String>, BTreeMap<String, usize>) {
    let mut text = String::new();
    ruzstd::decoding::StreamingDecoder::new(packed).unwrap().read_to_string(&mut text).unwrap();
    let (mut misses, mut tally) = (Vec::new(), BTreeMap::new());
    for line in text.lines() {
        let Made { version, table, made } = serde_json::from_str(line).unwrap();
        let bytes: Vec<u8> = table.chars().map(|c| u8::try_from(c).unwrap()).collect();
        // Names are kept as text; bytes that are none are shown, not kept.
        if std::str::from_utf8(&bytes).is_err() {
            continue;
        }
        *tally.entry(version.clone()).or_insert(0) += 1;
        misses.extend(compare(&bytes, &version, &made));
    }
    println!("tables by version: {tally:?}, {} made otherwise", misses.len());
    (misses, tally)
}

#[test]
fn as_four_versions_make_them() {
    let (misses, tally) = misses(include_bytes!("fixtures/generators.jsonl.zst"));
    assert!(tally.len() == 4 && tally.values().all(|n| *n > 250));
    assert!(misses.is_empty(), "{}", misses.join("\n"));
}

/// Parts of tables that are made otherwise, and why that is left so.
const KNOWN: [(&str, &str); 11] = [
    ("x-systemd.mount-timeout", "half of a unit that nothing starts is written before the generator aborts"),
    ("x-systemd.device-timeout", "the same"),
    ("x-systemd.idle-timeout", "the same"),
    ("auto x-systemd.makefs", "the same before the entry is rejected"),
    ("-by=/srv/../x", "a directory outside of the units"),
    ("/srv/../b ", "the recording's root has no /srv to go up from"),
    ("/srv/b/.. ", "the same"),
    ("/srv/./b ", "the same"),
    (" /bin ", "a link to /usr/bin there"),
    ("/dev/../dev/sdb", "half of a unit that nothing starts, as above"),
    ("//dev/sdb", "a path with two slashes in front is a share to us"),
];

/// Values missing, empty, doubled, escaped (lab/generator-awkward.txt).
#[test]
fn as_three_versions_make_awkward_ones() {
    let (misses, tally) = misses(include_bytes!("fixtures/generators-awkward.jsonl.zst"));
    assert!(tally.len() == 3 && tally.values().all(|n| *n > 900), "{tally:?}");
    let named = |miss: &&String| KNOWN.iter().any(|(part, _)| miss.contains(part));
    let (known, wrong): (Vec<&String>, Vec<&String>) = misses.iter().partition(named);
    println!("{} of them for known reasons", known.len());
    assert!(known.len() < 80, "{}", known.len());
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// Which entries on the network have their device wait for it: asked of the
/// generators of Debian 12 (252.39) and 13 (257.13) in their own roots
/// (`lab/try-generator.sh`).
#[test]
fn what_is_there_before_the_root_waits_for_no_network() {
    for (entry, waits_252, waits_257) in [
        ("/ xfs _netdev", false, false),
        ("/usr xfs _netdev", false, false),
        ("/etc xfs _netdev", false, false),
        ("/etc/a xfs _netdev", true, true),
        ("/srv/a xfs _netdev,x-initrd.mount", false, false),
        ("/run/initramfs/a xfs _netdev", false, false),
        ("/run/nextroot/a xfs _netdev", true, false),
        ("/run/a xfs _netdev", true, true),
        ("/var xfs _netdev", true, true),
        ("none swap _netdev,x-initrd.mount", false, false),
    ] {
        for (version, waits) in [("252", waits_252), ("257", waits_257)] {
            let made = ours(format!("LABEL=a {entry} 0 0\n").as_bytes(), version);
            let found = made.iter().any(|line| line.contains("50-netdev-dependencies"));
            assert_eq!(found, waits, "{version} {entry}");
        }
    }
}
