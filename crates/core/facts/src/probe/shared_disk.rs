//! File systems that several hosts mount at once: OCFS2 and GFS2. Layouts:
//! the kernel's fs/ocfs2/ocfs2_fs.h and include/uapi/linux/gfs2_ondisk.h.

use super::{Found, Reader, filesystem, found, set_label};

pub(super) fn probe_ocfs2(reader: &Reader<'_>) -> Option<Found> {
    [1024u64, 2048, 4096, 8192].into_iter().find_map(|offset| {
        let sb = reader.at(offset, 512)?;
        if !sb.has(0, b"OCFSV2") {
            return None;
        }
        let mut content = filesystem("ocfs2");
        set_label(&mut content, sb.cstr(272, 64)?);
        content.uuid = sb.uuid(336);
        content.block_size = Some(offset / 2);
        found(offset, content)
    })
}

pub(super) fn probe_gfs2(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(64 << 10, 512)?;
    let format = sb.u32be(24)?;
    if sb.u32be(0)? != 0x0116_1970 || sb.u32be(4)? != 1 || !(1800..1900).contains(&format) {
        return None;
    }
    let mut content = filesystem("gfs2");
    set_label(&mut content, sb.cstr(160, 64)?);
    content.uuid = sb.uuid(256);
    content.block_size = sb.u32be(36).map(u64::from);
    found(64 << 10, content)
}
