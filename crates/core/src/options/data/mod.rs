//! The rows. Sources: the kernel's Documentation/filesystems and its parsers,
//! the manual pages mount(8), ext4(5), xfs(5), btrfs(5), tmpfs(5), swapon(8),
//! systemd.mount(5), and recorded answers of real kernels.

mod btrfs;
mod common;
mod ext4;
mod swap;
mod tmpfs;
mod vfat;
mod xfs;

pub use btrfs::BTRFS;
pub use common::COMMON;
pub use ext4::EXT4;
pub use swap::SWAP;
pub use tmpfs::TMPFS;
pub use vfat::VFAT;
pub use xfs::XFS;

use super::{Form, KernelVersion, Opt};

const fn row(name: &'static str, form: Form, meaning: &'static str) -> Opt {
    Opt { name, form, since: None, until: None, meaning }
}

const fn since(major: u16, minor: u16, row: Opt) -> Opt {
    Opt { since: Some(KernelVersion(major, minor)), ..row }
}

const fn until(major: u16, minor: u16, row: Opt) -> Opt {
    Opt { until: Some(KernelVersion(major, minor)), ..row }
}
