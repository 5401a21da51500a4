//! What the list's type and the mount program say to every option alike.

use super::{About, Asked, Reader, Spec, Verdict, of_type};
use crate::fstypes::known as known_type;
use bradawl_facts::Version;

/// A verdict, what it is about, and why.
pub(super) type Said = (Verdict, About, String);

/// What the list's type and the mount program say to every option alike.
pub(super) struct Kind {
    pub(super) spec: Option<&'static Spec>,
    /// Whether the type has its options handed over one by one.
    pub(super) one_by_one: bool,
    pub(super) on_device: bool,
    /// Whether the mount program knows the type for a share.
    is_share: bool,
    /// Whether its program is given a file, which may lie on a loop device.
    pub(super) is_of_image: bool,
}

/// The types that the mount program knows for shares (libmount's list).
const SHARES: [&str; 13] = [
    "cifs",
    "smb3",
    "smbfs",
    "nfs",
    "nfs3",
    "nfs4",
    "afs",
    "ncpfs",
    "glusterfs",
    "fuse.curlftpfs",
    "fuse.sshfs",
    "9p",
    "ncp",
];

impl Kind {
    pub(super) fn helper(&self) -> bool {
        self.spec.is_some_and(|spec| spec.reader == Reader::Helper)
    }

    /// Whether the mount program looks at its source although its own program mounts
    /// it: not where it knows it for a share.
    pub(super) fn is_given_a_path(&self) -> bool {
        self.helper() && !self.on_device && !self.is_share
    }

    pub(super) fn is_handed_flags(&self) -> bool {
        self.spec.is_some_and(|spec| spec.handed_flags.is_some())
    }

    pub(super) fn takes_as_flag(&self, name: &str) -> bool {
        self.spec.and_then(|spec| spec.handed_flags).is_some_and(|taken| taken.contains(&name))
    }

    pub(super) fn stops_at(&self, name: &str, program: Version) -> bool {
        self.spec.is_some_and(|spec| spec.stops_at(name, program))
    }

    pub(super) fn of(asked: &Asked<'_>) -> Self {
        let spec = of_type(asked.fstype);
        let since = spec.and_then(|s| s.one_by_one);
        Kind {
            spec,
            one_by_one: since.zip(asked.kernel).is_some_and(|(since, k)| k >= since),
            on_device: known_type(asked.fstype).is_some_and(|t| t.is_on_device()),
            is_share: SHARES.contains(&asked.fstype),
            is_of_image: matches!(asked.fstype, "fuse.squashfuse" | "squashfuse"),
        }
    }
}
