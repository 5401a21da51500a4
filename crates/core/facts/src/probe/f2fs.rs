//! F2FS: two superblocks. Layout: the kernel's include/linux/f2fs_fs.h.

use super::features::{F2FS, names};
use super::{Found, Reader, filesystem, found, set_utf16_label, utf16le};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    superblock(reader, 1024).or_else(|| {
        let mut second = superblock(reader, 1024 + 4096)?;
        second.content.damaged = Some("the first superblock is gone; this is the second".to_owned());
        Some(second)
    })
}

fn superblock(reader: &Reader<'_>, offset: u64) -> Option<Found> {
    let sb = reader.at(offset, 1024)?;
    let block_bits = sb.u32le(16)?;
    if sb.u32le(0)? != 0xf2f5_2010 || !(12..=16).contains(&block_bits) {
        return None;
    }
    let mut content = filesystem("f2fs");
    content.uuid = sb.uuid(108);
    set_utf16_label(&mut content, utf16le(sb.bytes(124, 512)?));
    content.version = Some(format!("{}.{}", sb.u16le(4)?, sb.u16le(6)?));
    content.block_size = Some(1 << block_bits);
    if let Some(bits) = reader.at(offset + 2180, 4).and_then(|field| field.u32le(0)) {
        content.features = names(u64::from(bits), F2FS);
    }
    content.size = sb.u64le(36)?.checked_mul(1 << block_bits);
    found(offset, content)
}
