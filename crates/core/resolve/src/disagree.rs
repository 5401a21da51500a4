//! Where the kernel or the device manager sees something else than the disks
//! hold.

use super::link::decode_link;
use super::source::Tag;
use bradawl_facts::map::Map;
use bradawl_facts::record::{Device, Origin, PartitionEntry, Record};

/// Partitions that a disk's own table has and the kernel does not know, or
/// knows with other bounds: it has to read the table again. The place of each
/// disk in the record, and of the partition in its table; only on a running
/// host.
pub fn unread_partitions(record: &Record) -> Vec<(usize, usize)> {
    if record.host.origin != Some(Origin::Live) {
        return Vec::new();
    }
    let mut known: Map<(&str, u32), &Device> = Map::default();
    for device in record.devices() {
        let number = device.partition.as_ref().and_then(|p| p.number);
        let disks = device.parents.iter().zip(number.into_iter().cycle());
        known.extend(disks.map(|(disk, number)| ((disk.as_str(), number), device)));
    }
    let is_known = |disk: &Device, entry: &PartitionEntry| {
        known.get(&(disk.path.as_str(), entry.number)).is_some_and(|device| {
            let start = device.partition.as_ref().and_then(|p| p.start);
            let bounds =
                start.is_none_or(|s| s == entry.start) && device.size.is_none_or(|s| s == entry.size);
            // The kernel shows an extended partition with two sectors only.
            bounds || entry.extended
        })
    };
    let mut unread = Vec::new();
    for (n, disk) in record.devices().iter().enumerate() {
        let entries = disk.content.iter().flat_map(|c| &c.partitions).enumerate();
        let lost = entries.filter(|(_, entry)| !is_known(disk, entry) && !entry.out_of_range);
        unread.extend(lost.map(|(at, _)| (n, at)));
    }
    unread
}

/// Links by UUID or label that do not name what the device holds now.
pub fn stale_links(device: &Device) -> Vec<&str> {
    let Some(content) = &device.content else { return Vec::new() };
    let differs = |link: &&str| {
        let named = |tag: Tag| link.strip_prefix("/dev/disk/")?.strip_prefix(tag.folder())?.strip_prefix('/');
        let uuid = named(Tag::Uuid).is_some_and(|v| content.uuid.as_deref() != Some(&decode_link(v)));
        let label = named(Tag::Label).is_some_and(|v| content.label.as_deref() != Some(&decode_link(v)));
        uuid || label
    };
    device.links.iter().flatten().map(String::as_str).filter(differs).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, ContentKind, DeviceKind, PartitionFacts};

    #[test]
    fn the_kernel_has_to_read_again() {
        let entry = |number, start| PartitionEntry {
            number,
            start,
            size: 4096,
            uuid: None,
            label: None,
            type_id: "0x83".into(),
            extended: false,
            out_of_range: false,
            no_auto: false,
        };
        let mut disk = Device::new("/dev/vdb", DeviceKind::Disk);
        let mut table = Content::new(ContentKind::PartitionTable, Some("dos"));
        table.partitions = vec![entry(1, 4096), entry(2, 8192)];
        disk.content = Some(table);
        let mut part = Device::new("/dev/vdb1", DeviceKind::Partition);
        part.parents = vec!["/dev/vdb".into()];
        part.size = Some(4096);
        part.partition =
            Some(PartitionFacts { number: Some(1), start: Some(4096), ..PartitionFacts::default() });
        let mut record = Record::new("kelp");
        record.devices = Some(vec![disk, part]);
        let numbers = |r: &Record| {
            unread_partitions(r)
                .iter()
                .map(|(n, at)| r.devices()[*n].content.as_ref().unwrap().partitions[*at].number)
                .collect::<Vec<_>>()
        };
        assert_eq!(numbers(&record), [] as [u32; 0]);
        record.host.origin = Some(Origin::Live);
        assert_eq!(numbers(&record), [2]);
        record.devices.as_mut().unwrap()[1].size = Some(512);
        assert_eq!(numbers(&record), [1, 2]);
    }

    #[test]
    fn links_of_an_earlier_life() {
        let mut device = Device::new("/dev/vdb", DeviceKind::Disk);
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        content.label = Some("press room".into());
        device.content = Some(content);
        device.links = Some(vec![
            "/dev/disk/by-label/press\\x20room".into(),
            "/dev/disk/by-uuid/old".into(),
            "/dev/disk/by-id/x".into(),
        ]);
        assert_eq!(stale_links(&device), ["/dev/disk/by-uuid/old"]);
    }
}
