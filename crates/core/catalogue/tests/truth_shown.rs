//! What a list comes to against what the kernel showed in /proc/self/mountinfo
//! once it was mounted (`fixtures/options-shown.tsv.zst`, from lab/pack-shown.py).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_catalogue::options::{FLAGS, effective_of};
use bradawl_facts::Version;
use bradawl_facts::table::{OptionItem, Table};
use std::io::Read as _;

struct Row {
    fstype: String,
    list: String,
    mount: Vec<String>,
    system: Vec<String>,
    program: Version,
    kernel: Version,
}

fn rows() -> Vec<Row> {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/options-shown.tsv.zst");
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
            let (kernel, program) = by.split_once('/').unwrap();
            rows.push(Row {
                fstype: fstype.to_owned(),
                list: list.to_owned(),
                mount: words(mount),
                system: words(system),
                program: Version::parse(program).unwrap(),
                kernel: Version::parse(kernel).unwrap(),
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
/// Lists of which the flags are not said as they were shown, and why.
const NOT_OURS: &[(&str, &str)] =
    &[("strictatime,relatime", "one recording of three shows the first of the two in force")];

/// docs/model/verified.md tells the figures.
fn assert_told(figure: &str) {
    println!("{figure}");
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    assert!(std::fs::read_to_string(page).unwrap().contains(figure), "not told: {figure}");
}

#[test]
fn flags_are_said_as_the_kernel_shows_them() {
    let rows = rows();
    let mut wrong = Vec::new();
    for row in &rows {
        let said = effective_of(&row.fstype, &options(row), row.program);
        let any = |flag: &str| row.mount.iter().chain(&row.system).any(|o| o == flag);
        // The kernel shows nothing where times are always kept.
        let shown = |flag: &str| match flag {
            "strictatime" => !any("relatime") && !any("noatime"),
            _ => any(flag),
        };
        let asked = |flag: &&str| !(ONE.contains(&row.fstype.as_str()) && OF_SYSTEM.contains(flag));
        let differ = |flag: &&str| said.iter().any(|o| o == flag) != shown(flag);
        let flags: Vec<&str> = FLAGS.into_iter().filter(asked).filter(differ).collect();
        if !flags.is_empty() {
            wrong.push((row, flags));
        }
    }
    let ours: Vec<String> = wrong
        .iter()
        .filter(|(row, _)| !NOT_OURS.iter().any(|(list, _)| *list == row.list))
        .map(|(row, flags)| {
            let (kernel, program) = (row.kernel, row.program);
            format!(
                "{} {} on {kernel} by {program}: {flags:?} of {:?} {:?}",
                row.fstype, row.list, row.mount, row.system
            )
        })
        .collect();
    assert!(ours.is_empty(), "{} wrong: {ours:#?}", ours.len());
    assert_told(&format!(
        "flags of {} of {} mounts as the kernel shows them",
        rows.len() - wrong.len(),
        rows.len()
    ));
}

/// Values that the kernel shows in a form of its own stay as they are written: how
/// many that is of all is told.
#[test]
fn values_are_told_as_they_are_written() {
    let (mut values, mut same) = (0, 0);
    for row in rows() {
        for option in effective_of(&row.fstype, &options(&row), row.program) {
            let Some((name, value)) = option.split_once('=') else { continue };
            let shown = row.system.iter().find_map(|o| o.strip_prefix(name)?.strip_prefix('='));
            values += usize::from(shown.is_some());
            same += usize::from(shown == Some(value));
        }
    }
    assert_told(&format!("{same} of {values} values in the form in which the kernel shows them"));
}
