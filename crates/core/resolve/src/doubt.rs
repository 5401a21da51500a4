//! Devices that could not be read: each may have any name, but one that is in
//! use elsewhere is not the one that is meant.

use super::index::Purpose;
use bradawl_facts::map::{Map, Set};
use bradawl_facts::record::{Device, Record};

/// What the devices that could not be read are in use for.
#[derive(Default)]
pub(super) struct Doubt<'a> {
    any: bool,
    /// Whether one is not in use at all.
    unused: bool,
    swap: bool,
    targets: Set<&'a str>,
}

impl<'a> Doubt<'a> {
    pub fn of(record: &'a Record, unread: impl Iterator<Item = &'a Device>) -> Self {
        let mut doubt = Doubt::default();
        let mut uses = None;
        for device in unread {
            let uses = uses.get_or_insert_with(|| Uses::of(record));
            doubt.any = true;
            let numbers = device.major.zip(device.minor).map(|(major, minor)| format!("{major}:{minor}"));
            let names = [Some(device.path.as_str()), numbers.as_deref()];
            let on: Vec<&Vec<&str>> =
                names.into_iter().flatten().filter_map(|n| uses.mounts.get(n)).collect();
            doubt.targets.extend(on.iter().copied().flatten());
            let swap = uses.swaps.contains(device.path.as_str());
            doubt.swap |= swap;
            doubt.unused |= !swap && on.is_empty();
        }
        doubt
    }

    /// Whether one of them may be what is asked for.
    pub fn may_serve(&self, purpose: Purpose<'_>) -> bool {
        match purpose {
            Purpose::Any => self.any,
            Purpose::Mount(target) => self.unused || self.targets.contains(target),
            Purpose::Swap => self.unused || self.swap,
        }
    }
}

/// What is mounted from each source and device number, and what is swapped on.
struct Uses<'a> {
    mounts: Map<&'a str, Vec<&'a str>>,
    swaps: Set<&'a str>,
}

impl<'a> Uses<'a> {
    fn of(record: &'a Record) -> Self {
        let mut mounts: Map<&str, Vec<&str>> = Map::default();
        for mount in record.mounts.iter().flatten() {
            for key in [Some(mount.source.as_str()), mount.device.as_deref()].into_iter().flatten() {
                mounts.entry(key).or_default().push(&mount.target);
            }
        }
        Uses { mounts, swaps: record.swaps.iter().flatten().map(|s| s.path.as_str()).collect() }
    }
}
