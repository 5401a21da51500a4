//! Entries that the generator passes over.

use super::super::request::Request;
use crate::map::{Map, map_of};
use crate::text::visible;

/// Folders that the init system mounts by itself; entries for them are not
/// made into units.
const API_FOLDERS: [&str; 12] = [
    "/proc",
    "/sys",
    "/dev",
    "/dev/pts",
    "/dev/shm",
    "/run",
    "/sys/fs/cgroup",
    "/sys/fs/pstore",
    "/sys/fs/bpf",
    "/sys/kernel/security",
    "/sys/firmware/efi/efivars",
    "/sys/fs/smackfs",
];

/// Whether the init system mounts this folder by itself.
pub(super) fn is_api(target: &str) -> bool {
    API_FOLDERS.contains(&target)
}

/// Why no unit is made for a request.
#[derive(Debug, Clone)]
pub(super) struct PassedOver {
    pub why: String,
    /// Whether what it asks for is there all the same.
    pub repeats: bool,
}

/// Why no unit is made for each request: its target is no path, or an earlier
/// line asks for the same place or the same swap.
pub(super) fn passed_over<'r>(requests: &'r [Request<'_>]) -> Vec<Option<PassedOver>> {
    let mut first: Map<(bool, &str), (usize, &str)> = map_of(requests.len());
    let reason = |request: &'r Request<'_>| {
        if request.lost && request.refused {
            return Some(because(
                "the init system cannot read the line, and passes it over".to_owned(),
                false,
            ));
        }
        if request.lost {
            return Some(because(
                "the line before holds a NUL byte, and swallows this one".to_owned(),
                false,
            ));
        }
        let (key, what) = match &request.target {
            Some(target) => ((false, target.as_str()), visible(target)),
            None if request.entry.is_swap() => ((true, request.unit.as_str()), "the same".into()),
            None => {
                let why = "its target is no path; the init system passes the line over";
                return Some(because(why.to_owned(), false));
            }
        };
        let here = (request.line(), request.path.as_str());
        let (line, source) = first.entry(key).or_insert_with(|| here);
        (*line != here.0).then(|| match *source == here.1 || key.0 {
            true => because(format!("line {line} already asks for the same"), true),
            false => because(format!("line {line} already mounts {what}; the first one counts"), false),
        })
    };
    requests.iter().map(reason).collect()
}

fn because(why: String, repeats: bool) -> PassedOver {
    PassedOver { why, repeats }
}
