//! bcache and bcachefs, which share the place and shape of their superblock.
//! Layout: the kernel's bcache_ondisk.h and bcachefs_format.h.

use super::{Block, Found, Reader, filesystem, found, set_label};
use crate::record::{Content, ContentKind};

const BCACHE: [u8; 16] =
    [0xc6, 0x85, 0x73, 0xf6, 0x4e, 0x1a, 0x45, 0xca, 0x82, 0x65, 0xf5, 0x7f, 0x48, 0xba, 0x6d, 0x81];
const BCACHEFS: [u8; 16] =
    [0xc6, 0x85, 0x73, 0xf6, 0x66, 0xce, 0x90, 0xa9, 0xd9, 0x6a, 0x60, 0xcf, 0x80, 0x3d, 0xf7, 0xef];
const OFFSET: u64 = 4096;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = superblock(reader, &BCACHE)?;
    let role = match sb.u64le(16)? {
        1 | 4 | 6 => "backing",
        0 | 3 | 5 => "cache",
        _ => return None,
    };
    let mut content = Content::new(ContentKind::CacheMember, Some("bcache"));
    content.uuid = sb.uuid(40);
    content.set_uuid = sb.uuid(56);
    set_label(&mut content, sb.cstr(72, 32)?);
    content.state = Some(format!("{role} device"));
    found(OFFSET, content)
}

pub(super) fn probe_bcachefs(reader: &Reader<'_>) -> Option<Found> {
    // bcachefs began with the magic of bcache and versions from 10 on.
    let sb = superblock(reader, &BCACHEFS)
        .or_else(|| superblock(reader, &BCACHE).filter(|sb| sb.u16le(16).is_some_and(|v| v >= 10)))?;
    let mut content = filesystem("bcachefs");
    content.uuid = sb.uuid(56);
    set_label(&mut content, sb.cstr(72, 32)?);
    content.block_size = sb.u16le(120).map(|sectors| u64::from(sectors) * 512);
    content.num_devices = sb.u8(123).map(u64::from);
    content.version = sb.u16le(16).map(|v| format!("{}.{}", v >> 10, v & 0x3ff));
    found(OFFSET, content)
}

/// The superblock when it carries the magic and says that it stands here.
fn superblock(reader: &Reader<'_>, magic: &[u8; 16]) -> Option<Block> {
    let sb = reader.at(OFFSET, 512)?;
    let offset = if magic == &BCACHE { sb.u64le(8)? } else { sb.u64le(104)? };
    (sb.has(24, magic) && offset == OFFSET / 512).then_some(sb)
}
