//! What to do before and after, as commands to read and run.

use super::DraftWishes;
use super::choices::OWNERLESS;
use super::source::Found;
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_facts::record::{Device, PathFacts, PathKind, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, list, quoted, visible};
use bradawl_resolve::Source;

pub(super) fn before(record: &Record, found: &Found<'_>, wishes: &DraftWishes, entry: &Fresh) -> Vec<Step> {
    let mut steps = Vec::new();
    if let Some(device) = found.device {
        steps.extend(release(record, device, wishes, entry));
        if found.to_make {
            steps.push(made(device, wishes, entry));
        }
    }
    if let (Source::Path(path), "swap") = (&found.source, entry.fstype.as_str()) {
        steps.extend(swap_file(facts(record, path), path));
    }
    if entry.fstype != "swap" {
        steps.extend(target(record, &wishes.target));
    }
    steps
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
                Some(names) => format!("busy now: {} must let go of it first", visible(&list(names))),
                None => format!("no output; if it says \"busy\", fuser -vm {word} names who holds it"),
            };
            let what = format!("It is mounted on {word} now; let go of it there");
            Step::run(what, format!("umount {word}"), expect)
        })
        .collect()
}

/// The targets that the host's own table has.
fn listed(record: &Record) -> Vec<String> {
    let bytes = record.tables.first().and_then(|t| t.bytes.bytes()).unwrap_or_default();
    Table::parse(bytes).entries().into_iter().map(|e| e.target).collect()
}

fn made(device: &Device, wishes: &DraftWishes, entry: &Fresh) -> Step {
    let path = quoted(&device.path);
    let uuid = wishes.fresh_uuid.as_deref().unwrap_or_default();
    let run = match entry.fstype.as_str() {
        "swap" => format!("mkswap -U {uuid} {path}"),
        "xfs" => format!("mkfs.xfs -m uuid={uuid} {path}"),
        other => format!("mkfs.{} -U {uuid} {path}", quoted(other)),
    };
    let size = device.size.map(bradawl_facts::size::decimal).unwrap_or_default();
    Step::run(
        format!(
            "Make the {} on {path} ({size}); what is on it is lost. It was empty when it was looked at",
            entry.fstype
        ),
        run,
        "it names the UUID of the line; it asks before it overwrites anything",
    )
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

/// The folder to mount on.
fn target(record: &Record, path: &str) -> Vec<Step> {
    let word = quoted(path);
    let make = Step::run("Make the folder to mount on", format!("mkdir -p {word}"), "no output");
    let Some(facts) = facts(record, path) else { return vec![make] };
    match facts.kind {
        PathKind::Absent => vec![make],
        PathKind::Directory => {
            let mounted = record.mounts.iter().flatten().any(|m| m.target == path);
            let hidden = facts.entries.filter(|n| *n > 0 && !mounted);
            let what = |n| {
                format!(
                    "{word} holds {}, which the mount would hide: move away what is needed, or mount elsewhere",
                    count(n as usize, "entry")
                )
            };
            hidden
                .map(|n| Step::run(what(n), format!("ls -A {word}"), "what would be hidden"))
                .into_iter()
                .collect()
        }
        _ => vec![Step::by_hand(format!("{word} is not a folder: take it away, or choose another target"))],
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
    let what = "See what the next boot does with it";
    steps.push(Step::run(what, "bradawl forecast", list(&["login, with everything in place".to_owned()])));
    steps
}

/// File systems with owners: the top folder is made to belong to the user.
fn owner(wishes: &DraftWishes, entry: &Fresh) -> Option<Step> {
    let name = wishes.owner.as_deref()?;
    let has_owners = !OWNERLESS.contains(&entry.fstype.as_str()) && !wishes.read_only;
    let run = format!("chown {}: {}", quoted(name), quoted(&entry.target));
    has_owners.then(|| {
        Step::run(format!("Give its top folder to {}, once it is mounted", quoted(name)), run, "no output")
    })
}
