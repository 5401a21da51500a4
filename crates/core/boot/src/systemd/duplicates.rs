//! Entries that the generator passes over.

use super::super::request::Request;
use bradawl_facts::map::{Map, map_of};
use bradawl_facts::text::visible;

/// Directories that the init system mounts by itself; entries for them are not
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

/// Whether the init system mounts this directory by itself.
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

/// The longest name of a file or directory, in bytes.
const NAME_MAX: usize = 255;

/// Why no unit is made for each request: it is of no use to the init system, or
/// an earlier line asks for the same place or the same swap.
pub(super) fn passed_over<'r>(requests: &'r [Request<'_>]) -> Vec<Option<PassedOver>> {
    let mut first: Map<(bool, &str), (usize, &str)> = map_of(requests.len());
    let reason = |request: &'r Request<'_>| {
        if let Some(why) = of_no_use(request) {
            return Some(because(why.to_owned(), false));
        }
        let (key, what) = match &request.target {
            Some(target) => ((false, target.as_str()), visible(target)),
            None => ((true, request.unit.as_str()), "the same".into()),
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

/// Why the init system can do nothing with a line.
fn of_no_use(request: &Request<'_>) -> Option<&'static str> {
    let too_long = |target: &str| target.split('/').any(|name| name.len() > NAME_MAX);
    match &request.target {
        _ if request.lost && request.refused => {
            Some("the init system cannot read the line, and passes it over")
        }
        _ if request.lost => Some("the line before holds a NUL byte, and swallows this one"),
        Some(target) if target.len() > NAME_MAX && too_long(target) => {
            Some("a name in its target is longer than 255 bytes; the init system passes the line over")
        }
        Some(_) if request.unloadable().is_some() => request.unloadable(),
        None if !request.entry.is_swap() => {
            Some("its target is no path; the init system passes the line over")
        }
        _ => None,
    }
}

fn because(why: String, repeats: bool) -> PassedOver {
    PassedOver { why, repeats }
}
