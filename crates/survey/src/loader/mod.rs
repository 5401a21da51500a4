//! What the boot loader will start: GRUB, entries of the boot loader specification, unified kernel images,
//! the menus of U-Boot and its kin, the firmware of Raspberry Pi boards.

mod extlinux;
mod firmware;
mod grub;
mod specification;
pub(crate) mod unified;

use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// More entries are not read.
const MAX_ENTRIES: usize = 200;
/// No configuration is longer.
const MAX_BYTES: u64 = 2 << 20;

/// What the next boot will start, where the loader's configuration says so
/// without a doubt.
pub(crate) fn next_boot(files: &Files) -> Option<NextBoot> {
    grub::next(files)
        .or_else(|| specification::next(files, None, ""))
        .or_else(|| unified::next(files))
        .or_else(|| extlinux::next(files))
        .or_else(|| firmware::next(files))
}

fn text(files: &Files, path: &str) -> Option<String> {
    files.read(path, MAX_BYTES).ok().map(|bytes| String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod testing {
    use super::*;

    /// What a root with these files starts next.
    pub(super) fn of(all: &[(&str, &str)]) -> Option<NextBoot> {
        let dir = tempfile::tempdir().unwrap();
        for (path, text) in all {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
        next_boot(&Files::own(dir.path().to_owned()))
    }
}
