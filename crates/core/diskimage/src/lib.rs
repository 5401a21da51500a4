//! The bytes of disks inside the image formats of virtual machines (qcow2, VMDK, VHD, VHDX
//! and VDI), and inside raw images that were packed in pieces (xz, zstd, gzip).
//!
//! Only what one file says by itself is read: a layer over another file, an
//! encrypted image, one that was not closed are errors that say so. Held in memory are one
//! unpacked block, or pieces of 256 MiB together; tables are read where they are asked.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod blocks;
mod error;
mod packed;
mod qcow2;
mod vdi;
mod vhd;
mod vhdx;
mod vmdk;

pub use error::DiskImageError;

use bradawl_facts::probe::Bytes;
use std::sync::Arc;

/// Bytes that several readers share.
pub type SharedBytes = Arc<dyn Bytes + Send + Sync>;

/// A disk inside a file.
pub struct DiskImage {
    /// The format's name; `None`: the file is the disk, byte for byte.
    pub format: Option<&'static str>,
    /// The disk's bytes.
    pub bytes: SharedBytes,
}

/// The disk inside a file, told by what the file begins or ends with.
///
/// # Errors
/// [`DiskImageError`] for a format that is known and cannot be read.
pub fn open(file: SharedBytes) -> Result<DiskImage, DiskImageError> {
    // A packed file may be shorter.
    let head = head_of(&file);
    if let Some((format, inside)) = packed::open(&file, &head)? {
        // A disk in the format of a virtual machine may be packed once more.
        let image = plain(inside)?;
        return Ok(DiskImage { format: image.format.or(Some(format)), bytes: image.bytes });
    }
    plain(file)
}

fn head_of(file: &SharedBytes) -> [u8; 1024] {
    let mut head = [0; 1024];
    match file.read_at(0, &mut head) {
        Ok(_) => head,
        Err(_) => [0; 1024],
    }
}

/// The disk inside a file that is not packed.
fn plain(file: SharedBytes) -> Result<DiskImage, DiskImageError> {
    let head = head_of(&file);
    if let Some(format) = unreadable(&head) {
        return Err(DiskImageError::NotRead {
            format,
            why: "unpack or convert it to a raw image first".to_owned(),
        });
    }
    let readers = [qcow2::open, vmdk::open, vdi::open, vhdx::open, vhd::open];
    for reader in readers {
        if let Some(image) = reader(&file, &head)? {
            return Ok(image);
        }
    }
    Ok(DiskImage { format: None, bytes: file })
}

/// Formats that are only told by name: they cannot be read from any place, or by
/// nothing here.
fn unreadable(head: &[u8; 1024]) -> Option<&'static str> {
    let known: [(&[u8], &str); 10] = [
        (b"\x1f\x8b", "gzip"),
        (b"\xfd7zXZ\0", "xz"),
        (b"\x28\xb5\x2f\xfd", "zstd"),
        (b"BZh", "bzip2"),
        (b"\x04\x22\x4d\x18", "lz4"),
        (b"PK\x03\x04", "zip"),
        (b"7z\xbc\xaf\x27\x1c", "7z"),
        (b"QED\0", "QED"),
        (b"COWD", "VMDK of an old kind"),
        (b"WithoutFreeSpace", "parallels"),
    ];
    let tar = &head[257..262] == b"ustar";
    known
        .into_iter()
        .find(|(magic, _)| head.starts_with(magic))
        .map(|(_, name)| name)
        .or(tar.then_some("tar"))
}
