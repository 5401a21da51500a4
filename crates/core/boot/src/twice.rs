//! One file system at two places (recorded: boots-twice.jsonl). The kernel does not let a
//! device be writable and read-only at once: the read-only mount fails where the writable one
//! was first, else the writable one is read-only. While a check has the device, nobody else
//! mounts it. Which comes first, nothing but the boot's own pace says.

use super::request::Request;
use super::trial::Trial;

/// The entries that may come second, by their places, and what that does to them.
pub(super) fn may_come_second(requests: &[Request<'_>]) -> Vec<(usize, String)> {
    let mounts = |r: &Request<'_>| !r.noauto && !r.entry.is_bind() && !r.entry.is_swap();
    let mut all: Vec<_> = requests
        .iter()
        .enumerate()
        .filter(|(_, r)| mounts(r))
        .filter_map(|(n, r)| Some((r.device()?.path.as_str(), n)))
        .collect();
    all.sort_unstable();
    let mut found = Vec::new();
    for group in all.chunk_by(|a, b| a.0 == b.0).filter(|group| group.len() > 1) {
        for (_, n) in group {
            let others = group.iter().filter(|(_, other)| other != n).map(|(_, other)| &requests[*other]);
            found.extend(second(&requests[*n], others).map(|why| (*n, why)));
        }
    }
    found
}

/// What comes of an entry where another of the same device was first.
fn second<'r>(request: &Request<'_>, mut others: impl Iterator<Item = &'r Request<'r>>) -> Option<String> {
    let read_only = |r: &Request<'_>| r.entry.switched("ro", "rw");
    let fails = |r: &Request<'_>| matches!(r.trial, Trial::Fails(..)) && !r.is_root();
    if request.is_root() || request.trial != Trial::Works {
        return None;
    }
    // e2fsck was seen to keep its device from others.
    let checks = |r: &Request<'_>| {
        r.entry.pass > 0 && !r.is_root() && matches!(r.mounted_type(), "ext2" | "ext3" | "ext4")
    };
    others.find_map(|other| {
        let line = other.line();
        match () {
            () if fails(other) => None,
            // Btrfs can be both at once.
            () if read_only(request) && !read_only(other) && request.mounted_type() != "btrfs" => Some(format!(
                "line {line} mounts the same file system writable: this fails where that comes first, and \
                     otherwise that is read-only; a bind mount of its target (bind,ro) can be read-only beside it"
            )),
            () if checks(other) && request.entry.pass == 0 => {
                Some(format!("its device is checked for line {line}, and cannot be mounted meanwhile"))
            }
            () => None,
        }
    })
}
