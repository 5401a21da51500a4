//! Types that a program behind fuse mounts, and what all of them take.

mod bindfs;
mod davfs;
mod go;
mod gocryptfs;
mod library;
mod mergerfs;
mod overlay;
mod rclone;
mod s3fs;
mod squashfuse;
mod sshfs;
mod unionfs;

use super::{Opt, Reader, Spec, flag, row, strict};
use library::{CONNECTION, LIBRARY, PATHS, ROOT, SCANNED, SECOND, joined};

/// What every program behind fuse takes; each has words of its own besides.
const SPEC: Spec = strict(&OPTIONS).open().by(Reader::Helper).source(
    "mount.fuse3(8) and the kernel's fs/fuse; recorded answers of programs with libfuse 2.9, 3.14 and 3.17",
);

static OPTIONS: [Opt; 50] = joined(&[&LIBRARY, &ROOT, &CONNECTION, &PATHS, &SECOND, OWN]);

const OWN: &[Opt] = &[
    row("blksize", SCANNED, "block size of the device"),
    flag("drop_privileges", "the program runs with fewer rights"),
];

/// The types, by name.
pub const SPECS: [(&str, Spec); 12] = [
    ("bindfs", bindfs::SPEC),
    ("davfs", davfs::SPEC),
    ("fuse", SPEC),
    ("fuse-overlayfs", overlay::SPEC),
    ("fuseblk", SPEC),
    ("gocryptfs", gocryptfs::SPEC),
    ("mergerfs", mergerfs::SPEC),
    ("rclone", rclone::SPEC),
    ("s3fs", s3fs::SPEC),
    ("squashfuse", squashfuse::SPEC),
    ("sshfs", sshfs::SPEC),
    ("unionfs", unionfs::SPEC),
];

/// Whether the words of the program behind `fuse.` are known.
pub fn is_known(program: &str) -> bool {
    program == "ntfs-3g" || SPECS.iter().any(|(name, _)| *name == program && !is_kind(name))
}

/// Whether it says that a program follows, and no more.
pub fn is_kind(kind: &str) -> bool {
    matches!(kind, "fuse" | "fuseblk")
}

#[cfg(test)]
mod tests;
