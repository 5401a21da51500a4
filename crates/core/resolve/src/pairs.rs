//! Devices of one host at two times: which of now is which of then, by what
//! they are before by what they are called.

use bradawl_facts::record::{ContentKind, Device, DeviceKind};
use std::collections::HashMap;

/// For each device of `new` the place of the same one in `old`; `None`: it was
/// not there.
///
/// A drive is known by its serial number, a partition by its own UUID or by its
/// drive and number, everything else by the UUID of what it holds or a name
/// that is its own; only what has none of these by its path. A name that
/// several have tells nothing.
pub fn same_devices(old: &[Device], new: &[Device]) -> Vec<Option<usize>> {
    let mut pairs = Pairs { old, new, of_new: vec![None; new.len()], taken: vec![false; old.len()] };
    for key in [hardware, partition, table, content, own_name] {
        pairs.by(key);
    }
    pairs.by_disk();
    pairs.by_path();
    pairs.of_new
}

type Key = fn(&Device) -> Option<String>;

struct Pairs<'a> {
    old: &'a [Device],
    new: &'a [Device],
    of_new: Vec<Option<usize>>,
    taken: Vec<bool>,
}

impl Pairs<'_> {
    fn pair(&mut self, old: usize, new: usize) {
        self.of_new[new] = Some(old);
        self.taken[old] = true;
    }

    /// Those that one key, which nothing else has, makes the same.
    fn by(&mut self, key: Key) {
        let before = unique(self.old.iter().enumerate().filter(|(n, _)| !self.taken[*n]), key);
        let now = unique(self.new.iter().enumerate().filter(|(n, _)| self.of_new[*n].is_none()), key);
        let mut found: Vec<(usize, usize)> =
            now.iter().filter_map(|(key, new)| Some(((*before.get(key)?)?, (*new)?))).collect();
        found.sort_unstable();
        found.into_iter().for_each(|(old, new)| self.pair(old, new));
    }

    /// Partitions of the same number on the same disk.
    fn by_disk(&mut self) {
        for new in 0..self.new.len() {
            let device = &self.new[new];
            let (None, Some(number)) = (self.of_new[new], device.partition.as_ref().map(|p| p.number)) else {
                continue;
            };
            let disk = device.parents.first().and_then(|p| self.new.iter().position(|d| d.path == *p));
            let Some(disk) = disk.and_then(|n| self.of_new[n]).map(|n| self.old[n].path.as_str()) else {
                continue;
            };
            let is_it = |d: &Device| {
                d.parents.first().is_some_and(|p| p == disk)
                    && d.partition.as_ref().is_some_and(|p| p.number == number)
            };
            let found = (0..self.old.len()).find(|n| !self.taken[*n] && is_it(&self.old[*n]));
            found.into_iter().for_each(|old| self.pair(old, new));
        }
    }

    /// What nothing else tells, by its path; not where a serial number says otherwise.
    fn by_path(&mut self) {
        for new in 0..self.new.len() {
            let device = &self.new[new];
            let is_it = |d: &Device| {
                let other = d.serial.as_ref().zip(device.serial.as_ref()).is_some_and(|(a, b)| a != b);
                d.path == device.path && !other
            };
            let found = (0..self.old.len()).find(|n| !self.taken[*n] && is_it(&self.old[*n]));
            found.filter(|_| self.of_new[new].is_none()).into_iter().for_each(|old| self.pair(old, new));
        }
    }
}

/// The place of each key that one device has; of those that several have none.
fn unique<'a>(
    devices: impl Iterator<Item = (usize, &'a Device)>,
    key: Key,
) -> HashMap<String, Option<usize>> {
    let mut found: HashMap<String, Option<usize>> = HashMap::new();
    for (n, device) in devices {
        if let Some(key) = key(device) {
            found.entry(key).and_modify(|place| *place = None).or_insert(Some(n));
        }
    }
    found
}

fn hardware(device: &Device) -> Option<String> {
    let serial = device.serial.as_ref().filter(|s| !s.trim().is_empty())?;
    let number = device.partition.as_ref().map(|p| p.number);
    matches!(device.kind, DeviceKind::Disk | DeviceKind::Partition | DeviceKind::Optical)
        .then(|| format!("{} {serial} {number:?}", device.model.as_deref().unwrap_or_default()))
}

fn partition(device: &Device) -> Option<String> {
    device.partition.as_ref()?.uuid.as_ref().map(|uuid| uuid.to_lowercase())
}

fn table(device: &Device) -> Option<String> {
    let content = device.content.as_ref().filter(|c| c.kind == ContentKind::PartitionTable)?;
    content.uuid.as_ref().map(|uuid| uuid.to_lowercase())
}

fn content(device: &Device) -> Option<String> {
    let content = device.content.as_ref().filter(|c| c.kind != ContentKind::PartitionTable)?;
    // Members of an array share its UUID; each has one of its own beside it.
    let own = content.sub_uuid.as_ref().or(content.uuid.as_ref())?;
    Some(format!("{:?} {}", content.kind, own.to_lowercase()))
}

/// Volumes, arrays and loop devices have names that are given to them.
fn own_name(device: &Device) -> Option<String> {
    let named = |start: &str| device.links.iter().flatten().find(|l| l.starts_with(start)).cloned();
    match device.kind {
        DeviceKind::Mapper => named("/dev/mapper/").or_else(|| Some(device.path.clone())),
        DeviceKind::Raid => named("/dev/md/").or_else(|| Some(device.path.clone())),
        DeviceKind::Loop => device.backing.as_ref().map(|b| format!("{} {}", b.file, b.offset)),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, PartitionFacts};

    fn disk(path: &str, serial: &str) -> Device {
        let serial = Some(serial.to_owned()).filter(|s| !s.is_empty());
        Device { serial, ..Device::new(path, DeviceKind::Disk) }
    }

    fn part(path: &str, disk: &str, number: u32) -> Device {
        let partition = Some(PartitionFacts { number: Some(number), ..PartitionFacts::default() });
        Device { partition, parents: vec![disk.to_owned()], ..Device::new(path, DeviceKind::Partition) }
    }

    fn holds(mut device: Device, uuid: &str) -> Device {
        let mut content = Content::new(ContentKind::Filesystem, Some("xfs"));
        content.uuid = Some(uuid.to_owned());
        device.content = Some(content);
        device
    }

    /// The earlier path of each device.
    fn was(old: &[Device], new: &[Device]) -> Vec<Option<String>> {
        same_devices(old, new).into_iter().map(|n| n.map(|n| old[n].path.clone())).collect()
    }

    fn some(paths: &[&str]) -> Vec<Option<String>> {
        paths.iter().map(|p| Some((*p).to_owned()).filter(|p| !p.is_empty())).collect()
    }

    #[test]
    fn drives_that_changed_places() {
        let old = [
            disk("/dev/sda", "A"),
            part("/dev/sda1", "/dev/sda", 1),
            disk("/dev/sdb", "B"),
            part("/dev/sdb1", "/dev/sdb", 1),
        ];
        let new = [
            disk("/dev/sda", "B"),
            part("/dev/sda1", "/dev/sda", 1),
            disk("/dev/sdb", "A"),
            part("/dev/sdb1", "/dev/sdb", 1),
        ];
        assert_eq!(was(&old, &new), some(&["/dev/sdb", "/dev/sdb1", "/dev/sda", "/dev/sda1"]));
    }

    #[test]
    fn what_is_told_by_its_content_and_what_by_its_path() {
        let old = [holds(disk("/dev/vdb", ""), "1"), disk("/dev/vdc", ""), disk("/dev/vdd", "D")];
        let moved = [disk("/dev/vdb", ""), holds(disk("/dev/vdc", ""), "1"), disk("/dev/vdd", "E")];
        // vdb's content is on vdc now; the empty one cannot be told; vdd is another drive.
        assert_eq!(was(&old, &moved), some(&["", "/dev/vdb", ""]));
        // A disk that was reformatted is the same disk.
        let anew = [holds(disk("/dev/vdb", ""), "2")];
        assert_eq!(was(&old, &anew), some(&["/dev/vdb"]));
    }

    #[test]
    fn a_name_that_several_have_tells_nothing() {
        let old = [holds(disk("/dev/vdb", ""), "1"), holds(disk("/dev/vdc", ""), "1")];
        let new = [holds(disk("/dev/vdc", ""), "1"), holds(disk("/dev/vdb", ""), "1")];
        assert_eq!(was(&old, &new), some(&["/dev/vdc", "/dev/vdb"]));
    }
}
