//! All names of a device, and how long each lasts.

use super::link::encode_link;
use super::source::Tag;
use bradawl_facts::record::{ContentKind, Device};

/// What a name depends on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Stable {
    /// Stays until the content is re-created; a copy of the disk has it too.
    Content,
    /// Stays until the disk is repartitioned.
    Partition,
    /// Stays with the drive or its slot.
    Hardware,
    /// Follows the order in which disks are found.
    Order,
}

impl Stable {
    /// How long such a name lasts, in words.
    pub fn words(self) -> &'static str {
        match self {
            Stable::Content => "until it is reformatted",
            Stable::Partition => "until the disk is repartitioned",
            Stable::Hardware => "as long as the drive stays, or its slot",
            Stable::Order => "until disks are found in another order",
        }
    }
}

/// One name of a device.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Identity {
    /// As it would stand in a table.
    pub name: String,
    /// What it depends on.
    pub stable: Stable,
    /// Whether the name exists under /dev on this host; absent: not known.
    pub exists: Option<bool>,
}

/// All names of a device: tags first, then paths, the kernel's last.
/// `complete`: whether the device's links are all there are on the host.
pub fn identities(device: &Device, complete: bool) -> Vec<Identity> {
    let content = device.content.as_ref();
    let partition = device.partition.as_ref();
    let links = device.links.as_deref();
    let tags = [
        (Tag::Uuid, content.and_then(|c| c.uuid.as_deref()), Stable::Content),
        (Tag::Label, content.and_then(|c| c.label.as_deref()), Stable::Content),
        (Tag::PartUuid, partition.and_then(|p| p.uuid.as_deref()), Stable::Partition),
        (Tag::PartLabel, partition.and_then(|p| p.label.as_deref()), Stable::Partition),
    ];
    let mut all = Vec::new();
    for (tag, value, stable) in tags {
        let Some(value) = value.filter(|_| tag_counts(tag, content.map(|c| c.kind))) else { continue };
        let path = format!("/dev/disk/{}/{}", tag.folder(), encode_link(value));
        let exists = links.filter(|_| complete).map(|l| l.contains(&path));
        all.push(Identity { name: format!("{tag}={value}"), stable, exists });
    }
    for link in links.unwrap_or_default().iter().filter(|l| !Tag::ALL.iter().any(|t| l.contains(t.folder())))
    {
        all.push(Identity { name: link.clone(), stable: of_path(link), exists: Some(true) });
    }
    all.push(Identity { name: device.path.clone(), stable: of_path(&device.path), exists: None });
    all
}

/// The UUID of a partition table or of a member is no name of the device.
fn tag_counts(tag: Tag, kind: Option<ContentKind>) -> bool {
    matches!(tag, Tag::PartUuid | Tag::PartLabel) || !kind.is_some_and(ContentKind::is_nameless)
}

fn of_path(path: &str) -> Stable {
    match path {
        _ if path.starts_with("/dev/disk/") => Stable::Hardware,
        _ if super::is_kernel_name(path) || path.starts_with("/dev/dm-") => Stable::Order,
        // Volumes and arrays carry their names in their own metadata.
        _ if path.starts_with("/dev/") => Stable::Content,
        _ => Stable::Hardware,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, DeviceKind, PartitionFacts};

    #[test]
    fn every_sort_of_name() {
        let mut device = Device::new("/dev/sdb1", DeviceKind::Partition);
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        content.uuid = Some("ab-cd".into());
        content.label = Some("press room".into());
        device.content = Some(content);
        device.partition = Some(PartitionFacts { uuid: Some("ef-01".into()), ..PartitionFacts::default() });
        device.links =
            Some(vec!["/dev/disk/by-id/usb-Stick-part1".into(), "/dev/disk/by-label/press\\x20room".into()]);
        let all: Vec<_> =
            identities(&device, true).into_iter().map(|i| (i.name, i.stable, i.exists)).collect();
        assert_eq!(
            all,
            [
                ("UUID=ab-cd".to_owned(), Stable::Content, Some(false)),
                ("LABEL=press room".to_owned(), Stable::Content, Some(true)),
                ("PARTUUID=ef-01".to_owned(), Stable::Partition, Some(false)),
                ("/dev/disk/by-id/usb-Stick-part1".to_owned(), Stable::Hardware, Some(true)),
                ("/dev/sdb1".to_owned(), Stable::Order, None),
            ]
        );
    }
}
