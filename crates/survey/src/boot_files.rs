//! The kernel and the initramfs that a disk image starts with.

use crate::files::Files;
use crate::image::Disks;
use crate::view::View;
use crate::{SurveyError, unreadable};
use std::fs::File;
use std::io::{self, Seek as _, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// No kernel and no initramfs is larger.
const MAX_BYTES: u64 = 1 << 30;
/// Where both lie: in the root file system, or on one that is mounted on /boot.
const PLACES: [&str; 2] = ["/boot", ""];

/// What a boot loader reads into memory.
pub struct BootFiles {
    /// The kernel's path on its file system.
    pub kernel_path: String,
    /// The kernel.
    pub kernel: Vec<u8>,
    /// The initramfs's path.
    pub initramfs_path: String,
    /// The initramfs, as it is packed.
    pub initramfs: Vec<u8>,
}

impl Disks {
    /// The kernel that is named, else the one with the highest version, with its
    /// initramfs.
    fn boot_files(&self, named: Option<&str>) -> io::Result<BootFiles> {
        let named = named.and_then(|path| path.rsplit('/').next());
        let none = || io::Error::new(io::ErrorKind::NotFound, "no kernel with an initramfs was found on it");
        for files in self.all_files() {
            for place in PLACES {
                if let Some((kernel, initramfs)) = pair(&files, place, named) {
                    return Ok(BootFiles {
                        kernel: files.read(&kernel, MAX_BYTES)?,
                        initramfs: files.read(&initramfs, MAX_BYTES)?,
                        kernel_path: kernel,
                        initramfs_path: initramfs,
                    });
                }
            }
        }
        Err(none())
    }
}

/// A kernel with its initramfs in a directory.
pub(crate) fn pair(files: &Files, place: &str, named: Option<&str>) -> Option<(String, String)> {
    let directory = if place.is_empty() { "/" } else { place };
    let names = files.list(directory, 1000).ok()?;
    let kernels = names.iter().filter_map(|n| Some((n, n.strip_prefix("vmlinuz-")?)));
    let (kernel, version) = match named {
        Some(wanted) => kernels.clone().find(|(name, _)| *name == wanted)?,
        None => kernels.max_by_key(|(_, version)| order(version))?,
    };
    let initramfs = [format!("initrd.img-{version}"), format!("initramfs-{version}.img")];
    let initramfs = initramfs.iter().find(|name| names.contains(name))?;
    Some((format!("{place}/{kernel}"), format!("{place}/{initramfs}")))
}

/// The numbers of a version, for comparing.
fn order(version: &str) -> Vec<u64> {
    version.split(|c: char| !c.is_ascii_digit()).filter_map(|n| n.parse().ok()).collect()
}

/// Reads kernel and initramfs from disk images.
///
/// # Errors
/// When an image cannot be opened, or neither is on it.
pub fn boot_files(images: &[PathBuf], kernel: Option<&str>) -> Result<BootFiles, SurveyError> {
    let disks = crate::opened(images)?;
    let first = images.first().map(PathBuf::as_path).unwrap_or_else(|| Path::new(""));
    disks.boot_files(kernel).map_err(|e| unreadable(first, e))
}

/// The format of a disk image; `None`: it is the disk, byte for byte.
///
/// # Errors
/// When it cannot be read, or is in a format that cannot be.
pub fn image_format(path: &Path) -> io::Result<Option<&'static str>> {
    let mut file = File::open(path)?;
    let size = file.seek(SeekFrom::End(0))?;
    let image = bradawl_diskimage::open(Arc::new(View::whole(file, size)));
    Ok(image.map_err(io::Error::other)?.format)
}

#[cfg(test)]
mod tests {
    use super::order;

    #[test]
    fn the_newest_kernel_is_told_by_its_numbers() {
        let mut all = ["6.1.0-9-amd64", "6.12.1-amd64", "6.1.0-50-amd64"];
        all.sort_by_key(|v| order(v));
        assert_eq!(all, ["6.1.0-9-amd64", "6.1.0-50-amd64", "6.12.1-amd64"]);
    }
}
