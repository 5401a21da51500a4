//! The initramfs image of the next boot, and what is packed into it.

use crate::boot_files::pair;
use crate::files::Files;
use bradawl_facts::record::{Early, Initramfs, InitramfsImage, NextBoot, TableFile};
use std::io;

/// Larger images are not read: unpacking them would take seconds.
const MAX_BYTES: u64 = 128 << 20;

/// Whether anything depends on what is packed into the image: reading it takes up
/// to a second.
pub(crate) fn decides<'t>(early: &Early, mut tables: impl Iterator<Item = &'t TableFile>) -> bool {
    let locked = early.crypttab.as_ref().is_some_and(|all| !all.is_empty());
    let arrays = early.arrays.as_ref().is_some_and(|all| !all.is_empty());
    let asks = |text: &str| text.contains("/usr") || text.contains("x-initrd.mount");
    let table = tables.any(|t| asks(&String::from_utf8_lossy(&t.bytes.bytes().unwrap_or_default())));
    locked || arrays || table || early.initramfs != Some(Initramfs::InitramfsTools)
}

/// What is in the image that boots next, or else in that of a kernel.
///
/// `kernel`: version of the running kernel.
pub(crate) fn image(
    files: &mut Files,
    next: Option<&NextBoot>,
    kernel: Option<&str>,
) -> Option<InitramfsImage> {
    // Another host's image is not fetched: it is as large as the rest of the survey by far.
    if files.collected().is_some() {
        return None;
    }
    let path = place(files, next, kernel)?;
    let read = files
        .stream(&path, MAX_BYTES)
        .and_then(|image| bradawl_initramfs::read(image).map_err(io::Error::other));
    match read {
        Ok(image) => Some(InitramfsImage { path, ..image }),
        Err(error) => {
            files.note(format!("the initramfs {path}"), &error);
            None
        }
    }
}

/// Where it lies: the boot loader's paths begin at its own file system, which is
/// mounted at /boot or is the root itself.
fn place(files: &Files, next: Option<&NextBoot>, kernel: Option<&str>) -> Option<String> {
    let loaders = next.and_then(|n| n.initramfs.as_deref()).map(|path| path.trim_start_matches('/'));
    let of_loader = loaders
        .into_iter()
        .flat_map(|path| ["/boot/", "/", "/boot/efi/", "/efi/"].map(|folder| format!("{folder}{path}")));
    let of_kernel = kernel.into_iter().flat_map(|version| {
        ["initrd.img-", "initramfs-", "initrd-"].map(|name| {
            let end = if name == "initramfs-" { ".img" } else { "" };
            format!("/boot/{name}{version}{end}")
        })
    });
    let usual = ["/boot/initramfs-linux.img".to_owned()];
    let named = of_loader.chain(of_kernel).chain(usual).find(|path| files.exists(path));
    // Of a root that does not run, that of its newest kernel.
    named.or_else(|| Some(pair(files, "/boot", None)?.1))
}
