//! The forecast against recorded boots of what programs mount through FUSE: directories
//! in one, sealed ones, images, layers, and servers that do not answer.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::{EntryState, Forecast, Outcome};
use bradawl_facts::record::{Accounts, Content, ContentKind, PathFacts, PathKind, Programs, Record};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use bradawl_resolve::{ByProgram, Source};
use guest::{Boot, boots};
use std::collections::BTreeMap;

/// Boots that are not modelled, and why.
const NOT_MODELLED: [(&str, &str); 0] = [];

/// The programs of Debian 12 that the guest has, as `mount.TYPE`.
const HELPERS: [&str; 9] =
    ["davfs", "fuse", "fuse.sshfs", "fuse3", "mergerfs", "rclone", "sshfs", "unionfs", "ntfs"];

/// Those that `fuse.NAME` names.
const PROGRAMS: [&str; 9] = [
    "bindfs",
    "fuse-overlayfs",
    "gocryptfs",
    "mergerfs",
    "s3fs",
    "squashfuse",
    "sshfs",
    "unionfs",
    "unionfs-fuse",
];

/// What a survey tells of those that the table names.
fn behind_fuse(boot: &Boot) -> BTreeMap<String, bool> {
    let entries = Table::parse(boot.bytes()).entries();
    let named = entries.iter().filter_map(|e| ByProgram::of(e).filter(|by| by.is_looked_for(e)));
    named.map(|by| (by.program.to_owned(), PROGRAMS.contains(&by.program))).collect()
}

/// The guest as it was in these boots.
fn record(boot: &Boot) -> Record {
    let mut record = guest::record(boot);
    let helpers = HELPERS.map(String::from).to_vec();
    record.programs = Some(Programs {
        mount_helpers: helpers,
        behind_fuse: behind_fuse(boot),
        ..record.programs.unwrap_or_default()
    });
    let users = [("root", 0), ("nobody", 65534)].map(|(name, number)| (name.to_owned(), number)).into();
    record.accounts = Some(Accounts { users, ..Accounts::default() });
    let folders = ["/srv/pool", "/srv/sealed", "/srv/tides", "/srv/glass"];
    record.paths.extend(folders.map(|path| PathFacts::new(path, PathKind::Directory)));
    let content = Content::new(ContentKind::Filesystem, Some("squashfs"));
    let image = PathFacts::new("/srv/tide.squashfs", PathKind::File);
    record.paths.push(PathFacts { size: Some(4096), content: Some(content), ..image });
    let file = |path: &str, mode| PathFacts { mode: Some(mode), ..PathFacts::new(path, PathKind::File) };
    record.paths.extend(boot.files.keys().map(|path| file(path, 0o644)));
    record.paths.extend(["/etc/tides.phrase", "/srv/sealed/gocryptfs.conf"].map(|path| file(path, 0o600)));
    for entry in Table::parse(boot.bytes()).entries() {
        let named = entry.options.iter().filter_map(|o| o.value.clone()).filter(|v| v.starts_with('/'));
        let source = match Source::of(&entry) {
            Source::Path(path) => Some(path),
            _ => None,
        };
        let sealed = source.iter().map(|folder| format!("{folder}/gocryptfs.conf"));
        for path in named.chain(sealed.collect::<Vec<_>>()).chain(source).chain([entry.target.clone()]) {
            if !record.paths.iter().any(|facts| facts.path == path) {
                record.paths.push(PathFacts::new(path, PathKind::Absent));
            }
        }
    }
    record
}

/// How the boot ends; of servers that answer nothing its worst.
fn worst(boot: &Boot, forecast: &Forecast) -> Outcome {
    let silent = ["ssh", "dav", "store", "clone"].iter().any(|what| boot.id.contains(what));
    forecast.worst.as_ref().filter(|_| silent).map_or(forecast.outcome, |worst| worst.outcome)
}

fn outcome_agrees(boot: &Boot, outcome: Outcome) -> bool {
    match boot.outcome.as_str() {
        "login" => outcome.reaches_login(),
        "emergency" => outcome == Outcome::Emergency,
        other => panic!("unknown outcome {other}"),
    }
}

/// What is certain of an entry is what was found; of an unknown one nothing is said.
fn wrong_states(boot: &Boot, forecast: &Forecast) -> Vec<String> {
    let wrong = |entry: &&bradawl_boot::EntryForecast| {
        let Some(unit) = &entry.unit else { return false };
        let recorded = boot.units.get(unit).is_some_and(|s| s.contains("active mounted"));
        match entry.state {
            EntryState::Unknown => false,
            EntryState::Mounted | EntryState::Active => !recorded && boot.outcome == "login",
            _ => recorded,
        }
    };
    forecast.entries.iter().filter(wrong).map(|e| format!("{:?}: {:?}", e.target, e.state)).collect()
}

#[test]
fn agrees_with_recorded_boots() {
    let boots = boots("fuse");
    let (mut right, mut open, mut misses) = (0, 0, Vec::new());
    for boot in &boots {
        let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
        let outcome = worst(boot, &forecast);
        let states = wrong_states(boot, &forecast);
        let unknown = forecast.entries.iter().any(|e| e.state == EntryState::Unknown);
        open += usize::from(unknown);
        match outcome_agrees(boot, outcome) && states.is_empty() {
            true => right += 1,
            false => misses.push((boot.id.as_str(), format!("{outcome:?} not {}, {states:?}", boot.outcome))),
        }
    }
    println!(
        "fuse: {right} of {} boots right, {open} of them with an entry of which nothing is certain",
        boots.len()
    );
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{new:#?}");
    assert!(NOT_MODELLED.iter().all(|(id, _)| misses.iter().any(|(miss, _)| miss == id)), "modelled now");
}
