//! A subvolume that an entry names has to be there before.

use super::Draft;
use super::source::Found;
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_facts::record::Record;
use bradawl_facts::text::quoted;

/// Where the top of the file system is mounted meanwhile.
const ASIDE: &str = "/mnt/top";

/// The host once the subvolume is made.
pub(super) fn once_made(record: &mut Record, draft: &Draft) {
    let asked = draft.entry.options.iter().rev().find_map(|o| o.strip_prefix("subvol="));
    let devices = record.devices.iter_mut().flatten().filter(|d| Some(&d.path) == draft.device.as_ref());
    for known in devices.filter_map(|d| d.content.as_mut()?.subvolumes.as_mut()) {
        let asked = asked.map(|path| path.trim_matches('/')).filter(|path| !path.is_empty());
        known.extend(asked.filter(|path| !known.iter().any(|s| s == path)).map(str::to_owned));
    }
}

/// The steps that make the subvolume, where it is not known to be there.
pub(super) fn made(found: &Found<'_>, entry: &Fresh) -> Vec<Step> {
    let asked = entry.options.iter().rev().find_map(|o| o.strip_prefix("subvol="));
    let Some(asked) = asked.map(|path| path.trim_matches('/')).filter(|path| !path.is_empty()) else {
        return Vec::new();
    };
    let known = found.device.and_then(|d| d.content.as_ref()).and_then(|c| c.subvolumes.as_ref());
    if entry.fstype != "btrfs" || known.is_some_and(|all| all.iter().any(|s| s == asked)) {
        return Vec::new();
    }
    let (source, path) = (quoted(&entry.source), quoted(&format!("{ASIDE}/{asked}")));
    let above = asked.rsplit_once('/').map(|(above, _)| quoted(&format!("{ASIDE}/{above}")));
    let folder = above.map(|above| format!("mkdir -p {above} && ")).unwrap_or_default();
    vec![
        Step::run(
            "Mount the top of the file system aside",
            format!("mkdir -p {ASIDE} && mount -t btrfs -o subvolid=5 {source} {ASIDE}"),
            "no output",
        ),
        Step::run(
            format!("Make the subvolume {}", quoted(asked)),
            format!("{folder}btrfs subvolume create {path}"),
            "it names the subvolume",
        ),
        Step::run("Unmount it there", format!("umount {ASIDE}"), "no output"),
    ]
}
