//! Where the kernel or the device manager sees something else than the disks
//! hold.

use super::link::decode_link;
use super::source::{Source, Tag};
use crate::record::{Device, Origin, PartitionEntry, Record};

/// Partitions that the disk's own table has and the kernel does not know, or
/// knows with other bounds: it has to read the table again. Only on a running
/// host.
pub fn not_in_kernel<'a>(record: &'a Record, disk: &'a Device) -> Vec<&'a PartitionEntry> {
    let Some(content) = disk.content.as_ref().filter(|_| record.host.origin == Some(Origin::Live)) else {
        return Vec::new();
    };
    let known: Vec<&Device> =
        record.devices().iter().filter(|d| d.partition.is_some() && d.parents.contains(&disk.path)).collect();
    let is_known = |entry: &&PartitionEntry| {
        known.iter().any(|device| {
            let facts = device.partition.as_ref();
            let start = facts.and_then(|p| p.start);
            let bounds =
                start.is_none_or(|s| s == entry.start) && device.size.is_none_or(|s| s == entry.size);
            // The kernel shows an extended partition with two sectors only.
            facts.and_then(|p| p.number) == Some(entry.number) && (bounds || entry.extended)
        })
    };
    content.partitions.iter().filter(|entry| !is_known(entry) && !entry.out_of_range).collect()
}

/// The partition of this name that is in a disk's table, and that the kernel
/// does not know yet; with its disk.
pub fn unread_partition<'a>(record: &'a Record, source: &Source) -> Option<(&'a Device, &'a PartitionEntry)> {
    let Source::Tag(tag @ (Tag::PartUuid | Tag::PartLabel), value) = source else { return None };
    let named = |entry: &&PartitionEntry| {
        let own = if *tag == Tag::PartUuid { &entry.uuid } else { &entry.label };
        own.as_deref() == Some(value)
    };
    record.devices().iter().find_map(|disk| {
        let entry = not_in_kernel(record, disk).into_iter().find(named)?;
        Some((disk, entry))
    })
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
    use crate::record::{Content, ContentKind, DeviceKind, PartitionFacts};

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
        let numbers =
            |r: &Record| not_in_kernel(r, &r.devices()[0]).iter().map(|e| e.number).collect::<Vec<_>>();
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
