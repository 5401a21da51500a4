//! File system types: what they live on, who mounts and checks them, and
//! which kernels have them.

mod features;
mod types;

pub use features::{MissingFeature, missing_feature, not_built_for};
pub use types::TYPES;

use bradawl_facts::Version;

/// A file system type by the name the table uses.
#[derive(Debug, Clone, Copy)]
pub struct FsType {
    /// Its name.
    pub name: &'static str,
    /// What it lives on.
    pub lives: Lives,
    /// Whether its check at boot does anything.
    pub checked: bool,
    /// First kernel that has it; `None`: older than all we know, or not the
    /// kernel's.
    pub since: Option<Version>,
    /// First kernel that has it no more.
    pub until: Option<Version>,
}

/// What a file system type lives on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lives {
    /// A block device.
    OnDevice,
    /// A block device, mounted by a program of its own.
    OnDeviceByProgram,
    /// Memory, or the kernel itself.
    InKernel,
    /// Another host.
    OnNetwork,
    /// Another host, mounted by a program of its own.
    OnNetworkByProgram,
    /// Whatever its program makes of the source.
    InProgram,
}

/// The type of this name; `fuse.NAME` counts as `fuse`.
pub fn known(name: &str) -> Option<&'static FsType> {
    let name = if name.starts_with("fuse.") { "fuse" } else { name };
    let first = usize::from(*name.as_bytes().first()?);
    let alike = &TYPES[usize::from(STARTS[first])..usize::from(STARTS[first + 1])];
    alike.iter().find(|t| t.name == name)
}

/// The names of all types.
pub fn all_names() -> impl Iterator<Item = &'static str> {
    TYPES.iter().map(|t| t.name)
}

/// Bytes that a device needs at least for a file system of this type, or for
/// swap, to be made on it, as the programs' manual pages give them: mkfs.xfs(8)
/// makes nothing below 300 MiB, mkfs.btrfs(8) nothing below 109. `None`: no
/// program makes it.
pub fn least_size(fstype: &str) -> Option<u64> {
    const MIB: u64 = 1 << 20;
    Some(match fstype {
        "ext2" | "ext3" | "ext4" | "vfat" | "msdos" | "exfat" => MIB,
        "xfs" => 300 * MIB,
        "btrfs" => 109 * MIB,
        "swap" => 40 << 10,
        "ntfs" | "ntfs3" | "ntfs-3g" => 2 * MIB,
        _ => return None,
    })
}

/// Where the names with each first letter begin.
const STARTS: [u8; 257] = starts();

const fn starts() -> [u8; 257] {
    let mut starts = [0; 257];
    let (mut letter, mut n) = (0, 0);
    while letter < starts.len() {
        while (n as usize) < TYPES.len() && (TYPES[n as usize].name.as_bytes()[0] as usize) < letter {
            n += 1;
        }
        starts[letter] = n;
        letter += 1;
    }
    starts
}

impl FsType {
    /// Whether only a program `mount.TYPE` can mount it.
    pub fn needs_program(&self) -> bool {
        matches!(self.lives, Lives::OnDeviceByProgram | Lives::OnNetworkByProgram | Lives::InProgram)
    }

    /// Whether it is reached over the network.
    pub fn is_network(&self) -> bool {
        matches!(self.lives, Lives::OnNetwork | Lives::OnNetworkByProgram)
    }

    /// Whether a block device is its source.
    pub fn is_on_device(&self) -> bool {
        matches!(self.lives, Lives::OnDevice | Lives::OnDeviceByProgram)
    }
}

/// Types that systemd mounts once the network is up, without or with `fuse.`
/// before them: found by asking the generators of 247, 252, 257 and 262 for
/// every type. 9p is not among them; the shared-disk types are.
const OVER_NETWORK: [&str; 18] = [
    "afs",
    "ceph",
    "cifs",
    "davfs",
    "gfs",
    "gfs2",
    "glusterfs",
    "lustre",
    "ncp",
    "ncpfs",
    "nfs",
    "nfs4",
    "ocfs2",
    "orangefs",
    "pvfs2",
    "smb3",
    "smbfs",
    "sshfs",
];

/// Whether the init system mounts a type once the network is up; what lives on
/// another host is [`FsType::is_network`].
pub fn waits_for_network(fstype: &str) -> bool {
    OVER_NETWORK.contains(&fstype.strip_prefix("fuse.").unwrap_or(fstype))
}

/// Types whose name is a slip or two away from this one, nearest first.
pub fn near(name: &str) -> Vec<&'static str> {
    let folded: String = name.chars().take(32).collect::<String>().to_ascii_lowercase();
    let limit = if folded.len() <= 4 { 1 } else { 2 };
    let mut near: Vec<(usize, &'static str)> = TYPES
        .iter()
        .filter(|t| t.until.is_none() && t.name.len().abs_diff(folded.len()) <= limit)
        .map(|t| (strsim::osa_distance(&folded, t.name), t.name))
        .filter(|(distance, _)| *distance <= limit)
        .collect();
    near.sort();
    near.into_iter().map(|(_, name)| name).take(4).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_sorted_and_sound() {
        assert!(TYPES.is_sorted_by(|a, b| a.name < b.name));
        for row in TYPES {
            assert!(row.since.zip(row.until).is_none_or(|(since, until)| since < until), "{}", row.name);
            assert!(!row.checked || row.is_on_device(), "{}", row.name);
        }
    }

    #[test]
    fn finds_types_and_neighbours() {
        assert!(known("fuse.sshfs").is_some_and(FsType::needs_program));
        assert!(known("ext4").is_some_and(|t| t.checked && t.is_on_device()));
        assert!(known("ext5").is_none());
        assert_eq!(near("ext5"), ["ext2", "ext3", "ext4"]);
        assert_eq!(near("XFS")[0], "xfs");
        assert!(near("something-else").is_empty());
    }
}
