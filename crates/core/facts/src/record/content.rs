use serde::{Deserialize, Serialize};

/// What a device holds, read from its own bytes.
///
/// Inside an identified content an absent UUID or label means there is none.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Content {
    /// The sort of content.
    pub kind: ContentKind,
    /// Its type, in the words a table uses: `ext4`, `vfat`, `swap` …
    #[serde(rename = "type", default, skip_serializing_if = "Option::is_none")]
    pub fstype: Option<String>,
    /// UUID or volume serial, spelled as the init system's device names do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// Label; bytes that are not UTF-8 are replaced.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// The label's exact bytes in base64 when they are not UTF-8.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label_base64: Option<String>,
    /// Version of the format.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub version: Option<String>,
    /// Size of the content in bytes, as it says of itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<u64>,
    /// Block size in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub block_size: Option<u64>,
    /// UUID of this device within a file system, array or pool of several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sub_uuid: Option<String>,
    /// UUID of the cache set or of the journal that belongs to it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub set_uuid: Option<String>,
    /// What it is in, in words: `clean`, `errors`, `needs journal replay`,
    /// `holds a hibernation image`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub state: Option<String>,
    /// Features it has, by the names of its own tools.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub features: Vec<String>,
    /// Where it was mounted last, as the file system notes it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub last_mounted_on: Option<String>,
    /// What is wrong with the content itself: a checksum, a damaged copy.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub damaged: Option<String>,
    /// How many bytes were looked at, where nothing was recognised in them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub looked_at: Option<u64>,
    /// Whether it is larger than its device.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub truncated: Option<bool>,
    /// Whether it holds the image of a hibernated system.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub suspended: Option<bool>,
    /// How many devices it spans.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub num_devices: Option<u64>,
    /// Pages of a swap area that its header marks as bad; absent: none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bad_pages: Option<u32>,
    /// The subvolumes of a Btrfs by their paths; absent: not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subvolumes: Option<Vec<String>>,
    /// RAID level: `raid1`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level: Option<String>,
    /// Devices in the array.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raid_devices: Option<u32>,
    /// How many of them worked when it last ran; absent: not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub working_devices: Option<u32>,
    /// This device's number in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device_number: Option<u32>,
    /// Offset of the array's data on this device, in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub data_offset: Option<u64>,
    /// Where the array's data lie on this device.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub array: Option<ArrayPlace>,
    /// The volume group, when it is a physical volume.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<VolumeGroup>,
    /// The partitions, when it is a partition table.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub partitions: Vec<PartitionEntry>,
    /// Everything it may be, when that is ambiguous; of a member of an array what it
    /// would be if it were none.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub candidates: Vec<Candidate>,
}

/// What a member of an array says about where the array's data lie.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ArrayPlace {
    /// Its place among the members, from 0; absent: it has none, or is being filled.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub role: Option<u32>,
    /// Bytes of data on it.
    pub length: u64,
    /// Bytes that lie together; 0: the level has none.
    pub chunk: u64,
    /// The number by which the kernel calls the layout of the level.
    pub layout: u32,
    /// How often the array had changed when this member was last written: one that
    /// left it has fewer.
    pub events: u64,
}

/// One of several things a device may hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Candidate {
    /// Where its signature stands, in bytes.
    pub offset: u64,
    /// What it would be.
    #[serde(flatten)]
    pub content: Content,
}

/// A volume group, as the metadata of one of its physical volumes says.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct VolumeGroup {
    /// Its name.
    pub name: String,
    /// Its UUID.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// UUIDs of its physical volumes.
    #[serde(default)]
    pub pv_uuids: Vec<String>,
    /// Its logical volumes.
    #[serde(default)]
    pub volumes: Vec<LogicalVolume>,
    /// Volumes that those are made of; empty where all lie in order on physical volumes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub inner: Vec<LogicalVolume>,
}

/// A logical volume.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LogicalVolume {
    /// Its name.
    pub name: String,
    /// Its UUID.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// Its size in bytes.
    pub size: u64,
    /// Where its bytes lie, when they lie in order on physical volumes;
    /// empty when they do not.
    #[serde(default)]
    pub segments: Vec<Segment>,
    /// Its pieces, one behind the other, where they do not all lie so; else empty.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<VolumePart>,
}

/// A piece of a logical volume, and what it is made of.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct VolumePart {
    /// Length in bytes.
    pub length: u64,
    /// What it is made of.
    pub of: VolumePiece,
}

/// What a piece of a logical volume is made of.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "made", rename_all = "kebab-case")]
pub enum VolumePiece {
    /// Of stripes on physical volumes; one of them is a piece in order.
    Striped {
        /// Bytes of a stripe; 0 where there is one.
        stripe: u64,
        /// Where they lie.
        on: Vec<Segment>,
    },
    /// Of other volumes, as an array is.
    Raid {
        /// LVM's word for the kind: `raid5_ls`.
        kind: String,
        /// Bytes of a stripe; 0 where there are none.
        stripe: u64,
        /// The volumes by their places.
        of: Vec<RaidLeg>,
    },
    /// The same as any of these volumes.
    Mirrored {
        /// Their names, the first one first.
        of: Vec<String>,
    },
    /// A pool that thin volumes take their bytes from.
    ThinPool {
        /// The volume of their bytes.
        data: String,
        /// The volume that says whose they are.
        metadata: String,
    },
    /// Of a pool, as far as it was written to.
    Thin {
        /// The pool's name.
        pool: String,
        /// The number it is known by in the pool.
        device: u64,
    },
    /// A volume behind a cache.
    Cached {
        /// The volume behind.
        origin: String,
        /// The volume or the pool in front.
        by: String,
        /// Whether every write goes to the volume behind at once.
        through: bool,
    },
    /// In a way that is not read.
    Other {
        /// LVM's word for it.
        kind: String,
    },
}

/// One of the volumes that an array of volumes is made of.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RaidLeg {
    /// The name of the volume with its bytes.
    pub data: String,
    /// The name of the volume that says how fresh they are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub metadata: Option<String>,
}

/// A piece of a logical volume.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Segment {
    /// UUID of the physical volume.
    pub pv_uuid: String,
    /// Offset on it, in bytes.
    pub start: u64,
    /// Length in bytes.
    pub length: u64,
}

/// A partition in a table on disk.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PartitionEntry {
    /// Its number.
    pub number: u32,
    /// Offset of its first byte.
    pub start: u64,
    /// Its size in bytes.
    pub size: u64,
    /// PARTUUID.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// PARTLABEL.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// Type: a GUID, or an MBR byte like `0x83`.
    #[serde(rename = "type")]
    pub type_id: String,
    /// Whether it only contains logical partitions.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub extended: bool,
    /// Whether it reaches past the end of the disk.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub out_of_range: bool,
    /// Whether nobody is to mount it by its type (bit 63 of a GPT's attributes).
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub no_auto: bool,
}

/// Sorts of content.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ContentKind {
    /// A file system.
    Filesystem,
    /// A swap area.
    Swap,
    /// A member of a Linux RAID array.
    RaidMember,
    /// An LVM physical volume.
    LvmPv,
    /// An encrypted container.
    Encrypted,
    /// A partition table.
    PartitionTable,
    /// A journal or log of a file system on another device.
    Journal,
    /// A device of a cache set.
    CacheMember,
    /// A device of a storage pool.
    PoolMember,
    /// A device with checksums below its content.
    Integrity,
    /// A tree of hashes over another device.
    Verity,
    /// Nothing that was looked for was found, and all of it is zeros where
    /// signatures would stand.
    Empty,
    /// Something, but nothing known.
    #[default]
    Unknown,
    /// Signatures of several formats that cannot all be true; `type` names
    /// them, joined by `+`.
    Ambiguous,
}

impl ContentKind {
    /// Whether the device manager makes no links for it: its UUID is no name
    /// that an entry can use (recorded for a physical volume).
    pub fn is_nameless(self) -> bool {
        matches!(
            self,
            ContentKind::RaidMember
                | ContentKind::LvmPv
                | ContentKind::PoolMember
                | ContentKind::PartitionTable
        )
    }

    /// Whether it is a part or a shell of something else: not what is
    /// mounted.
    pub fn is_member(self) -> bool {
        matches!(
            self,
            ContentKind::RaidMember
                | ContentKind::LvmPv
                | ContentKind::Encrypted
                | ContentKind::PartitionTable
                | ContentKind::CacheMember
                | ContentKind::PoolMember
                | ContentKind::Integrity
                | ContentKind::Verity
        )
    }
}

impl Content {
    /// Content of a kind, with nothing more known of it.
    pub fn new(kind: ContentKind, fstype: Option<&str>) -> Self {
        Content { kind, fstype: fstype.map(str::to_owned), ..Content::default() }
    }

    /// What it is, in words: `ext4`, `swap`, `nothing`.
    pub fn words(&self) -> &str {
        match (self.kind, &self.fstype) {
            (_, Some(fstype)) => fstype,
            (ContentKind::Empty, None) => "nothing",
            (_, None) => "something unknown",
        }
    }
}
