//! What options mean beside each other, against a real kernel.
//!
//! `fixtures/option-pairs.tsv` (`lab/record-pairs.py`): type, list, kernel and
//! mount program, and `-` (refused) or what was then in force by
//! /proc/self/mountinfo, of the mount and of the file system.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_catalogue::options::{Asked, Verdict, check, effective};
use bradawl_facts::Version;
use bradawl_facts::record::{Content, ContentKind, KernelBuild};
use bradawl_facts::table::{OptionItem, Table};

struct Row<'f> {
    fstype: &'f str,
    list: &'f str,
    kernel: Version,
    program: Version,
    /// What was in force; `None`: refused.
    state: Option<Vec<&'f str>>,
}

fn text() -> String {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/option-pairs.tsv");
    std::fs::read_to_string(path).unwrap()
}

fn rows(text: &str) -> Vec<Row<'_>> {
    fn row(line: &str) -> Row<'_> {
        let cells: Vec<&str> = line.split('\t').collect();
        let [fstype, list, versions, state] = cells.as_slice() else { panic!("{line}") };
        let (kernel, program) = versions.split_once('/').unwrap();
        let state = (*state != "-").then(|| state.split([' ', ',']).collect());
        let version = |text| Version::parse(text).unwrap();
        Row { fstype, list, kernel: version(kernel), program: version(program), state }
    }
    let rows: Vec<Row<'_>> = text.lines().map(row).collect();
    assert!(rows.len() > 700, "the recording is cut short: {} lists", rows.len());
    rows
}

fn options(row: &Row<'_>) -> Vec<OptionItem> {
    let needed = if row.fstype == "overlay" { "lowerdir=/l,upperdir=/u/up,workdir=/u/work," } else { "" };
    Table::parse(format!("s /t {} {needed}{}", row.fstype, row.list)).entries().remove(0).options
}

#[test]
fn lists_are_taken_and_refused_as_recorded() {
    let text = text();
    let (mut right, mut all, mut wrong) = (0, 0, Vec::new());
    // The recorded kernel's.
    let none = ["TMPFS_QUOTA", "UNICODE", "XFS_QUOTA"].map(|name| format!("# CONFIG_{name} is not set\n"));
    let built = KernelBuild::parse("config", &none.concat());
    for row in rows(&text) {
        let options = options(&row);
        let mut content = Content::new(ContentKind::Filesystem, Some(row.fstype));
        let features: &[&str] = match row.fstype {
            "btrfs" => &["free-space-tree", "mixed-backref"],
            "ext3" | "ext4" => &["has_journal"],
            _ => &[],
        };
        content.features = features.iter().map(|f| (*f).to_owned()).collect();
        let asked = Asked {
            program: Some(row.program),
            content: Some(&content),
            typical: true,
            built: built.as_ref(),
            ..Asked::new(row.fstype, &options, Some(row.kernel))
        };
        let refused = check(&asked).iter().any(|c| c.verdict == Verdict::Refused);
        all += 1;
        if refused == row.state.is_none() {
            right += 1;
            continue;
        }
        wrong.push(format!("{} {} by {}: recorded {:?}", row.fstype, row.list, row.program, row.state));
    }
    println!("{right} of {all} recorded lists of several options taken or refused as recorded");
    assert!(wrong.is_empty(), "{} wrong: {wrong:#?}", wrong.len());
    assert_told(&format!("{all} lists of options"));
    assert_told(&format!("{right} taken and refused as recorded"));
}

/// docs/model/verified.md tells the figure.
fn assert_told(figure: &str) {
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    assert!(std::fs::read_to_string(page).unwrap().contains(figure), "not told: {figure}");
}

/// The flags that mountinfo shows for a mount or its file system.
const SHOWN: [&str; 8] = ["ro", "nosuid", "nodev", "noexec", "nodiratime", "noatime", "relatime", "sync"];

#[test]
fn the_effective_list_is_what_is_in_force() {
    let text = text();
    let (mut checked, mut wrong) = (0, Vec::new());
    for row in rows(&text).iter().filter(|r| r.fstype == "tmpfs") {
        let Some(state) = &row.state else { continue };
        let effective = effective(&options(row), row.program);
        checked += 1;
        for flag in SHOWN {
            let said = effective.iter().any(|o| o == flag);
            if said != state.contains(&flag) {
                wrong.push(format!("{} by {}: {flag} said {said}; {state:?}", row.list, row.program));
            }
        }
    }
    println!("the flags of {checked} recorded lists are said as they are in force");
    assert_told(&format!("of {checked} on tmpfs the flags"));
    assert!(wrong.is_empty(), "{} wrong: {wrong:#?}", wrong.len());
}
