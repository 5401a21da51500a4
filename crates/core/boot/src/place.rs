//! Where a path lies at the moment when an entry is tried, and what is known of
//! it there.
//!
//! What the survey saw at a path is true of the file system that is mounted
//! there now. Below the mount of another entry it says nothing, unless that
//! very file system is mounted there now.

use super::request::Request;
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::map::Map;
use bradawl_facts::path::{folders_above, tidy};
use bradawl_facts::record::{Inside, PathFacts, PathKind, Record};
use bradawl_resolve::{Index, Source};

/// What is known of a path where it will lie.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum There<'a> {
    /// These facts hold there.
    Facts(&'a PathFacts),
    /// It is a directory: the target of an entry.
    Target,
    /// It is not there; why.
    Absent(String),
    /// Nothing is known; why.
    Unknown(String),
    /// The survey did not look, and nothing lies over it.
    NotLooked,
}

/// Binds are followed so far.
const MAX_BINDS: usize = 8;

/// The entries of a table, as the file systems that paths will lie on.
pub(super) struct Places<'p, 'a> {
    record: &'a Record,
    index: &'a Index<'a>,
    requests: &'p [Request<'a>],
    /// The places of entries among the requests, by target; the first of one
    /// target counts (recorded).
    targets: Map<&'p str, usize>,
    /// What was seen inside devices that are not mounted, by device and path.
    inside: Map<(&'a str, Option<&'a str>, &'a str), &'a PathFacts>,
}

impl<'p, 'a> Places<'p, 'a> {
    pub fn new(record: &'a Record, index: &'a Index<'a>, requests: &'p [Request<'a>]) -> Self {
        let mounts = |r: &&Request<'a>| !r.lost && !r.refused && r.switched_off.is_none() && !r.is_root();
        let all = requests.iter().enumerate().filter(|(_, r)| mounts(r));
        let mut targets = Map::default();
        for (target, n) in all.filter_map(|(n, r)| Some((r.target.as_deref()?, n))) {
            targets.entry(target).or_insert(n);
        }
        let all = record.inside.iter().flat_map(|i| i.paths.iter().map(move |p| (i, p)));
        let key =
            |i: &'a Inside, p: &'a PathFacts| (i.device.as_str(), i.subvolume.as_deref(), p.path.as_str());
        let inside = all.map(|(i, p)| (key(i, p), p)).collect();
        Places { record, index, requests, targets, inside }
    }

    /// The target of an entry.
    pub fn target(&self, n: usize) -> Option<&'p str> {
        self.requests[n].target.as_deref()
    }

    /// The host's record.
    pub fn record(&self) -> &'a Record {
        self.record
    }

    /// The entry other than `but` on whose mount a path will lie; its place.
    pub fn covering(&self, path: &str, but: usize) -> Option<usize> {
        let path = tidy(path);
        let up = std::iter::once(path.as_ref()).chain(folders_above(&path));
        up.filter_map(|folder| self.targets.get(folder).copied()).find(|n| *n != but)
    }

    /// Whether the mount of an entry lets nothing be made on it.
    pub fn is_read_only(&self, n: usize) -> bool {
        in_force(&self.requests[n].entry.options, "ro", program_on(self.record))
    }

    /// What is known of a path when the entry `of` is tried.
    pub fn there(&self, path: &str, of: usize) -> There<'a> {
        self.followed(path, of, MAX_BINDS)
    }

    fn followed(&self, path: &str, of: usize, left: usize) -> There<'a> {
        let Some(n) = self.covering(path, of) else { return self.now(path) };
        let request = &self.requests[n];
        let target = request.target.as_deref().unwrap_or_default();
        if path == target {
            return There::Target;
        }
        let line = request.line();
        if matches!(request.mounted_type(), "tmpfs" | "ramfs") {
            return There::Absent(format!("line {line} mounts an empty {} over it", request.mounted_type()));
        }
        if self.is_mounted_now(n) {
            return self.now(path);
        }
        let rest = path.strip_prefix(target);
        if let Some(seen) = self.seen_inside(request, rest) {
            return seen;
        }
        match (&request.source, rest) {
            (Source::Path(from), Some(rest)) if request.entry.is_bind() && left > 0 => {
                self.followed(&format!("{}{rest}", from.trim_end_matches('/')), n, left - 1)
            }
            _ => There::Unknown(format!("it lies on what line {line} mounts, which was not looked into")),
        }
    }

    /// What was seen inside the file system of a device that is not mounted.
    fn seen_inside(&self, request: &Request<'_>, path: Option<&str>) -> Option<There<'a>> {
        let device = request.device()?.path.as_str();
        let subvolume = request.entry.subvolume();
        let facts = *self.inside.get(&(device, subvolume.as_deref(), path?))?;
        Some(match facts.kind {
            PathKind::Absent => There::Absent(format!("{device} does not hold it")),
            _ => There::Facts(facts),
        })
    }

    fn now(&self, path: &str) -> There<'a> {
        match self.index.path(path) {
            Some(facts) if facts.kind == PathKind::Absent => There::Absent(String::new()),
            Some(facts) => There::Facts(facts),
            None => There::NotLooked,
        }
    }

    /// Whether the file system that an entry mounts is mounted on its target
    /// now, so that what was seen there holds.
    pub fn is_mounted_now(&self, n: usize) -> bool {
        let request = &self.requests[n];
        let target = request.target.as_deref().unwrap_or_default();
        let Some(mount) = self.record.mounts.iter().flatten().rfind(|m| m.target == target) else {
            return false;
        };
        let whole = mount.root.as_deref().is_none_or(|root| root == "/") || mount.fstype == "btrfs";
        let same = match request.device() {
            Some(device) => self.index.device(&mount.source).is_some_and(|d| d.path == device.path),
            None => mount.source == request.entry.source,
        };
        same && (whole || request.entry.is_bind())
    }
}
