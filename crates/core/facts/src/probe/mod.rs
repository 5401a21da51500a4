//! What a device holds, from its own bytes.
//!
//! One file per format over a bounds-checked [`Reader`]. Probing one device
//! reads at most 224 pages of 4 KiB (896 KiB); a device with an ordinary file
//! system about 40 pages (160 KiB).

mod bcache;
mod bitlocker;
mod btrfs;
mod btrfs_subvolumes;
mod exfat;
mod ext;
mod f2fs;
mod fat;
mod features;
mod gpt;
mod hfsplus;
mod iso9660;
mod jfs;
mod labels;
mod luks;
mod lvm;
mod lvm_group;
mod lvm_settings;
mod lvm_text;
mod mbr;
mod md;
mod minix;
mod nilfs2;
mod ntfs;
mod reader;
mod reiserfs;
mod rules;
mod shared_disk;
mod small;
mod swap;
mod udf;
mod verity;
mod xfs;
mod zfs;

pub use features::FEATURE_NAMES;
pub use lvm_settings::lvm_settings;
pub use reader::{Block, Bytes, Reader};

use crate::record::{Content, ContentKind};
use base64::Engine as _;
use reader::PAGE;

/// What one probe found, and where its signature stands.
#[derive(Debug, Clone)]
struct Found {
    offset: u64,
    content: Content,
}

type Probe = fn(&Reader<'_>) -> Option<Found>;

const PROBES: &[Probe] = &[
    md::probe,
    lvm::probe,
    luks::probe,
    bitlocker::probe,
    bcache::probe,
    verity::probe_verity,
    verity::probe_integrity,
    swap::probe,
    xfs::probe,
    xfs::probe_log,
    btrfs::probe,
    ext::probe,
    zfs::probe,
    exfat::probe,
    ntfs::probe,
    fat::probe,
    f2fs::probe,
    jfs::probe,
    nilfs2::probe,
    reiserfs::probe,
    udf::probe,
    iso9660::probe,
    bcache::probe_bcachefs,
    shared_disk::probe_ocfs2,
    shared_disk::probe_gfs2,
    hfsplus::probe,
    minix::probe,
    small::probe_squashfs,
    small::probe_erofs,
    small::probe_cramfs,
    small::probe_romfs,
    small::probe_bfs,
    gpt::probe,
    mbr::probe,
    labels::probe,
];

/// Says what a device holds.
///
/// # Errors
/// The device's own error, when a read failed.
pub fn identify(bytes: &dyn Bytes) -> std::io::Result<Content> {
    let reader = Reader::new(bytes);
    let found: Vec<Found> = PROBES.iter().filter_map(|probe| probe(&reader)).collect();
    let mut content = rules::settle(found).unwrap_or_else(|| nothing(&reader));
    if content.size.is_some_and(|size| size > reader.size()) && content.kind != ContentKind::PartitionTable {
        content.truncated = Some(true);
    }
    match reader.error() {
        Some(e) => Err(e),
        None => Ok(content),
    }
}

/// So much of the start is looked at where nothing was recognised.
const START: u64 = 68 << 10;
/// And so many pages between there and the end, the last one among them.
const SAMPLES: u64 = 64;

/// What holds nothing that is known: empty where its start is zeros, and every
/// page of a sample up to its end that can be read.
fn nothing(reader: &Reader<'_>) -> Content {
    let size = reader.size();
    let zeros = |reader: &Reader<'_>, at: u64, len: u64| {
        let bytes = reader.at(at, usize::try_from(len).unwrap_or(0))?;
        Some(bytes.all().iter().all(|&b| b == 0))
    };
    let start = size.min(START);
    let mut empty = zeros(reader, 0, start) == Some(true);
    let mut looked_at = start;
    // Where only the start was collected, the rest cannot be read, and that is no error.
    let rest = reader.anew();
    for n in 1..=SAMPLES {
        let page = (size / PAGE).saturating_sub(1) / SAMPLES * n * PAGE;
        let last = size.saturating_sub(PAGE) / PAGE * PAGE;
        let at = if n == SAMPLES { last } else { page };
        if !empty || at < start {
            continue;
        }
        match zeros(&rest, at, (size - at).min(PAGE)) {
            Some(all) => {
                empty &= all;
                looked_at += (size - at).min(PAGE);
            }
            None if rest.failed() => break,
            // Where bytes are collected as they are asked for, all are asked for at once.
            None => {}
        }
    }
    let mut content = Content::new(if empty { ContentKind::Empty } else { ContentKind::Unknown }, None);
    content.looked_at = Some(looked_at).filter(|_| size > 0);
    content
}

/// A content that a probe found at an offset.
#[allow(clippy::unnecessary_wraps)] // the last word of every probe
fn found(offset: u64, content: Content) -> Option<Found> {
    Some(Found { offset, content })
}

/// A file system of a type.
fn filesystem(fstype: &str) -> Content {
    Content::new(ContentKind::Filesystem, Some(fstype))
}

/// Sets a label from its bytes; an empty one means there is none.
fn set_label(content: &mut Content, bytes: &[u8]) {
    if bytes.is_empty() {
        return;
    }
    content.label = Some(String::from_utf8_lossy(bytes).into_owned());
    if std::str::from_utf8(bytes).is_err() {
        content.label_base64 = Some(base64::engine::general_purpose::STANDARD.encode(bytes));
    }
}

/// Sets a label from UTF-16 units up to the first zero.
fn set_utf16_label(content: &mut Content, units: impl Iterator<Item = u16>) {
    let units: Vec<u16> = units.take_while(|&u| u != 0).collect();
    set_label(content, String::from_utf16_lossy(&units).as_bytes());
}

/// Little-endian UTF-16 units.
fn utf16le(bytes: &[u8]) -> impl Iterator<Item = u16> {
    bytes.chunks_exact(2).map(|b| u16::from_le_bytes([b[0], b[1]]))
}

/// Big-endian UTF-16 units.
fn utf16be(bytes: &[u8]) -> impl Iterator<Item = u16> {
    bytes.chunks_exact(2).map(|b| u16::from_be_bytes([b[0], b[1]]))
}

/// The serial number of FAT and exFAT as device names spell it.
fn short_serial(serial: u32) -> String {
    format!("{:04X}-{:04X}", serial >> 16, serial & 0xffff)
}

/// CRC-32C over several pieces as ext4, XFS and Btrfs use it: started with
/// all ones, not inverted at the end unless the format does.
fn crc32c(pieces: &[&[u8]]) -> u32 {
    pieces.iter().fold(0, |crc, piece| crc32c::crc32c_append(crc, piece))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const MAGICS: [(usize, &[u8]); 28] = [
        (0x438, &[0x53, 0xef]),
        (0, b"XFSB"),
        (0x10040, b"_BHRfS_M"),
        (510, &[0x55, 0xaa]),
        (4086, b"SWAPSPACE2"),
        (54, b"FAT16   "),
        (512, b"EFI PART"),
        (512, b"LABELONE"),
        (0, b"LUKS\xba\xbe"),
        (0, &[0xfc, 0x4e, 0x2b, 0xa9]),
        (4096, &[0xfc, 0x4e, 0x2b, 0xa9]),
        (3, b"NTFS    "),
        (3, b"EXFAT   "),
        (1024, &[0x10, 0x20, 0xf5, 0xf2]),
        (32768, b"JFS1"),
        (1030, &[0x34, 0x34]),
        (65588, b"ReIsEr2Fs"),
        (32769, b"CD001"),
        (34817, b"NSR02"),
        (0, b"hsqs"),
        (1024, b"\xe2\xe1\xf5\xe0"),
        (1024, b"H+"),
        (0, b"verity\0\0"),
        (4120, b"\xc6\x85\x73\xf6\x4e\x1a\x45\xca\x82\x65\xf5\x7f\x48\xba\x6d\x81"),
        (16384, &[1, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]),
        (1040, &[0x7f, 0x13]),
        (450, &[0x83, 0, 0, 0, 1, 0, 0, 0, 9, 0, 0, 0]),
        (3, b"-FVE-FS-"),
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(512))]
        #[test]
        fn never_panics(seed in proptest::collection::vec(any::<u8>(), 1..2048), size in 0usize..140_000,
                        planted in proptest::collection::vec(0usize..MAGICS.len(), 0..4)) {
            let mut data: Vec<u8> = seed.iter().copied().cycle().take(size).collect();
            for n in planted {
                let (at, magic) = MAGICS[n];
                if let Some(place) = data.get_mut(at..at + magic.len()) {
                    place.copy_from_slice(magic);
                }
            }
            identify(&data).unwrap();
        }
    }

    #[test]
    fn nothing_and_something_unknown() {
        assert_eq!(identify(&vec![0u8; 1 << 17]).unwrap().kind, ContentKind::Empty);
        assert_eq!(identify(&vec![7u8; 4096]).unwrap().kind, ContentKind::Unknown);
        assert_eq!(identify(&Vec::new()).unwrap().kind, ContentKind::Empty);
    }

    #[test]
    fn labels_keep_their_bytes() {
        let mut content = Content::default();
        set_label(&mut content, b"");
        assert_eq!(content.label, None);
        set_label(&mut content, b"a\xff");
        assert_eq!(content.label.as_deref(), Some("a\u{fffd}"));
        assert_eq!(content.label_base64.as_deref(), Some("Yf8="));
    }
}
