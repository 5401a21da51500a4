use super::{Content, ContentKind};
use serde::{Deserialize, Serialize};

/// A block device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Device {
    /// The kernel's path: `/dev/sda1`.
    pub path: String,
    /// What sort of device it is.
    pub kind: DeviceKind,
    /// Major number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub major: Option<u32>,
    /// Minor number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub minor: Option<u32>,
    /// Size in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<u64>,
    /// Logical sector size in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sector_size: Option<u64>,
    /// Whether writing to it is refused.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_only: Option<bool>,
    /// Whether the medium or the drive can be taken out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub removable: Option<bool>,
    /// Whether it spins.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rotational: Option<bool>,
    /// Vendor and model as the drive gives them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub model: Option<String>,
    /// The drive's serial number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<String>,
    /// How the drive is attached.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub transport: Option<Transport>,
    /// Facts of a partition.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub partition: Option<PartitionFacts>,
    /// The file that a loop device shows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub backing: Option<Backing>,
    /// Paths of the devices it is made of.
    #[serde(default)]
    pub parents: Vec<String>,
    /// Paths of the devices made of it.
    #[serde(default)]
    pub children: Vec<String>,
    /// Other names of it under /dev that exist on this host.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub links: Option<Vec<String>>,
    /// What it holds; absent when it could not be read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub content: Option<Content>,
}

/// Sorts of block devices.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum DeviceKind {
    /// A whole disk.
    Disk,
    /// A partition.
    Partition,
    /// A file seen as a device.
    Loop,
    /// An assembled RAID array.
    Raid,
    /// A device-mapper device: logical volume, decrypted container …
    Mapper,
    /// Compressed memory.
    Zram,
    /// Memory as a disk.
    Ram,
    /// An optical drive.
    Optical,
    /// Anything else.
    Other,
}

/// How a drive is attached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Transport {
    /// ATA, SATA among it.
    Ata,
    /// SCSI, SAS among it.
    Scsi,
    /// USB.
    Usb,
    /// `NVMe`.
    Nvme,
    /// A virtual machine's disk.
    Virtio,
    /// A memory card.
    Mmc,
}

impl Transport {
    /// Its name.
    pub fn words(self) -> &'static str {
        match self {
            Transport::Ata => "ATA",
            Transport::Scsi => "SCSI",
            Transport::Usb => "USB",
            Transport::Nvme => "NVMe",
            Transport::Virtio => "virtio",
            Transport::Mmc => "memory card",
        }
    }
}

/// What the kernel or the partition table says of a partition.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct PartitionFacts {
    /// Its number on the disk.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub number: Option<u32>,
    /// Offset of its first byte on the disk.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub start: Option<u64>,
    /// PARTUUID.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// PARTLABEL.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// Partition type: a GUID or an MBR byte like `0x83`.
    #[serde(rename = "type", skip_serializing_if = "Option::is_none")]
    pub type_id: Option<String>,
    /// The type in words.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub type_words: Option<String>,
    /// Whether nobody is to mount it by its type (bit 63 of a GPT's attributes).
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub no_auto: bool,
}

/// The file behind a loop device.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Backing {
    /// Its path.
    pub file: String,
    /// Offset of its first byte in the file.
    #[serde(skip_serializing_if = "is_zero")]
    pub offset: u64,
    /// Bytes that are shown; 0: all.
    #[serde(skip_serializing_if = "is_zero")]
    pub limit: u64,
}

#[allow(clippy::trivially_copy_pass_by_ref)] // as serde asks it
fn is_zero(n: &u64) -> bool {
    *n == 0
}

impl Device {
    /// A device of which only path and sort are known.
    pub fn new(path: impl Into<String>, kind: DeviceKind) -> Self {
        Device {
            path: path.into(),
            kind,
            major: None,
            minor: None,
            size: None,
            sector_size: None,
            read_only: None,
            removable: None,
            rotational: None,
            model: None,
            serial: None,
            transport: None,
            partition: None,
            backing: None,
            parents: Vec::new(),
            children: Vec::new(),
            links: None,
            content: None,
        }
    }

    /// Whether it is known to be made to be taken out.
    pub fn is_removable(&self) -> bool {
        self.removable == Some(true)
    }

    /// Whether it can hold content of its own: it has a size, and nothing
    /// else is made of it.
    pub fn is_leaf(&self) -> bool {
        self.size != Some(0) && self.children.is_empty()
    }

    /// Whether it is known to hold a swap area.
    pub fn holds_swap(&self) -> bool {
        self.content.as_ref().is_some_and(|c| c.kind == ContentKind::Swap)
    }
}
