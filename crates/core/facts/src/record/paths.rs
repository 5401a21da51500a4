use super::RawBytes;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Something mounted: a line of /proc/self/mountinfo.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Mount {
    /// What is mounted, as the kernel names it.
    pub source: String,
    /// Where, with escapes decoded.
    pub target: String,
    /// File system type.
    #[serde(rename = "type")]
    pub fstype: String,
    /// Options of this mount and of its file system, in the kernel's words.
    pub options: String,
    /// The directory of the file system that is shown.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub root: Option<String>,
    /// Device numbers, `8:1`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device: Option<String>,
    /// Bytes that are free for all; for types on a device only.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub free: Option<u64>,
    /// Whether it answered when it was looked at; absent: it was not, or
    /// cannot keep anybody waiting.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub answers: Option<bool>,
}

/// An active swap area: a line of /proc/swaps.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ActiveSwap {
    /// Path of the device or file.
    pub path: String,
    /// Size in bytes.
    pub size: u64,
    /// Bytes in use.
    pub used: u64,
    /// Priority; the highest is used first.
    pub priority: i32,
}

/// How a file system type is supported.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Support {
    /// The running kernel has it now, built in or loaded.
    Present,
    /// A module for it lies ready.
    Module,
}

/// File system types the kernel can mount.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct FsSupport {
    /// Types of /proc/filesystems that take a device.
    pub on_devices: Vec<String>,
    /// Types of /proc/filesystems that take none.
    pub without_device: Vec<String>,
    /// Types for which a loadable module exists; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub modules: Option<Vec<String>>,
}

impl FsSupport {
    /// How the type is supported; `None` when it is not, as far as is known.
    pub fn of(&self, fstype: &str) -> Option<Support> {
        if self.on_devices.iter().chain(&self.without_device).any(|t| t == fstype) {
            return Some(Support::Present);
        }
        let modules = self.modules.as_deref().unwrap_or_default();
        modules.iter().any(|t| t == fstype).then_some(Support::Module)
    }
}

/// Programs that mounting and checking call, by name without their directory.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Programs {
    /// The types with a `mount.TYPE` program.
    pub mount_helpers: Vec<String>,
    /// The types with a `fsck.TYPE` program.
    pub checkers: Vec<String>,
    /// Which of the programs for quotas are there: `quotacheck`, `quotaon`;
    /// absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub quota: Option<Vec<String>>,
    /// The programs that entries of `fuse.NAME` and the like name, and whether they are
    /// installed; one that is not here was not looked for.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub behind_fuse: BTreeMap<String, bool>,
    /// Versions of the packages whose programs mount a type, by package, as the
    /// distribution writes them; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub versions: Option<BTreeMap<String, String>>,
}

/// What was found inside a file system that is not mounted.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Inside {
    /// The device that holds it.
    pub device: String,
    /// The subvolume that was looked into, as [`Entry::subvolume`] asks for it;
    /// absent: the default one, or a file system without any.
    ///
    /// [`Entry::subvolume`]: crate::table::Entry::subvolume
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subvolume: Option<String>,
    /// Paths in it, from its own root: `/disk.img`.
    pub paths: Vec<PathFacts>,
}

/// A content that begins within a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ContentAt {
    /// Where, in bytes.
    pub offset: u64,
    /// What.
    pub content: super::Content,
}

/// Facts about a path that a table names.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PathFacts {
    /// The path as the table names it.
    pub path: String,
    /// Whether it is there, and as what.
    pub kind: PathKind,
    /// The path with symbolic links followed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub canonical: Option<String>,
    /// How many entries a directory has; counting stops at 1000.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub entries: Option<u32>,
    /// Owner's user id.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uid: Option<u32>,
    /// Permission bits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode: Option<u32>,
    /// The target of the mount it lies on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lies_on: Option<String>,
    /// Size of a file in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<u64>,
    /// Bytes of a file that have room on the disk; less than `size` means holes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub allocated: Option<u64>,
    /// Whether a swap file is kept from being copied on writing (`chattr +C`).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nocow: Option<bool>,
    /// Of a swap file: whether some of its blocks are another file's too
    /// (FIEMAP).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shared: Option<bool>,
    /// First bytes of a file as a content, for swap files.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub content: Option<super::Content>,
    /// What begins later in an image, where entries mount it from an offset on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub later: Vec<ContentAt>,
    /// The target of a symbolic link, as it stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub link: Option<RawBytes>,
}

/// What a path is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum PathKind {
    /// Nothing is there.
    Absent,
    /// A directory (or a link to one).
    Directory,
    /// A regular file (or a link to one).
    File,
    /// Something else: a socket, a device.
    Other,
}

impl PathFacts {
    /// Facts of a path of which only the kind is known.
    pub fn new(path: impl Into<String>, kind: PathKind) -> Self {
        PathFacts {
            path: path.into(),
            kind,
            canonical: None,
            entries: None,
            uid: None,
            mode: None,
            lies_on: None,
            size: None,
            allocated: None,
            nocow: None,
            shared: None,
            content: None,
            later: Vec::new(),
            link: None,
        }
    }
}
