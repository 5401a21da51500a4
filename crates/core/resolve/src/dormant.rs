//! Names of what is not active now, where it was read through its members.

use super::identity::identities;
use super::source::Source;
use bradawl_facts::record::{ContentKind, Device, Record};

/// More layers on top of each other are not looked through.
const MAX_DEPTH: usize = 8;

/// The volume or array that would answer to a name if it were active.
pub fn dormant<'r>(record: &'r Record, source: &Source) -> Option<&'r Device> {
    record.dormant.iter().find(|d| identities(d, false).iter().any(|i| Source::parse(&i.name) == *source))
}

/// Whether all that a member of a group or array holds was read through it, so that
/// a name that is not there is nowhere on it.
pub fn is_read_through(record: &Record, member: &Device) -> bool {
    read_through(record, member, 0)
}

fn read_through(record: &Record, member: &Device, depth: usize) -> bool {
    let Some(content) = &member.content else { return false };
    let on_it = || record.dormant.iter().filter(|d| d.parents.contains(&member.path));
    let all = match content.kind {
        _ if depth > MAX_DEPTH => return false,
        ContentKind::LvmPv => content.group.as_ref().is_some_and(|group| {
            let there = |name: &str| {
                let link = format!("/dev/{}/{name}", group.name);
                record.dormant.iter().any(|d| d.links.iter().flatten().any(|l| *l == link))
            };
            group.volumes.iter().all(|volume| there(&volume.name)) && !group.volumes.is_empty()
        }),
        ContentKind::RaidMember => on_it().next().is_some(),
        _ => return true,
    };
    let open = |d: &Device| match d.content.as_ref().map(|c| c.kind) {
        None | Some(ContentKind::Encrypted | ContentKind::Unknown | ContentKind::PartitionTable) => false,
        Some(_) => read_through(record, d, depth + 1),
    };
    all && on_it().all(open)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, DeviceKind, LogicalVolume, VolumeGroup};

    fn host() -> Record {
        let mut record = Record::new("kelp");
        let volume = LogicalVolume { name: "cargo".into(), ..LogicalVolume::default() };
        let group = VolumeGroup { name: "hold-a".into(), volumes: vec![volume], ..VolumeGroup::default() };
        let content = Content { group: Some(group), ..Content::new(ContentKind::LvmPv, None) };
        let member = Device { content: Some(content), ..Device::new("/dev/vdb", DeviceKind::Disk) };
        let mut inside = Content::new(ContentKind::Filesystem, Some("ext4"));
        inside.uuid = Some("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300b".into());
        record.devices = Some(vec![member]);
        record.dormant = vec![Device {
            content: Some(inside),
            parents: vec!["/dev/vdb".into()],
            links: Some(vec!["/dev/hold-a/cargo".into()]),
            ..Device::new("/dev/mapper/hold--a-cargo", DeviceKind::Mapper)
        }];
        record
    }

    #[test]
    fn what_is_not_active_has_its_names() {
        let record = host();
        for (name, there) in [
            ("UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300b", true),
            ("/dev/hold-a/cargo", true),
            ("/dev/mapper/hold--a-cargo", true),
            ("LABEL=cargo", false),
        ] {
            assert_eq!(dormant(&record, &Source::parse(name)).is_some(), there, "{name}");
        }
    }

    #[test]
    fn all_is_read_where_nothing_stays_closed() {
        let mut record = host();
        let read = |record: &Record| is_read_through(record, &record.devices()[0]);
        assert!(read(&record));
        record.dormant[0].content = Some(Content::new(ContentKind::Encrypted, None));
        assert!(!read(&record));
        record.dormant.clear();
        assert!(!read(&record));
    }
}
