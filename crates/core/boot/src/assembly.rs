//! Devices made of several others: arrays, volume groups, a Btrfs of many
//! devices. Whether they come at a boot where a part is missing was recorded
//! (boots-early.jsonl).

use bradawl_facts::map::Map;
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Devices that lie on each other deeper than this are not looked into.
const MAX_DEPTH: usize = 16;

/// What a device that the record has lacks at the next boot.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Lack {
    /// It comes all the same, after the missing part was waited for.
    Late(String),
    /// It does not come.
    Never(String),
}

impl Lack {
    /// What is missing.
    pub fn words(&self) -> &str {
        let (Lack::Late(words) | Lack::Never(words)) = self;
        words
    }
}

/// What a device lacks, itself or below.
pub fn lack<'a>(record: &'a Record, index: &'a Index<'a>, device: &'a Device) -> Option<Lack> {
    // Most are whole by themselves.
    let alone = device.parents.is_empty() && device.content.as_ref().is_none_or(|c| c.num_devices.is_none());
    if alone { None } else { Parts { record, index, known: Map::default() }.lack_at(device, 0) }
}

/// The parts of a host's composed devices.
struct Parts<'a> {
    record: &'a Record,
    index: &'a Index<'a>,
    /// Devices that were looked at, or are being looked at: a record may say
    /// that they lie on each other in a hundred ways.
    known: Map<&'a str, Option<Lack>>,
}

impl<'a> Parts<'a> {
    fn lack_at(&mut self, device: &'a Device, depth: usize) -> Option<Lack> {
        if let Some(known) = self.known.get(device.path.as_str()) {
            return known.clone();
        }
        if depth > MAX_DEPTH {
            return None;
        }
        self.known.insert(&device.path, None);
        let lack = self.look_at(device, depth);
        self.known.insert(&device.path, lack.clone());
        lack
    }

    fn look_at(&mut self, device: &'a Device, depth: usize) -> Option<Lack> {
        let parents: Vec<&Device> = device.parents.iter().filter_map(|p| self.index.device(p)).collect();
        let below: Vec<Lack> = parents.iter().filter_map(|p| self.lack_at(p, depth + 1)).collect();
        let own = match device.kind {
            DeviceKind::Raid => {
                return array_lack(&parents, below.iter().filter(|l| matches!(l, Lack::Never(_))).count());
            }
            DeviceKind::Mapper => parents.iter().find_map(|p| self.group_lack(p.content.as_ref()?)),
            _ => None,
        };
        own.or_else(|| worst(below)).or_else(|| self.pool_lack(device.content.as_ref()?))
    }

    /// A logical volume comes once its whole group is there, whatever it lies
    /// on itself.
    fn group_lack(&self, content: &Content) -> Option<Lack> {
        let group = content.group.as_ref().filter(|_| content.kind == ContentKind::LvmPv)?;
        let lost = group
            .pv_uuids
            .iter()
            .filter(|uuid| !self.index.gathered().physical_volumes.contains(uuid.as_str()));
        let lost = lost.count();
        let why = || {
            let all = group.pv_uuids.len();
            format!("the group {} lacks {lost} of its {all} physical volumes", visible(&group.name))
        };
        (lost > 0 && self.all_read()).then(|| Lack::Never(why()))
    }

    /// A file system of several devices is ready when all of them are there.
    fn pool_lack(&self, content: &Content) -> Option<Lack> {
        let all = content.num_devices.filter(|n| *n > 1 && content.kind == ContentKind::Filesystem)?;
        let there = self.index.gathered().alike(content.kind, content.uuid.as_deref()?);
        let why = || format!("its file system lacks {} of its {all} devices", all - there);
        (there < all && self.all_read()).then(|| Lack::Never(why()))
    }

    /// Whether every device could be read, so that nothing is missed that is
    /// only not known. Volumes of a group are no parts of one.
    fn all_read(&self) -> bool {
        let holds_volumes = |path: &String| {
            let content = self.index.device(path).and_then(|d| d.content.as_ref());
            content.is_some_and(|c| c.kind == ContentKind::LvmPv)
        };
        let no_part = |d: &Device| match d.kind {
            DeviceKind::Optical | DeviceKind::Zram | DeviceKind::Ram => true,
            DeviceKind::Mapper => d.parents.iter().any(holds_volumes),
            _ => false,
        };
        self.record.devices.iter().flatten().all(|d| d.content.is_some() || no_part(d))
    }
}

fn worst(all: Vec<Lack>) -> Option<Lack> {
    let never = all.iter().position(|l| matches!(l, Lack::Never(_)));
    all.into_iter().nth(never.unwrap_or(0))
}

/// An array starts at once with the members it last ran with, later with as
/// many as its level can do with, and never with fewer.
fn array_lack(members: &[&Device], lost_below: usize) -> Option<Lack> {
    let contents = members.iter().filter_map(|d| d.content.as_ref());
    let member = contents.clone().find(|c| c.kind == ContentKind::RaidMember)?;
    let all = member.raid_devices?;
    let there = u32::try_from(members.len() - lost_below.min(members.len())).ok()?;
    let last = contents.filter_map(|c| c.working_devices).min().unwrap_or(all);
    if there >= all.min(last) {
        return None;
    }
    let spared = match member.level.as_deref()? {
        "raid1" => all - 1,
        "raid4" | "raid5" | "raid10" => 1,
        "raid6" => 2,
        _ => 0,
    };
    let why = format!("the array lacks {} of its {all} members", all - there);
    Some(if there + spared >= all { Lack::Late(why) } else { Lack::Never(why) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::VolumeGroup;

    fn member(path: &str, level: &str, all: u32) -> Device {
        let content = Content {
            level: Some(level.to_owned()),
            raid_devices: Some(all),
            ..Content::new(ContentKind::RaidMember, Some("mdraid 1.2"))
        };
        Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
    }

    fn of_array(level: &str, all: u32, there: u32, last: Option<u32>) -> Option<&'static str> {
        let mut record = Record::new("archive");
        let mut devices: Vec<Device> =
            (0..there).map(|n| member(&format!("/dev/sd{n}"), level, all)).collect();
        devices.iter_mut().for_each(|d| d.content.as_mut().unwrap().working_devices = last);
        let mut array = Device::new("/dev/md0", DeviceKind::Raid);
        array.parents = devices.iter().map(|d| d.path.clone()).collect();
        devices.push(array.clone());
        record.devices = Some(devices);
        lack(&record, &Index::new(&record), &array).map(|lack| match lack {
            Lack::Late(_) => "late",
            Lack::Never(_) => "never",
        })
    }

    #[test]
    fn arrays_by_level() {
        for (level, all, there, last, expected) in [
            ("raid1", 2, 2, None, None),
            ("raid1", 2, 1, None, Some("late")),
            ("raid1", 2, 1, Some(1), None),
            ("raid0", 2, 1, None, Some("never")),
            ("raid5", 3, 2, None, Some("late")),
            ("raid5", 4, 2, None, Some("never")),
            ("raid6", 4, 2, None, Some("late")),
            ("raid10", 4, 2, None, Some("never")),
        ] {
            assert_eq!(of_array(level, all, there, last), expected, "{level} {there} of {all}");
        }
    }

    #[test]
    fn a_volume_needs_its_whole_group() {
        let mut record = Record::new("archive");
        let group = VolumeGroup {
            name: "hold".into(),
            pv_uuids: vec!["a".into(), "b".into()],
            ..VolumeGroup::default()
        };
        let disk = |path: &str, uuid: &str| {
            let content = Content {
                uuid: Some(uuid.to_owned()),
                group: Some(group.clone()),
                ..Content::new(ContentKind::LvmPv, Some("LVM2 PV"))
            };
            Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
        };
        let mut volume = Device::new("/dev/dm-0", DeviceKind::Mapper);
        volume.parents = vec!["/dev/sda".into()];
        volume.content = Some(Content::new(ContentKind::Filesystem, Some("ext4")));
        record.devices = Some(vec![disk("/dev/sda", "a"), disk("/dev/sdb", "b"), volume.clone()]);
        let lacks = |record: &Record| lack(record, &Index::new(record), &volume);
        assert_eq!(lacks(&record), None);
        record.devices.as_mut().unwrap().remove(1);
        assert!(matches!(lacks(&record), Some(Lack::Never(why)) if why.contains("hold")));
        // Another volume is none of its disks, a disk that could not be read
        // may be one.
        let mut other = Device::new("/dev/dm-1", DeviceKind::Mapper);
        other.parents = vec!["/dev/sda".into()];
        record.devices.as_mut().unwrap().push(other);
        assert!(lacks(&record).is_some());
        record.devices.as_mut().unwrap().push(Device::new("/dev/sdc", DeviceKind::Disk));
        assert_eq!(lacks(&record), None);
    }
}
