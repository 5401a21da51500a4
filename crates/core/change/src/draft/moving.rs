//! Moving what a directory holds to a file system of its own: copied aside,
//! compared, and switched in one step, with the old directory kept.

use super::{DraftError, DraftWishes};
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_facts::path::is_within;
use bradawl_facts::record::{PathFacts, PathKind};
use bradawl_facts::text::quoted;

/// Where the new file system is mounted for the copy.
const ASIDE: &str = "/mnt/moving";

/// What the host runs from: it cannot be taken away under it.
const IN_USE: [&str; 12] =
    ["/", "/usr", "/etc", "/bin", "/sbin", "/lib", "/lib64", "/dev", "/proc", "/sys", "/run", "/var"];

/// Why a directory cannot be moved while the host runs.
pub(super) fn objection(target: &str, facts: Option<&PathFacts>) -> Option<DraftError> {
    if IN_USE.contains(&target) || !target.starts_with('/') {
        return Some(DraftError::InUse(target.to_owned()));
    }
    let nothing = facts.is_some_and(|f| f.kind != PathKind::Directory || f.entries == Some(0));
    nothing.then(|| DraftError::NothingToMove(target.to_owned()))
}

/// Up to the copy; the entry is written behind it.
pub(super) fn before(wishes: &DraftWishes, entry: &Fresh, systemd: bool) -> Vec<Step> {
    let (target, source) = (quoted(&wishes.target), quoted(&entry.source));
    let mut steps = vec![
        Step::run("Mount it aside", format!("mkdir -p {ASIDE} && mount {source} {ASIDE}"), "no output"),
        Step::run(
            "See who has files open there, and stop their services",
            format!(
                "find /proc/[0-9]*/fd -lname {} 2>/dev/null | cut -d/ -f3 | sort -u | xargs -r ps -o pid,unit,comm -p",
                quoted(&format!("{}/*", wishes.target))
            ),
            "no output once systemctl stop has stopped each of them",
        ),
    ];
    if journal(wishes, systemd) {
        steps.push(Step::run(
            "Have the journal written to memory meanwhile",
            "journalctl --relinquish-var",
            "no output",
        ));
    }
    steps.push(Step::run(
        "Copy all of it: owners, modes, times, attributes, hard links, holes",
        format!("cp -a --sparse=always {target}/. {ASIDE}/"),
        "no output",
    ));
    steps.push(Step::run(
        "Compare",
        format!("diff -r --no-dereference -x lost+found {target} {ASIDE}"),
        "no output",
    ));
    steps.push(Step::run("Unmount it there", format!("umount {ASIDE}"), "no output"));
    steps
}

/// The switch, once the entry stands in the table.
pub(super) fn switch(wishes: &DraftWishes) -> Step {
    let (target, old) = (quoted(&wishes.target), quoted(&old(wishes)));
    Step::run(
        "Put the old directory aside, and make one like it to mount on",
        format!(
            "mv {target} {old} && mkdir {target} && chown --reference={old} {target} && chmod --reference={old} {target}"
        ),
        "no output",
    )
}

/// What is started again once it is mounted.
pub(super) fn started(wishes: &DraftWishes, systemd: bool) -> Vec<Step> {
    let mut steps = Vec::new();
    if journal(wishes, systemd) {
        steps.push(Step::run("Have the journal written there again", "journalctl --flush", "no output"));
    }
    steps.push(Step::by_hand("Start the services that were stopped"));
    steps
}

/// The end of the old directory.
pub(super) fn deleted(wishes: &DraftWishes) -> Step {
    Step::run(
        "After the next boot, when all is there and in use: delete the old one",
        format!("rm -rf {}", quoted(&old(wishes))),
        "no output; until then it can be put back",
    )
}

fn old(wishes: &DraftWishes) -> String {
    format!("{}.old", wishes.target.trim_end_matches('/'))
}

/// Whether the journal of the host lies there.
fn journal(wishes: &DraftWishes, systemd: bool) -> bool {
    systemd && is_within("/var/log/journal", &wishes.target)
}
