//! Entries that the generator passes over.

use super::super::request::Request;
use super::rejected;
use bradawl_catalogue::SystemdVersion;
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
    /// Whether the generator began its unit: whatever needs that finds it broken.
    pub half: bool,
    /// Whether the generator makes its unit, which cannot be loaded then.
    pub made: bool,
}

/// Of an entry that nothing else explains.
const UNMADE: &str = "the host's own generator, which was asked, makes no unit of it";

/// The longest name of a file or directory, in bytes.
const NAME_MAX: usize = 255;

/// Why no unit is made for requests.
#[derive(Debug)]
pub(super) struct PassedOverAll {
    /// For each in order; `None`: it has one.
    pub each: Vec<Option<PassedOver>>,
    /// The line at which the generator aborts, before it has done what it does at
    /// its end.
    pub aborted: Option<usize>,
}

/// Why no unit is made for each request: it is of no use to the init system, an
/// earlier line asks for the same place or the same swap, or the generator
/// rejects it, or aborts at it or before.
pub(super) fn passed_over(requests: &[Request<'_>], version: SystemdVersion) -> PassedOverAll {
    let mut first: Map<(bool, &str), (usize, &str)> = map_of(requests.len());
    let mut aborted = None;
    let mut each = Vec::with_capacity(requests.len());
    for request in requests {
        let late = aborted.map(|(line, option)| {
            because(
                format!("line {line} has {option} without a value, which ends the init system's generator: this entry does not exist for the boot"),
                false,
            )
        });
        let passed = late.or_else(|| repeated(request, &mut first)).or_else(|| {
            let api = request.target.as_deref().is_some_and(|t| !request.is_root() && is_api(t));
            let at = if api { None } else { rejected::abort(request).map(|(_, option)| option) };
            aborted = at.map(|option| (request.line(), option));
            let ends = at.map(|option| {
                format!("with {option}, which has no value, the init system's generator ends here: neither this entry nor any after it exists for the boot")
            });
            let why = ends
                .or_else(|| rejected::rejected(request, version).filter(|_| !api))
                .or_else(|| (request.unmade && !api).then(|| UNMADE.to_owned()))?;
            Some(PassedOver { half: request.target.is_some(), ..because(why, false) })
        });
        each.push(passed);
    }
    PassedOverAll { each, aborted: aborted.map(|(line, _)| line) }
}

/// Why a request is of no use, or that an earlier one asks for the same.
fn repeated<'r>(
    request: &'r Request<'_>,
    first: &mut Map<(bool, &'r str), (usize, &'r str)>,
) -> Option<PassedOver> {
    if let Some(why) = of_no_use(request) {
        let made = !request.lost && request.winds();
        return Some(PassedOver { made, ..because(why.to_owned(), false) });
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
        _ if request.unloadable().is_some() => request.unloadable(),
        None if !request.entry.is_swap() => {
            Some("its target is no path; the init system passes the line over")
        }
        _ => None,
    }
}

fn because(why: String, repeats: bool) -> PassedOver {
    PassedOver { why, repeats, half: false, made: false }
}
