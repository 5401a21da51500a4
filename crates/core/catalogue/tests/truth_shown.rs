//! What a list comes to against what the kernel showed in /proc/self/mountinfo
//! once it was mounted (`fixtures/options-shown.tsv.zst`, from lab/pack-shown.py).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_catalogue::options::{FLAGS, effective_of};
use bradawl_facts::Version;
use bradawl_facts::table::{OptionItem, Table};
use std::collections::BTreeSet;
use std::io::Read as _;

struct Row {
    fstype: String,
    list: String,
    mount: Vec<String>,
    system: Vec<String>,
    program: Version,
}

/// Of the kernel's types, and of programs behind FUSE.
const SETS: [(&str, &str); 2] =
    [("options-shown", "as the kernel shows them"), ("options-shown-fuse", "by programs behind FUSE")];

fn rows(set: &str) -> Vec<Row> {
    let path = format!("{}/tests/fixtures/{set}.tsv.zst", env!("CARGO_MANIFEST_DIR"));
    let file = std::fs::File::open(path).unwrap();
    let mut text = String::new();
    ruzstd::decoding::StreamingDecoder::new(file).unwrap().read_to_string(&mut text).unwrap();
    let words = |list: &str| list.split(',').map(str::to_owned).collect::<Vec<_>>();
    let mut rows = Vec::new();
    for line in text.lines() {
        let [fstype, list, mount, system, by] = line.split('\t').collect::<Vec<_>>()[..] else {
            panic!("{line}")
        };
        for by in by.split(' ') {
            let (_, program) = by.split_once('/').unwrap();
            rows.push(Row {
                fstype: fstype.to_owned(),
                list: list.to_owned(),
                mount: words(mount),
                system: words(system),
                program: Version::parse(program).unwrap(),
            });
        }
    }
    rows
}

fn options(row: &Row) -> Vec<OptionItem> {
    let table = Table::parse(format!("x /x {} {} 0 0", row.fstype, row.list));
    table.entries().remove(0).options
}

/// Types of which a host has one file system: what another mount of it asks for
/// changes nothing.
const ONE: [&str; 6] = ["debugfs", "mqueue", "pstore", "securityfs", "sysfs", "tracefs"];
/// Flags of the file system itself.
const OF_SYSTEM: [&str; 4] = ["ro", "sync", "dirsync", "lazytime"];
/// Lists of which the flags are not said as they were shown: type, what the list
/// contains, and why.
#[derive(Debug)]
struct Reason(&'static str, &'static str, #[expect(dead_code)] &'static str);

impl Reason {
    fn is_of(&self, row: &Row) -> bool {
        (self.0 == "*" || self.0 == row.fstype) && row.list.contains(self.1)
    }
}

const NOT_OURS: &[Reason] = &[
    Reason("*", "strictatime,relatime", "one recording of three shows the first of the two in force"),
    Reason("davfs", " ro", "a stray blank"),
    Reason("davfs", "ro ", "a stray blank"),
    Reason("davfs", "noexec=", "a flag with a value, which it takes for the flag"),
    Reason("fuse.fuse-overlayfs", " ro", "a stray blank"),
    Reason("fuse.fuse-overlayfs", "ro ", "a stray blank"),
    Reason("fuse.fuse-overlayfs", "drop_privileges", "a word of what starts it"),
    Reason("fuse.fuse-overlayfs", "=", "a flag with a value, which it passes over"),
    Reason("fuse.gocryptfs", "no", "a flag with a value, which it takes for the flag"),
    Reason("fuse.gocryptfs", "badname", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "ctlsock", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "ew", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "exclude-", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "fido2", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "fsname", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "cpuprofile", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "memprofile", "a value that is left out is the next word"),
    Reason("fuse.gocryptfs", "trace", "a value that is left out is the next word"),
    Reason("fuse.squashfuse", "auto_unmount", "one release of two mounts through another program"),
];

/// docs/model/verified.md tells the figures.
fn assert_told(figure: &str) {
    println!("{figure}");
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    assert!(std::fs::read_to_string(page).unwrap().contains(figure), "not told: {figure}");
}

/// The flags that are not said as they were shown.
fn wrong_flags(row: &Row) -> Vec<&'static str> {
    let said = effective_of(&row.fstype, &options(row), row.program);
    let any = |flag: &str| row.mount.iter().chain(&row.system).any(|o| o == flag);
    // The kernel shows nothing where times are always kept.
    let shown = |flag: &str| match flag {
        "strictatime" => !any("relatime") && !any("noatime"),
        _ => any(flag),
    };
    let asked = |flag: &&str| !(ONE.contains(&row.fstype.as_str()) && OF_SYSTEM.contains(flag));
    let differ = |flag: &&str| said.iter().any(|o| o == flag) != shown(flag);
    FLAGS.into_iter().filter(asked).filter(differ).collect()
}

#[test]
fn flags_are_said_as_the_kernel_shows_them() {
    let mut ours = Vec::new();
    let mut needed = BTreeSet::new();
    for (set, whose) in SETS {
        let (rows, mut wrong) = (rows(set), 0);
        for row in &rows {
            let flags = wrong_flags(row);
            if flags.is_empty() {
                continue;
            }
            wrong += 1;
            match NOT_OURS.iter().position(|reason| reason.is_of(row)) {
                Some(n) => _ = needed.insert(n),
                None => ours.push(format!("{} {} by {}: {flags:?}", row.fstype, row.list, row.program)),
            }
        }
        assert_told(&format!("flags of {} of {} mounts {whose}", rows.len() - wrong, rows.len()));
    }
    assert!(ours.is_empty(), "{} wrong: {ours:#?}", ours.len());
    let idle: Vec<&Reason> =
        NOT_OURS.iter().enumerate().filter(|(n, _)| !needed.contains(n)).map(|(_, r)| r).collect();
    assert!(idle.is_empty(), "no longer needed: {idle:?}");
}

/// Values that the kernel shows in a form of its own stay as they are written: how
/// many that is of all is told.
#[test]
fn values_are_told_as_they_are_written() {
    let (mut values, mut same) = (0, 0);
    for row in rows("options-shown") {
        for option in effective_of(&row.fstype, &options(&row), row.program) {
            let Some((name, value)) = option.split_once('=') else { continue };
            let shown = row.system.iter().find_map(|o| o.strip_prefix(name)?.strip_prefix('='));
            values += usize::from(shown.is_some());
            same += usize::from(shown == Some(value));
        }
    }
    assert_told(&format!("{same} of {values} values in the form in which the kernel shows them"));
}
