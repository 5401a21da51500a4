//! What to do before and after, as commands to read and run.

use super::DraftWishes;
use super::choices::{OWNERLESS, names_of_owner};
use super::making;
use super::moving;
use super::share;
use super::source::{Found, SourceFile};
use super::subvolume;
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_facts::record::{Device, PathFacts, PathKind, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, list, quoted, visible};
use bradawl_resolve::{Source, is_network_type};

pub(super) fn before(record: &Record, found: &Found<'_>, wishes: &DraftWishes, entry: &Fresh) -> Vec<Step> {
    let mut steps = Vec::new();
    if let Some(device) = found.device {
        steps.extend(release(record, device, wishes, entry));
        if found.to_make {
            steps.extend(made(device, found, wishes, entry, record.host.boots_with().is_systemd()));
        }
    }
    steps.extend(subvolume::made(found, entry));
    steps.extend(share::before(record, entry));
    if entry.fstype == "overlay" {
        steps.extend(layers(entry));
    }
    if let (Source::Path(path), "swap") = (&found.source, entry.fstype.as_str()) {
        steps.extend(swap_file(facts(record, path), path));
    }
    if wishes.move_data {
        steps.extend(moving::before(wishes, entry, record.host.boots_with().is_systemd()));
    } else if entry.fstype != "swap" {
        steps.extend(target(record, &wishes.target, found.file == Some(SourceFile::Plain)));
    }
    steps
}

/// The directories that an overlay writes to.
pub(super) fn written_layers(entry: &Fresh) -> Vec<&str> {
    let options = entry.options.iter();
    options.filter_map(|o| o.strip_prefix("upperdir=").or_else(|| o.strip_prefix("workdir="))).collect()
}

/// The step that makes them.
fn layers(entry: &Fresh) -> Option<Step> {
    let paths =
        entry.options.iter().filter_map(|o| o.strip_prefix("upperdir=").or(o.strip_prefix("workdir=")));
    let words: Vec<String> = paths.map(quoted).collect();
    let run = format!("mkdir -p {}", words.join(" "));
    (!words.is_empty()).then(|| Step::run("Make the directories that it writes to", run, "no output"))
}

/// Lets go of the device where it is mounted now.
fn release(record: &Record, device: &Device, wishes: &DraftWishes, entry: &Fresh) -> Vec<Step> {
    let numbers = device.major.zip(device.minor).map(|(major, minor)| format!("{major}:{minor}"));
    let here = record
        .mounts
        .iter()
        .flatten()
        .filter(|m| m.source == device.path || (numbers.is_some() && m.device == numbers));
    let listed = listed(record);
    here.filter(|m| m.target != entry.target)
        .map(|m| {
            let word = quoted(&m.target);
            if listed.contains(&m.target) {
                let what = "is on it too, by an entry of the table: both will show the same file system";
                return Step::by_hand(format!("{word} {what}"));
            }
            let expect = match wishes.held_by.get(&m.target) {
                Some(names) => format!("busy now: {} must close it first", visible(&list(names))),
                None => format!("no output; if it says \"busy\", fuser -vm {word} names who holds it"),
            };
            let what = format!("It is mounted on {word} now; unmount it there");
            Step::run(what, format!("umount {word}"), expect)
        })
        .collect()
}

/// The targets that the host's own table has.
fn listed(record: &Record) -> Vec<String> {
    let bytes = record.tables.first().and_then(|t| t.bytes.bytes()).unwrap_or_default();
    Table::parse(bytes).entries().into_iter().map(|e| e.target).collect()
}

fn made(device: &Device, found: &Found<'_>, wishes: &DraftWishes, entry: &Fresh, systemd: bool) -> Vec<Step> {
    let mut steps = Vec::new();
    let disk = quoted(&device.path);
    let size = device.size.map(bradawl_facts::size::decimal).unwrap_or_default();
    let lost = "what is on it is lost. It was empty when it was looked at";
    let path = found.path().unwrap_or_else(|| device.path.clone());
    if found.partition.is_some() {
        steps.push(Step::run(
            format!("Give {disk} ({size}) a partition table with one partition; {lost}"),
            format!("printf 'label: gpt\\n,,L\\n' | sfdisk {disk}"),
            format!("it names {path} and ends with \"Syncing disks.\""),
        ));
    }
    let word = quoted(&path);
    let what = match found.partition.is_some() {
        true => format!("Make the {} on {word}", entry.fstype),
        false => format!("Make the {} on {word} ({size}); {lost}", entry.fstype),
    };
    let run = making::command(wishes, &entry.fstype, &path).unwrap_or_default();
    let expect = "it names what it made; it asks before it overwrites anything";
    steps.push(Step::run(what, run, expect));
    if systemd {
        steps.push(Step::run("Wait until its name is known", "udevadm settle", "no output"));
    }
    steps
}

fn swap_file(facts: Option<&PathFacts>, path: &str) -> Vec<Step> {
    let word = quoted(path);
    if facts.is_none_or(|f| f.kind == PathKind::Absent) {
        let what = "Make the file, without holes, for root alone, with its header; take the size you want";
        let run = format!("bradawl swap --file {word} --want 2G --write");
        return vec![Step::run(what, run, "it names the file and its UUID")];
    }
    let mut steps = Vec::new();
    if facts.is_some_and(|f| f.mode.is_none_or(|m| m & 0o077 != 0) || f.uid != Some(0)) {
        let what = "Make it root's alone: what was in memory will lie in it";
        steps.push(Step::run(what, format!("chown root:root {word} && chmod 600 {word}"), "no output"));
    }
    let ready = facts.and_then(|f| f.content.as_ref()).is_some_and(|c| c.fstype.as_deref() == Some("swap"));
    if !ready {
        steps.push(Step::run("Make the swap area", format!("mkswap {word}"), "it names a UUID"));
    }
    steps
}

/// The directory to mount on.
fn target(record: &Record, path: &str, file: bool) -> Vec<Step> {
    let word = quoted(path);
    let parent =
        quoted(path.rsplit_once('/').map_or("/", |(parent, _)| if parent.is_empty() { "/" } else { parent }));
    let make = match file {
        true => {
            let run = format!("mkdir -p {parent} && touch {word}");
            Step::run("Make the file to mount on: a file is shown on a file", run, "no output")
        }
        false => Step::run("Make the directory to mount on", format!("mkdir -p {word}"), "no output"),
    };
    let Some(facts) = facts(record, path) else { return vec![make] };
    match facts.kind {
        PathKind::Absent => vec![make],
        PathKind::File if file => Vec::new(),
        PathKind::Directory if file => {
            vec![Step::by_hand(format!(
                "{word} is a directory, and a file is to be shown there: choose another target"
            ))]
        }
        PathKind::Directory => {
            let mounted = record.mounts.iter().flatten().any(|m| m.target == path);
            let hidden = facts.entries.filter(|n| *n > 0 && !mounted);
            let what = |n| {
                format!(
                    "{word} holds {}, which the mount would hide: the same command with --move puts them on it",
                    count(n as usize, "entry")
                )
            };
            hidden
                .map(|n| Step::run(what(n), format!("ls -A {word}"), "what would be hidden"))
                .into_iter()
                .collect()
        }
        _ => {
            vec![Step::by_hand(format!("{word} is not a directory: remove it, or choose another target"))]
        }
    }
}

fn facts<'r>(record: &'r Record, path: &str) -> Option<&'r PathFacts> {
    record.paths.iter().find(|f| f.path == path)
}

pub(super) fn after(record: &Record, wishes: &DraftWishes, entry: &Fresh) -> Vec<Step> {
    let mut steps = Vec::new();
    if record.host.boots_with().is_systemd() {
        steps.push(Step::run("Have systemd read the table again", "systemctl daemon-reload", "no output"));
    }
    if wishes.move_data {
        steps.push(moving::switch(wishes));
    }
    if entry.fstype == "swap" {
        let source = quoted(&entry.source);
        steps.push(Step::run("Try it", format!("swapon {source}"), "no output"));
        steps.push(Step::run("Look", "cat /proc/swaps", "the area with its size"));
    } else {
        let target = quoted(&entry.target);
        steps.push(Step::run(
            "Try it, by the table as the boot does",
            format!("mount {target}"),
            "no output",
        ));
        steps.push(Step::run(
            "Look",
            format!("df -h {target}"),
            "the size you expect, and not that of the root file system",
        ));
        steps.extend(owner(wishes, entry));
    }
    if wishes.move_data {
        steps.extend(moving::started(wishes, record.host.boots_with().is_systemd()));
    }
    let what = "See what the next boot does with it";
    let comes = match entry.fstype.as_str() {
        "swap" => format!("{} active", entry.source),
        _ => format!("{} mounted", entry.target),
    };
    steps.push(Step::run(what, "bradawl forecast", visible(&comes)));
    if wishes.move_data {
        steps.push(moving::deleted(wishes));
    }
    steps
}

/// File systems with owners: the top directory is made to belong to the user.
fn owner(wishes: &DraftWishes, entry: &Fresh) -> Option<Step> {
    let name = wishes.owner.as_deref()?;
    let by_mount = OWNERLESS.contains(&entry.fstype.as_str()) || names_of_owner(&entry.fstype).is_some();
    if is_network_type(&entry.fstype) && !by_mount {
        let who = quoted(name);
        return Some(Step::by_hand(format!(
            "The server decides whose the files are: give them to {who} there"
        )));
    }
    let has_owners = !by_mount && !wishes.read_only;
    let run = format!("chown {}: {}", quoted(name), quoted(&entry.target));
    has_owners.then(|| {
        Step::run(format!("Give its top directory to {}, once it is mounted", quoted(name)), run, "no output")
    })
}
