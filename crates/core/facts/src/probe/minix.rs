//! Minix file systems of three versions. Their mark is short, so the numbers
//! around it have to fit together. Layout: include/uapi/linux/minix_fs.h.

use super::{Found, Reader, filesystem, found};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(1024, 64)?;
    let (version, block) = match (sb.u16le(16)?, sb.u16le(24)?) {
        (0x137f | 0x138f, _) => (1, 1024),
        (0x2468 | 0x2478, _) => (2, 1024),
        (_, 0x4d5a) => (3, u64::from(sb.u16le(28)?)),
        _ => return None,
    };
    let wide = version == 3;
    let inodes = if wide { u64::from(sb.u32le(0)?) } else { u64::from(sb.u16le(0)?) };
    let zones = match version {
        1 => u64::from(sb.u16le(2)?),
        _ => u64::from(sb.u32le(20)?),
    };
    let at = if wide { 6 } else { 4 };
    let (imap, zmap, first, log) = (
        u64::from(sb.u16le(at)?),
        u64::from(sb.u16le(at + 2)?),
        u64::from(sb.u16le(at + 4)?),
        sb.u16le(at + 6)?,
    );
    let inode_size = if version == 1 { 32 } else { 64 };
    let bits = block.checked_mul(8).filter(|b| *b >= 8192 && block.is_power_of_two())?;
    let needed = 2 + imap + zmap + (inodes * inode_size).div_ceil(block);
    let fits = inodes > 0
        && imap * bits > inodes
        && zmap * bits >= zones.saturating_sub(first)
        && (first == 0 || (first >= needed && first <= zones))
        && log == 0;
    fits.then_some(())?;
    let mut content = filesystem("minix");
    content.version = Some(version.to_string());
    content.block_size = Some(block);
    content.size = zones.checked_mul(block);
    found(1024, content)
}
