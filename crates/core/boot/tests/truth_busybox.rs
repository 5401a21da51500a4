//! What busybox as init, with its own mount and swapon, makes of a table (`lab/record-busybox-init.py`, busybox 1.35 of
//! Debian 12, kernel 6.1 in user mode, no initramfs).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

mod disk;

use bradawl_boot::{EntryState, forecast, requests};
use bradawl_facts::record::{
    Content, ContentKind, Early, Init, InitKind, NextBoot, PathFacts, PathKind, Record,
};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use disk::held;
use std::collections::BTreeMap;

#[derive(serde::Deserialize)]
struct Recorded {
    id: String,
    table: String,
    login: bool,
    mounted: BTreeMap<String, String>,
    swapped: BTreeMap<String, String>,
}

const DIRECTORIES: [&str; 13] = [
    "/srv/grain",
    "/srv/silo",
    "/srv/press",
    "/srv/full",
    "/srv/twin",
    "/srv/usr",
    "/srv/under",
    "/usr",
    "/var",
    "/tmp",
    "/srv",
    "/sys",
    "/proc",
];
const ABSENT: [&str; 8] = [
    "/srv/absent",
    "/srv/gone",
    "/srv/gone.img",
    "/srv/grain/inner",
    "/srv/gr in",
    "/srv/gr\\141in",
    "/var/swap/gone",
    "/dev/pts",
];

fn machine() -> Record {
    let mut record = disk::of_six();
    record.host.init = Some(Init::new(InitKind::Busybox, Some("1.35.0")));
    record.early = Some(Early {
        next: Some(NextBoot {
            kernel: Some("/vmlinuz".to_owned()),
            command_line: "root=/dev/ubda1 ro".to_owned(),
            ..NextBoot::default()
        }),
        ..Early::default()
    });
    record.paths.extend(DIRECTORIES.map(|path| PathFacts::new(path, PathKind::Directory)));
    record.paths.extend(ABSENT.map(|path| PathFacts::new(path, PathKind::Absent)));
    for (path, content) in [
        ("/var/swap/good", held("swap", "", "0003")),
        ("/var/swap/nosig", Content::new(ContentKind::Unknown, None)),
        ("/srv/full/note", Content::new(ContentKind::Unknown, None)),
    ] {
        record.paths.push(PathFacts { content: Some(content), ..PathFacts::new(path, PathKind::File) });
    }
    record
}

/// What no record tells, and is said to be not known: whether a network is there and names are found,
/// what lies on a file system that was not looked into.
const NOT_KNOWN: [&str; 7] =
    ["nfs", "nfs-nofail", "nfs-address", "nfs-last", "cifs", "order-child-second", "swap-hidden"];
/// What is said otherwise: a swap file below a lost entry is called not known; one device is not
/// mounted twice, read-only the second time.
const OTHERWISE: [&str; 2] = ["swap-on-lost", "same-twice"];

/// Entries of which something else was said than what was recorded.
fn misses(recorded: &Recorded) -> Vec<String> {
    let record = machine();
    let index = Index::new(&record);
    let table = Table::parse(recorded.table.as_bytes());
    let forecast = forecast(&record, &index, &requests(&record, &index, &table));
    let wrong = |said: &str| format!("{}: {said}", recorded.id);
    let mut misses: Vec<String> =
        (forecast.reaches_login != recorded.login).then(|| wrong("login")).into_iter().collect();
    let swaps = table.entries();
    for (entry, read) in forecast.entries.iter().zip(&swaps) {
        let there = match read.is_swap() {
            true => recorded.swapped.contains_key(&of_swap(&read.source)),
            // Root is mounted before, and a line of one field has no target.
            false if matches!(read.target.as_str(), "/" | "/proc" | "") => continue,
            false => recorded.mounted.contains_key(&format!("/{}", read.target.trim_matches('/'))),
        };
        let said = matches!(entry.state, EntryState::Mounted | EntryState::Active);
        if said != there || entry.state == EntryState::Unknown {
            let state = entry.state.words();
            misses.push(wrong(&format!(
                "line {} is {there} and was said to be {state}: {}",
                entry.line, entry.why
            )));
        }
    }
    misses
}

/// The device that a swap is listed by.
fn of_swap(source: &str) -> String {
    let reserve = ["c00c", "LABEL=reserve"].iter().any(|end| source.trim_end_matches('"').ends_with(end));
    if reserve { "/dev/ubda3".to_owned() } else { source.to_owned() }
}

#[test]
fn a_board_mounts_what_its_programs_understand() {
    let recorded: Vec<Recorded> = include_str!("fixtures/busybox-init.jsonl")
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .collect();
    let missed: Vec<String> = recorded.iter().flat_map(misses).collect();
    let boots = recorded.iter().filter(|r| !misses(r).is_empty()).count();
    println!("| busybox as init | {} | {} |", recorded.len(), recorded.len() - boots);
    let named = |r: &&Recorded| {
        let id = r.id.as_str();
        let untold = NOT_KNOWN.contains(&id) && misses(r).iter().all(|m| m.contains("said to be unknown"));
        untold || OTHERWISE.contains(&id) || misses(r).is_empty()
    };
    assert_eq!(recorded.len(), 170);
    assert_eq!(boots, NOT_KNOWN.len() + OTHERWISE.len());
    assert!(recorded.iter().all(|r| named(&r)), "{missed:#?}");
}
