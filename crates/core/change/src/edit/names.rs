//! Giving a device another of its names.

use bradawl_facts::record::Device;
use bradawl_resolve::{Identity, is_kernel_name};
use std::str::FromStr;

/// A sort of name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum By {
    /// `UUID=`
    Uuid,
    /// `LABEL=`
    Label,
    /// `PARTUUID=`
    PartUuid,
    /// `PARTLABEL=`
    PartLabel,
    /// A path under /dev/disk/by-id.
    Id,
    /// A path under /dev/disk/by-path.
    Path,
}

impl By {
    /// All sorts, with the words for them.
    pub const ALL: [(&'static str, By); 6] = [
        ("uuid", By::Uuid),
        ("label", By::Label),
        ("partuuid", By::PartUuid),
        ("partlabel", By::PartLabel),
        ("id", By::Id),
        ("path", By::Path),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        By::ALL.iter().find(|(_, by)| *by == self).map_or("", |(word, _)| word)
    }

    fn start(self) -> &'static str {
        match self {
            By::Uuid => "UUID=",
            By::Label => "LABEL=",
            By::PartUuid => "PARTUUID=",
            By::PartLabel => "PARTLABEL=",
            By::Id => "/dev/disk/by-id/",
            By::Path => "/dev/disk/by-path/",
        }
    }
}

impl FromStr for By {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let found = By::ALL.iter().find(|(word, _)| *word == text);
        let words = By::ALL.map(|(word, _)| word).join(", ");
        found.map(|(_, by)| *by).ok_or_else(|| format!("one of {words}"))
    }
}

/// The device's name of this sort, if it has one.
pub fn name_by(device: &Device, by: By) -> Option<String> {
    let fits = |i: &Identity| i.name.starts_with(by.start()) && !is_kernel_name(&i.name);
    bradawl_resolve::identities(device, false).into_iter().find(fits).map(|i| i.name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, ContentKind, DeviceKind, PartitionFacts};

    #[test]
    fn each_sort_finds_its_name() {
        let mut device = Device::new("/dev/sdb1", DeviceKind::Partition);
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        content.uuid = Some("ab-cd".into());
        device.content = Some(content);
        device.partition = Some(PartitionFacts { uuid: Some("ef-01".into()), ..PartitionFacts::default() });
        device.links = Some(vec!["/dev/disk/by-id/usb-Stick-part1".into()]);
        for (by, name) in [
            (By::Uuid, Some("UUID=ab-cd")),
            (By::Label, None),
            (By::PartUuid, Some("PARTUUID=ef-01")),
            (By::PartLabel, None),
            (By::Id, Some("/dev/disk/by-id/usb-Stick-part1")),
            (By::Path, None),
        ] {
            assert_eq!(name_by(&device, by).as_deref(), name, "{}", by.word());
            assert_eq!(by.word().parse(), Ok(by));
        }
        assert!("kernel".parse::<By>().is_err());
    }
}
