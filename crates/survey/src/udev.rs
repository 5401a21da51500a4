//! What the device manager noted of a device: readable by everybody, so that
//! an ordinary user sees types and names of disks that only root may read.

use crate::files::Files;
use bradawl_facts::record::{Content, ContentKind, Device, PartitionFacts};

/// Fills what could not be read from the device itself.
pub(crate) fn fill(files: &Files, device: &mut Device) {
    let Some((major, minor)) = device.major.zip(device.minor) else { return };
    let Some(notes) = files.value(&format!("/run/udev/data/b{major}:{minor}")) else { return };
    let note = |key: &str| {
        let line = notes.lines().find_map(|l| l.strip_prefix("E:")?.strip_prefix(key)?.strip_prefix('='));
        line.filter(|value| !value.is_empty()).map(decoded)
    };
    device.serial = device.serial.take().or_else(|| note("ID_SERIAL_SHORT"));
    if device.content.is_none() {
        device.content = content(&note);
    }
    if let Some(facts) = &mut device.partition {
        partition(facts, &note);
    }
}

fn content(note: &impl Fn(&str) -> Option<String>) -> Option<Content> {
    let Some(noted) = note("ID_FS_TYPE") else {
        let table = note("ID_PART_TABLE_TYPE")?;
        let mut content = Content::new(ContentKind::PartitionTable, Some(&table));
        content.uuid = note("ID_PART_TABLE_UUID");
        return Some(content);
    };
    let (kind, fstype) = match (noted.as_str(), note("ID_FS_USAGE").as_deref()) {
        ("swap" | "swsuspend", _) => (ContentKind::Swap, "swap".to_owned()),
        ("LVM2_member", _) => (ContentKind::LvmPv, "LVM2 PV".to_owned()),
        ("linux_raid_member", _) => (ContentKind::RaidMember, "mdraid".to_owned()),
        ("zfs_member", _) => (ContentKind::PoolMember, "zfs".to_owned()),
        ("crypto_LUKS", _) => {
            (ContentKind::Encrypted, format!("LUKS{}", note("ID_FS_VERSION").unwrap_or_default()))
        }
        ("jbd" | "xfs_external_log", _) => (ContentKind::Journal, noted),
        (_, Some("crypto")) => (ContentKind::Encrypted, noted),
        (_, Some("raid")) => (ContentKind::RaidMember, noted),
        (_, Some("filesystem")) => (ContentKind::Filesystem, noted),
        _ => return None,
    };
    let mut content = Content::new(kind, Some(&fstype));
    content.uuid = note("ID_FS_UUID_ENC").or_else(|| note("ID_FS_UUID"));
    content.label = note("ID_FS_LABEL_ENC").or_else(|| note("ID_FS_LABEL"));
    content.version = note("ID_FS_VERSION");
    Some(content)
}

fn partition(facts: &mut PartitionFacts, note: &impl Fn(&str) -> Option<String>) {
    facts.uuid = facts.uuid.take().or_else(|| note("ID_PART_ENTRY_UUID"));
    facts.label = facts.label.take().or_else(|| note("ID_PART_ENTRY_NAME"));
    facts.type_id = facts.type_id.take().or_else(|| note("ID_PART_ENTRY_TYPE"));
}

/// Values spell unusual bytes as `\x20`.
fn decoded(value: &str) -> String {
    bradawl_resolve::decode_link(value)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::DeviceKind;

    fn filled(notes: &str) -> Device {
        let dir = tempfile::tempdir().unwrap();
        let folder = dir.path().join("run/udev/data");
        std::fs::create_dir_all(&folder).unwrap();
        std::fs::write(folder.join("b8:1"), notes).unwrap();
        let mut device = Device::new("/dev/sda1", DeviceKind::Partition);
        (device.major, device.minor) = (Some(8), Some(1));
        device.partition = Some(PartitionFacts::default());
        fill(&Files::own(dir.path().to_owned()), &mut device);
        device
    }

    #[test]
    fn type_and_names() {
        let device = filled(
            "S:disk/by-uuid/ab\nE:ID_FS_TYPE=ext4\nE:ID_FS_USAGE=filesystem\nE:ID_FS_UUID=ab-cd\n\
             E:ID_FS_LABEL_ENC=press\\x20room\nE:ID_PART_ENTRY_UUID=ef-01\n",
        );
        let content = device.content.unwrap();
        assert_eq!((content.kind, content.fstype.as_deref()), (ContentKind::Filesystem, Some("ext4")));
        assert_eq!((content.uuid.as_deref(), content.label.as_deref()), (Some("ab-cd"), Some("press room")));
        assert_eq!(device.partition.unwrap().uuid.as_deref(), Some("ef-01"));
    }

    #[test]
    fn members_and_silence() {
        for (notes, kind) in [
            ("E:ID_FS_TYPE=LVM2_member\nE:ID_FS_USAGE=raid\n", Some(ContentKind::LvmPv)),
            ("E:ID_FS_TYPE=crypto_LUKS\nE:ID_FS_VERSION=2\n", Some(ContentKind::Encrypted)),
            ("E:ID_PART_TABLE_TYPE=gpt\n", Some(ContentKind::PartitionTable)),
            ("E:ID_PATH=pci-1\n", None),
        ] {
            assert_eq!(filled(notes).content.map(|c| c.kind), kind, "{notes}");
        }
    }
}
