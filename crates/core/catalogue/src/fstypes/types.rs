use super::{FsType, Lives};
use bradawl_facts::Version;

const fn row(name: &'static str, lives: Lives) -> FsType {
    FsType { name, lives, checked: false, since: None, until: None }
}

const fn device(name: &'static str) -> FsType {
    row(name, Lives::OnDevice)
}

const fn kernel(name: &'static str) -> FsType {
    row(name, Lives::InKernel)
}

const fn program(name: &'static str) -> FsType {
    row(name, Lives::InProgram)
}

impl FsType {
    const fn checked(self) -> FsType {
        FsType { checked: true, ..self }
    }

    const fn since(self, major: u16, minor: u16) -> FsType {
        FsType { since: Some(Version(major, minor)), ..self }
    }

    const fn until(self, major: u16, minor: u16) -> FsType {
        FsType { until: Some(Version(major, minor)), ..self }
    }
}

/// All types known here, by name. Where a kernel first had or lost one
/// follows the kernel's own history (`register_filesystem` in `fs/`); what is
/// checked at boot follows the checkers that do more than say yes.
pub const TYPES: &[FsType] = &[
    row("9p", Lives::OnNetwork),
    device("adfs"),
    device("affs"),
    row("afs", Lives::OnNetwork),
    device("apfs"),
    device("auto"),
    kernel("autofs"),
    device("bcachefs").checked().since(6, 7).until(6, 18),
    device("befs"),
    device("bfs"),
    kernel("binfmt_misc"),
    kernel("bpf").since(4, 4),
    device("btrfs"),
    row("ceph", Lives::OnNetwork),
    kernel("cgroup"),
    kernel("cgroup2").since(4, 5),
    row("cifs", Lives::OnNetworkByProgram),
    kernel("configfs"),
    device("cramfs"),
    row("davfs", Lives::OnNetworkByProgram),
    kernel("debugfs"),
    kernel("devpts"),
    kernel("devtmpfs"),
    kernel("ecryptfs"),
    kernel("efivarfs"),
    device("efs"),
    device("erofs").since(5, 4),
    device("exfat").checked().since(5, 7),
    device("ext2").checked(),
    device("ext3").checked(),
    device("ext4").checked(),
    device("f2fs").checked().since(3, 8),
    device("freevxfs"),
    program("fuse"),
    program("fuseblk"),
    kernel("fusectl"),
    device("gfs2").checked(),
    row("glusterfs", Lives::OnNetworkByProgram),
    device("hfs"),
    device("hfsplus").checked(),
    device("hpfs"),
    kernel("hugetlbfs"),
    device("iso9660"),
    device("jffs2"),
    device("jfs").checked(),
    device("logfs").until(4, 10),
    row("lustre", Lives::OnNetworkByProgram),
    program("mergerfs"),
    device("minix").checked(),
    kernel("mqueue"),
    device("msdos").checked(),
    row("ncpfs", Lives::OnNetwork).until(4, 17),
    row("nfs", Lives::OnNetworkByProgram),
    row("nfs4", Lives::OnNetworkByProgram),
    kernel("nfsd"),
    device("nilfs2"),
    kernel("none"),
    kernel("nsfs"),
    device("ntfs"),
    row("ntfs-3g", Lives::OnDeviceByProgram),
    device("ntfs3").since(5, 15),
    device("ocfs2").checked(),
    device("omfs"),
    row("orangefs", Lives::OnNetwork),
    kernel("overlay").since(3, 18),
    kernel("proc"),
    kernel("pstore"),
    device("qnx4"),
    device("qnx6"),
    kernel("ramfs"),
    program("rclone"),
    device("reiserfs").checked().until(6, 13),
    device("romfs"),
    kernel("rpc_pipefs"),
    kernel("securityfs"),
    kernel("selinuxfs"),
    row("smb3", Lives::OnNetworkByProgram),
    row("smbfs", Lives::OnNetworkByProgram).until(2, 37),
    device("squashfs"),
    device("swap"),
    kernel("sysfs"),
    device("sysv").until(6, 15),
    kernel("tmpfs"),
    kernel("tracefs").since(4, 1),
    device("ubifs"),
    device("udf"),
    device("ufs"),
    device("umsdos").until(2, 6),
    program("unionfs"),
    kernel("usbfs").until(3, 5),
    program("vboxsf"),
    device("vfat").checked(),
    kernel("virtiofs").since(5, 4),
    device("vxfs"),
    device("xfs"),
    row("zfs", Lives::InProgram),
    device("zonefs").since(5, 6),
];
