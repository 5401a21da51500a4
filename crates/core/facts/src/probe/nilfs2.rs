//! NILFS2. Layout: the kernel's include/uapi/linux/nilfs2_ondisk.h.

use super::{Found, Reader, filesystem, found, set_label};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(1024, 1024)?;
    let (length, bits) = (usize::from(sb.u16le(8)?), sb.u32le(20)?);
    if sb.u16le(6)? != 0x3434 || !(256..=1024).contains(&length) || bits > 6 {
        return None;
    }
    let mut content = filesystem("nilfs2");
    content.uuid = sb.uuid(152);
    set_label(&mut content, sb.cstr(168, 80)?);
    content.version = Some(format!("{}.{}", sb.u32le(0)?, sb.u16le(4)?));
    content.block_size = Some(1024 << bits);
    content.size = sb.u64le(32);
    found(1024, content)
}
