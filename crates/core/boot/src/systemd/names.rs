//! What names the units of a boot. Devices and their checks are found by the
//! device's path, so that their names need not be made.

use super::super::unit_name::path_of;
use bradawl_facts::map::{Map, map_of};
use bradawl_facts::path::tidy;
use std::borrow::Cow;

/// A unit's name, or the path that it stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Name<'n> {
    /// Any unit, by its name.
    Unit(&'n str),
    /// The device of this path.
    Device(&'n str),
    /// The check of the device of this path.
    Check(&'n str),
}

/// Numbers by names.
#[derive(Debug)]
pub(super) struct Names<'a> {
    units: Map<Cow<'a, str>, usize>,
    devices: Map<Cow<'a, str>, usize>,
    checks: Map<Cow<'a, str>, usize>,
}

impl<'a> Names<'a> {
    /// With room for the units of this many entries.
    pub fn for_entries(count: usize) -> Self {
        Names { units: map_of(count + 16), devices: map_of(count), checks: map_of(count) }
    }

    /// The number of this name.
    pub fn get(&self, name: Name<'_>) -> Option<usize> {
        match name {
            Name::Unit(unit) => match by_path(unit) {
                Some(ByPath::Device(path)) => self.get(Name::Device(&path)),
                Some(ByPath::Check(path)) => self.get(Name::Check(&path)),
                None => self.units.get(unit).copied(),
            },
            Name::Device(path) => self.devices.get(&tidy(path)).copied(),
            Name::Check(path) => self.checks.get(&tidy(path)).copied(),
        }
    }

    /// Gives a name its number.
    pub fn insert(&mut self, name: Name<'_>, number: usize) {
        match name {
            Name::Unit(unit) => match by_path(unit) {
                Some(ByPath::Device(path)) => self.devices.insert(path.into(), number),
                Some(ByPath::Check(path)) => self.checks.insert(path.into(), number),
                None => self.units.insert(unit.to_owned().into(), number),
            },
            Name::Device(path) => self.devices.insert(tidy(path).into_owned().into(), number),
            Name::Check(path) => self.checks.insert(tidy(path).into_owned().into(), number),
        };
    }

    /// The same for a name that outlives the boot.
    pub fn insert_lasting(&mut self, name: Name<'a>, number: usize) {
        match name {
            Name::Unit(unit) if by_path(unit).is_none() => drop(self.units.insert(unit.into(), number)),
            Name::Device(path) => drop(self.devices.insert(tidy(path), number)),
            Name::Check(path) => drop(self.checks.insert(tidy(path), number)),
            Name::Unit(_) => self.insert(name, number),
        }
    }
}

enum ByPath {
    Device(String),
    Check(String),
}

/// The path that a unit of a device is named after.
fn by_path(unit: &str) -> Option<ByPath> {
    if let Some(device) = unit.strip_suffix(".device") {
        return Some(ByPath::Device(path_of(device)));
    }
    let check = unit.strip_prefix("systemd-fsck@")?.strip_suffix(".service")?;
    Some(ByPath::Check(path_of(check)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_device_by_its_path_and_by_its_name() {
        let mut names = Names::for_entries(1);
        names.insert_lasting(Name::Device("/dev//disk/by-label/a-b"), 7);
        names.insert(Name::Unit("systemd-fsck@dev-sda1.service"), 8);
        names.insert(Name::Unit("srv-a.mount"), 9);
        for (name, number) in [
            (Name::Unit("dev-disk-by\\x2dlabel-a\\x2db.device"), Some(7)),
            (Name::Device("/dev/disk/by-label/a-b"), Some(7)),
            (Name::Check("/dev/sda1"), Some(8)),
            (Name::Unit("srv-a.mount"), Some(9)),
            (Name::Check("/dev/disk/by-label/a-b"), None),
            (Name::Unit("srv-b.mount"), None),
        ] {
            assert_eq!(names.get(name), number, "{name:?}");
        }
    }
}
