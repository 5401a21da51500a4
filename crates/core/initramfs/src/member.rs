//! A file of an archive, and which of them are looked into.

/// Of a file no more is handed on.
pub(crate) const MAX_KEPT: u64 = 256 << 10;

/// A file of the archive.
#[derive(Debug)]
pub(crate) struct Member<'m> {
    /// Its path without a slash in front.
    pub name: &'m str,
    pub mode: u32,
    pub inode: u64,
    /// Bytes.
    pub size: u64,
    /// What it holds, or where it leads; empty unless small and asked for.
    pub content: Vec<u8>,
}

impl Member<'_> {
    /// Whether it is a link by path.
    pub fn is_link(&self) -> bool {
        self.mode & 0o170_000 == 0o120_000
    }
}

/// Whether a file says something by what it holds.
pub(crate) fn is_kept(name: &str) -> bool {
    let below = |folder: &str| name.starts_with(folder) && name.ends_with(".conf");
    let known = [
        "cryptroot/crypttab",
        "etc/crypttab",
        "etc/fstab",
        "etc/lvm/lvm.conf",
        "etc/lvm/devices/system.devices",
        "etc/mdadm/mdadm.conf",
        "etc/mdadm.conf",
        "conf/initramfs.conf",
        "conf/conf.d/resume",
        "etc/cmdline",
        "config",
        "usr/lib/dracut/modules.txt",
        "lib/dracut/modules.txt",
    ];
    known.contains(&name) || is_mount(name) || below("etc/cmdline.d/") || below("usr/lib/cmdline.d/")
}

/// Whether it is the mount program.
pub(crate) fn is_mount(name: &str) -> bool {
    matches!(name, "bin/mount" | "usr/bin/mount" | "sbin/mount" | "usr/sbin/mount")
}
