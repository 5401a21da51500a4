//! Devices that could not be read: each may have any name, but one that is in
//! use elsewhere is not the one that is meant.

use super::purpose::Purpose;
use super::usage::Uses;
use bradawl_facts::map::Set;
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
            let on = uses.targets(device);
            let swap = uses.is_swapped(device);
            doubt.targets.extend(on.iter().copied());
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
