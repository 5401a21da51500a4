//! What is added to the initramfs of a guest.

use super::cpio::Archive;
use std::time::Duration;

const PLACE: &str = include_str!("place.sh");
const FIRST: &str = include_str!("first.sh");
const TELL: &str = include_str!("tell.sh");
const TELL_UNIT: &str = include_str!("tell.service");

/// The first program to start, where the initramfs is a set of scripts.
pub(super) const FIRST_PROGRAM: &str = "/bradawl/first";

/// An initramfs that puts a table into place, and has the boot told: by
/// `collector`, not later than `limit` after the kernel began.
pub(super) fn with_ours(initramfs: &[u8], table: Option<&[u8]>, collector: &str, limit: Duration) -> Vec<u8> {
    let mut archive = Archive::default();
    for (path, text) in [("bradawl/first", FIRST), ("bradawl/place", PLACE), ("bradawl/tell", TELL)] {
        archive.file(path, text.as_bytes());
    }
    archive.file("bradawl/collector", collector.as_bytes());
    let unit = TELL_UNIT.replace("LIMIT", &limit.as_secs().to_string());
    archive.file("bradawl/tell.service", unit.as_bytes());
    if let Some(table) = table {
        archive.file("bradawl/fstab", table);
    }
    archive.behind(initramfs)
}
