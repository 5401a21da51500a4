//! JFS. Layout: the kernel's fs/jfs/jfs_superblock.h.

use super::{Found, Reader, filesystem, found, set_label};

const OFFSET: u64 = 32 << 10;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(OFFSET, 512)?;
    let (block, bits) = (sb.u32le(16)?, sb.u16le(20)?);
    let (physical, physical_bits) = (sb.u32le(24)?, sb.u16le(28)?);
    let matching = |size: u32, bits: u16| 1u32.checked_shl(u32::from(bits)) == Some(size);
    if !sb.has(0, b"JFS1") || !matching(block, bits) || !matching(physical, physical_bits) || block < 512 {
        return None;
    }
    let mut content = filesystem("jfs");
    content.uuid = sb.uuid(136);
    set_label(&mut content, sb.cstr(152, 16)?.trim_ascii_end());
    content.version = sb.u32le(4).map(|v| v.to_string());
    content.block_size = Some(u64::from(block));
    content.size = sb.u64le(8)?.checked_mul(u64::from(physical));
    content.state = Some(if sb.u32le(40)? == 0 { "clean" } else { "not cleanly unmounted" }.to_owned());
    found(OFFSET, content)
}
