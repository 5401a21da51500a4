//! Which package brings the program that mounts a type, by distribution.

use bradawl_facts::Version;
use std::collections::BTreeMap;

/// Families of distributions whose packages have the same names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Family {
    Debian,
    RedHat,
    Suse,
    Arch,
    Alpine,
}

/// Distributions by the ID of os-release(5).
const FAMILIES: [(&str, Family); 20] = [
    ("debian", Family::Debian),
    ("ubuntu", Family::Debian),
    ("raspbian", Family::Debian),
    ("linuxmint", Family::Debian),
    ("devuan", Family::Debian),
    ("pop", Family::Debian),
    ("fedora", Family::RedHat),
    ("rhel", Family::RedHat),
    ("centos", Family::RedHat),
    ("rocky", Family::RedHat),
    ("almalinux", Family::RedHat),
    ("ol", Family::RedHat),
    ("amzn", Family::RedHat),
    ("opensuse-leap", Family::Suse),
    ("opensuse-tumbleweed", Family::Suse),
    ("sles", Family::Suse),
    ("arch", Family::Arch),
    ("manjaro", Family::Arch),
    ("endeavouros", Family::Arch),
    ("alpine", Family::Alpine),
];

/// Type, and its package in the order of [`Family`]; empty: there is none, or
/// it is not known.
const PACKAGES: [(&str, [&str; 5]); 20] = [
    ("nfs", ["nfs-common", "nfs-utils", "nfs-client", "nfs-utils", "nfs-utils"]),
    ("nfs4", ["nfs-common", "nfs-utils", "nfs-client", "nfs-utils", "nfs-utils"]),
    ("cifs", ["cifs-utils", "cifs-utils", "cifs-utils", "cifs-utils", "cifs-utils"]),
    ("smb3", ["cifs-utils", "cifs-utils", "cifs-utils", "cifs-utils", "cifs-utils"]),
    ("ntfs-3g", ["ntfs-3g", "ntfs-3g", "ntfs-3g", "ntfs-3g", "ntfs-3g"]),
    ("fuse.sshfs", ["sshfs", "fuse-sshfs", "sshfs", "sshfs", "sshfs"]),
    ("fuse.glusterfs", ["glusterfs-client", "glusterfs-fuse", "glusterfs", "glusterfs", ""]),
    ("glusterfs", ["glusterfs-client", "glusterfs-fuse", "glusterfs", "glusterfs", ""]),
    ("ceph", ["ceph-common", "ceph-common", "ceph-common", "", ""]),
    ("davfs", ["davfs2", "davfs2", "davfs2", "davfs2", "davfs2"]),
    ("zfs", ["zfsutils-linux", "", "", "", "zfs"]),
    ("mergerfs", ["mergerfs", "", "", "", "mergerfs"]),
    ("fuse.mergerfs", ["mergerfs", "", "", "", "mergerfs"]),
    ("fuse.bindfs", ["bindfs", "", "", "", ""]),
    ("fuse.gocryptfs", ["gocryptfs", "", "", "", ""]),
    ("fuse.s3fs", ["s3fs", "", "", "", ""]),
    ("fuse.squashfuse", ["squashfuse", "", "", "", ""]),
    ("fuse.fuse-overlayfs", ["fuse-overlayfs", "", "", "", ""]),
    ("fuse.unionfs", ["unionfs-fuse", "", "", "", ""]),
    ("rclone", ["rclone", "", "", "", ""]),
];

/// The names of all packages that bring one.
pub fn named() -> impl Iterator<Item = &'static str> {
    PACKAGES.iter().flat_map(|(_, names)| *names).filter(|name| !name.is_empty())
}

/// The version of the program that mounts a type on a host with packages of these
/// versions.
pub fn program_version(fstype: &str, versions: &BTreeMap<String, String>) -> Option<Version> {
    let (_, names) = PACKAGES.iter().find(|(name, _)| *name == fstype)?;
    let version = names.iter().find_map(|name| versions.get(*name))?;
    // What stands before a colon only orders the versions of a distribution.
    Version::parse(version.split_once(':').map_or(version.as_str(), |(_, plain)| plain))
}

/// The package that brings the mount program of a type on the distribution with
/// this ID of os-release(5); `None` where that is not known.
pub fn of_mount_program(fstype: &str, os_id: &str) -> Option<&'static str> {
    let (_, family) = FAMILIES.iter().find(|(id, _)| *id == os_id)?;
    let (_, names) = PACKAGES.iter().find(|(name, _)| *name == fstype)?;
    Some(names[*family as usize]).filter(|name| !name.is_empty())
}

/// The command that installs a package on the distribution with this ID of
/// os-release(5).
pub fn install_command(package: &str, os_id: &str) -> Option<String> {
    let (_, family) = FAMILIES.iter().find(|(id, _)| *id == os_id)?;
    let program = match family {
        Family::Debian => "apt-get install",
        Family::RedHat => "dnf install",
        Family::Suse => "zypper install",
        Family::Arch => "pacman -S",
        Family::Alpine => "apk add",
    };
    Some(format!("{program} {package}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_sound() {
        for (fstype, _) in PACKAGES {
            assert!(crate::fstypes::known(fstype).is_some(), "{fstype}");
        }
        let versions = [("mergerfs", "2.33.5-1"), ("ntfs-3g", "1:2022.10.3-1"), ("davfs2", "?")];
        let versions = versions.map(|(name, version)| (name.to_owned(), version.to_owned())).into();
        assert_eq!(program_version("fuse.mergerfs", &versions), Some(Version(2, 33)));
        assert_eq!(program_version("ntfs-3g", &versions), Some(Version(2022, 10)));
        assert_eq!(program_version("davfs", &versions), None);
        assert_eq!(program_version("fuse.bindfs", &versions), None);
        assert_eq!(of_mount_program("nfs", "debian"), Some("nfs-common"));
        assert_eq!(of_mount_program("nfs", "rocky"), Some("nfs-utils"));
        assert_eq!(install_command("nfs-utils", "rocky").as_deref(), Some("dnf install nfs-utils"));
        assert_eq!(of_mount_program("nfs", "plan9"), None);
        assert_eq!(of_mount_program("zfs", "fedora"), None);
    }
}
