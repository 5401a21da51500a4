//! ext2, ext3, ext4: one superblock at 1024, told apart by its features.
//!
//! Layout and feature bits: kernel documentation, "ext4 Data Structures",
//! super block.

use super::features::{EXT_COMPAT, EXT_INCOMPAT, EXT_RO_COMPAT, names};
use super::{Found, Reader, crc32c, found, set_label};
use crate::record::{Content, ContentKind};

const COMPAT_HAS_JOURNAL: u32 = 0x4;
const INCOMPAT_JOURNAL_DEV: u32 = 0x8;
/// FILETYPE and META_BG.
const EXT2_INCOMPAT: u32 = 0x2 | 0x10;
/// The same and RECOVER.
const EXT3_INCOMPAT: u32 = EXT2_INCOMPAT | 0x4;
/// SPARSE_SUPER, LARGE_FILE, BTREE_DIR.
const EXT2_RO_COMPAT: u32 = 0x1 | 0x2 | 0x4;
const INCOMPAT_RECOVER: u32 = 0x4;
const RO_COMPAT_METADATA_CSUM: u32 = 0x400;
const INCOMPAT_64BIT: u32 = 0x80;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(1024, 1024)?;
    if sb.u16le(0x38)? != 0xef53 {
        return None;
    }
    let compat = sb.u32le(0x5c)?;
    let incompat = sb.u32le(0x60)?;
    let ro_compat = sb.u32le(0x64)?;
    let log_block = sb.u32le(0x18)?;
    // 64 KiB is the largest block.
    if log_block > 6 {
        return None;
    }
    if incompat & INCOMPAT_JOURNAL_DEV != 0 {
        let mut content = Content::new(ContentKind::Journal, Some("jbd"));
        content.uuid = sb.uuid(0x68);
        set_label(&mut content, sb.cstr(0x78, 16)?);
        return found(1024, content);
    }
    let journal = compat & COMPAT_HAS_JOURNAL != 0;
    let fstype = if !journal && incompat & !EXT2_INCOMPAT == 0 && ro_compat & !EXT2_RO_COMPAT == 0 {
        "ext2"
    } else if journal && incompat & !EXT3_INCOMPAT == 0 && ro_compat & !EXT2_RO_COMPAT == 0 {
        "ext3"
    } else {
        "ext4"
    };
    let block_size = 1024u64 << log_block;
    let high = if incompat & INCOMPAT_64BIT != 0 { u64::from(sb.u32le(0x150)?) } else { 0 };
    let blocks = high << 32 | u64::from(sb.u32le(0x4)?);
    let mut content = Content::new(ContentKind::Filesystem, Some(fstype));
    content.uuid = sb.uuid(0x68);
    set_label(&mut content, sb.cstr(0x78, 16)?);
    content.version = Some(format!("{}.{}", sb.u32le(0x4c)?, sb.u16le(0x3e)?));
    content.block_size = Some(block_size);
    content.size = blocks.checked_mul(block_size);
    content.set_uuid = sb.uuid(0xd0).filter(|_| journal);
    content.features = names(u64::from(compat), EXT_COMPAT);
    content.features.extend(names(u64::from(incompat), EXT_INCOMPAT));
    content.features.extend(names(u64::from(ro_compat), EXT_RO_COMPAT));
    content.state = Some(state(sb.u16le(0x3a)?, incompat).to_owned());
    content.last_mounted_on =
        sb.cstr(0x88, 64).filter(|p| !p.is_empty()).map(|p| String::from_utf8_lossy(p).into_owned());
    if ro_compat & RO_COMPAT_METADATA_CSUM != 0 && !crc32c(&[sb.bytes(0, 0x3fc)?]) != sb.u32le(0x3fc)? {
        content.damaged = Some("the checksum of the superblock is wrong".to_owned());
    }
    found(1024, content)
}

/// What the superblock says of the file system's soundness.
fn state(flags: u16, incompat: u32) -> &'static str {
    match flags {
        f if f & 0x2 != 0 => "errors",
        _ if incompat & INCOMPAT_RECOVER != 0 => "needs journal replay",
        f if f & 0x1 != 0 => "clean",
        _ => "not cleanly unmounted",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn image(compat: u32, incompat: u32, ro_compat: u32) -> Vec<u8> {
        let mut data = vec![0; 4096];
        let mut put = |at: usize, bytes: &[u8]| data[1024 + at..][..bytes.len()].copy_from_slice(bytes);
        put(0x4, &100u32.to_le_bytes());
        put(0x38, &[0x53, 0xef]);
        put(0x4c, &1u32.to_le_bytes());
        put(0x5c, &compat.to_le_bytes());
        put(0x60, &incompat.to_le_bytes());
        put(0x64, &ro_compat.to_le_bytes());
        put(0x68, &[0x11; 16]);
        put(0x78, b"gauge");
        data
    }

    #[test]
    fn features_tell_the_generation() {
        let cases = [
            (0, 0x2, 0x3, Some("ext2")),
            (0x4, 0x6, 0x3, Some("ext3")),
            (0x4, 0x242, 0x7b, Some("ext4")),
            (0, 0x242, 0x7b, Some("ext4")),
            (0, 0x8, 0, Some("jbd")),
        ];
        for (compat, incompat, ro_compat, expected) in cases {
            let found = probe(&Reader::new(&image(compat, incompat, ro_compat)));
            assert_eq!(found.and_then(|f| f.content.fstype).as_deref(), expected);
        }
    }

    #[test]
    fn names_and_size() {
        let content = probe(&Reader::new(&image(0, 2, 3))).unwrap().content;
        assert_eq!(content.uuid.as_deref(), Some("11111111-1111-1111-1111-111111111111"));
        assert_eq!(content.label.as_deref(), Some("gauge"));
        assert_eq!((content.size, content.block_size), (Some(102_400), Some(1024)));
        assert_eq!(content.version.as_deref(), Some("1.0"));
    }
}
